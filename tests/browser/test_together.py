"""A team at work: people come in by a link, shots move over the board, two are at one Desk, states are compared."""

import re
import urllib.error
import urllib.request

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.conftest import AXE, WORK_MS, open_desk
from tests.browser.test_phone import TOO_WIDE

SHOT = "040 The last loaf"


@pytest.fixture
def other(browser, base_url):
    """Another person's browser, on which no script error goes unseen."""
    context = browser.new_context(base_url=base_url, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.set_default_timeout(60_000)
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    yield page
    context.close()
    assert not troubles


def come_in(page, other, email, role="Animator"):
    """Somebody joins the studio by a link, with an account that they make on the way."""
    page.goto("/")
    page.get_by_role("link", name="People").click()
    page.get_by_label("Role", exact=True).select_option(label=role)
    page.get_by_role("button", name="Create invitation").click()
    link = page.get_by_label("Invitation link").input_value()
    other.goto(link)
    other.get_by_role("link", name="Create an account").click()
    other.get_by_label("Email").fill(email)
    other.get_by_label("Password", exact=True).fill("loaf-before-tram-9")
    other.get_by_role("button", name="Create account").click()
    other.get_by_role("heading", name=re.compile("Productions|You are invited")).wait_for()
    return link


def test_somebody_comes_in_by_a_link_and_both_are_at_one_desk(signed_in, other):
    page = signed_in
    link = come_in(page, other, "brindle@tinfork.example")
    # The link was for one.
    page.goto(link)
    expect(page.get_by_role("heading", name="This invitation does not work any more")).to_be_visible()
    desk = open_desk(page, SHOT).url
    # One of them hears by a stream that something was changed; the other has none, and asks.
    other.route("**/live/**", lambda route: route.abort())
    other.goto(desk)
    other.wait_for_selector("html[data-desk=ready]")
    # Each sees the other at their frame.
    expect(other.locator("#here")).to_contain_text("demo")
    expect(page.locator("#here")).to_contain_text("brindle")
    before = page.locator("#here span").evaluate("one => one.style.left")
    for _ in range(30):
        other.keyboard.press("ArrowDown")
    expect(page.locator("#here span")).not_to_have_attribute("style", f"left: {before};")
    # An edit is on the other screen within two seconds, without a reload.
    page.keyboard.press("v")
    expect(page.locator("html[data-waiting='0']")).to_have_count(1)
    other.locator("#holds [role=option]").first.wait_for(state="attached")
    mine = page.locator("#holds [role=option]").first.inner_text()
    expect(other.locator("#holds [role=option]").first).to_have_text(mine, timeout=4000)
    # A remark, too, with what was drawn; it is walked to, and settled.
    page.keyboard.press("Control+Shift+Enter")
    page.locator("#remark [name=text]").fill("Jaw lower, @brindle")
    page.get_by_role("button", name="Arrow", exact=True).click()
    box = page.locator("#stage .sketch").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.4, box["y"] + box["height"] * 0.6, steps=4)
    page.mouse.up()
    page.get_by_role("button", name="Add remark").click()
    expect(page.locator("#remark")).to_be_hidden()
    other.wait_for_function(
        "() => /^[1-9]/.test(document.querySelector('#tray .looks [data-part=count]').textContent)", timeout=4000
    )
    other.keyboard.press("n")
    expect(other.locator("#tray")).to_contain_text("demo: “Jaw lower, @brindle”")
    other.wait_for_function("""() => {
      const canvas = document.querySelector('#stage .sketch');
      const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
      return data.some((value, at) => at % 4 === 3 && value > 0);
    }""")
    other.keyboard.press("/")
    expect(other.locator("html[data-waiting='0']")).to_have_count(1)
    page.keyboard.press("Control+z")


def test_a_stream_tells_who_may_see_a_shot_that_it_was_changed(signed_in, ticket):
    page = open_desk(signed_in, SHOT)
    address = "http://localhost" + page.locator("#sheet-tools").get_attribute("data-live")
    cookie = "; ".join(f"{one['name']}={one['value']}" for one in ticket)

    def opened(where=address, **headers):
        asked = urllib.request.Request(where, headers={"Cookie": cookie, **headers})
        return urllib.request.urlopen(asked, timeout=30)

    for where, headers, status in (
        (address, {"Cookie": ""}, 404),
        (address, {"Cookie": "sessionid=nonsense"}, 404),
        (re.sub(r"\d+$", "9999", address), {}, 404),
        (address, {"Origin": "https://elsewhere.example"}, 403),
    ):
        with pytest.raises(urllib.error.HTTPError) as refused:
            opened(where, **headers)
        assert refused.value.code == status
    with opened() as stream:
        assert stream.headers["Content-Type"].startswith("text/event-stream")
        assert stream.readline() == b"event: open\n"
        page.keyboard.press("v")
        expect(page.locator("html[data-waiting='0']")).to_have_count(1)
        lines = iter(stream.readline, b"")
        assert next(line for line in lines if line.startswith(b"event")) == b"event: changed\n"
        # The revision: whoever has it already does not ask.
        assert re.fullmatch(rb"data:\d+\n", next(lines))
    page.keyboard.press("Control+z")
    expect(page.locator("html[data-waiting='0']")).to_have_count(1)


def test_a_director_draws_on_a_phone_and_states_are_compared_until_it_is_approved(signed_in, browser, base_url):
    desk = open_desk(signed_in, SHOT).url
    page = signed_in
    page.goto("/productions/1/reviews")
    page.get_by_label("Who is it for").fill("Ms Kettle")
    page.get_by_label("Shots").select_option(label=SHOT)
    page.get_by_role("button", name="Create link").click()
    link = page.get_by_label("Review link").input_value()
    phone = browser.new_context(base_url=base_url, viewport={"width": 390, "height": 844}, has_touch=True)
    visitor = phone.new_page()
    visitor.goto(link)
    visitor.locator("#film").wait_for(timeout=WORK_MS)
    visitor.wait_for_function("() => document.querySelector('#film').readyState >= 3")
    visitor.locator("#at").fill("12")
    visitor.get_by_role("button", name="From this frame").tap()
    visitor.locator("#at").fill("20")
    visitor.get_by_role("button", name="Pen").tap()
    visitor.locator("#sketch").scroll_into_view_if_needed()
    box = visitor.locator("#sketch").bounding_box()
    visitor.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] * 0.5)
    visitor.mouse.down()
    visitor.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.7, steps=6)
    visitor.mouse.up()
    visitor.get_by_label("Your name").fill("Ms Kettle")
    visitor.get_by_role("textbox", name="Remark on").fill("Rounder, along this line")
    visitor.get_by_role("button", name="Add remark").tap()
    expect(visitor.locator("#remarks .go")).to_have_text("0013–0021")
    visitor.get_by_role("button", name="Request changes").tap()
    expect(visitor.locator("#verdict")).to_have_text("Changes requested")
    assert visitor.evaluate(TOO_WIDE) == []
    assert not Axe().run(visitor, options=AXE["light"]).violations_count
    # The animator finds it with the picture of then, and changes the mouth.
    page.goto(re.sub("desk$", "remarks", desk))
    expect(page.get_by_text("frames 13–21")).to_be_visible()
    page.goto(f"{desk}#15")
    page.wait_for_selector("html[data-desk=ready]")
    expect(page.locator("#frame")).to_have_text("0015")
    page.keyboard.press(".")
    expect(page.locator("html[data-waiting='0']")).to_have_count(1)
    page.goto(re.sub("desk$", "remarks", desk))
    said = page.locator(".remark").filter(has_text="Rounder, along this line")
    expect(said.get_by_text("The mouths here were changed since.")).to_be_visible()
    expect(said.get_by_alt_text("The picture that is there now")).to_be_visible()
    # Before and after, in step; the frames that differ are marked.
    page.get_by_label("Before", exact=True).select_option(index=0)
    page.get_by_role("button", name="Compare").click()
    page.locator("#both").wait_for(timeout=WORK_MS)
    page.wait_for_function("() => document.querySelector('#film').readyState >= 3")
    page.get_by_role("button", name="Next difference").click()
    halves = """() => {
      const canvas = document.querySelector('#both');
      const { width, height } = canvas;
      const [a, b] = [0, width / 2].map((x) => canvas.getContext('2d').getImageData(x, 0, width / 2, height).data);
      return a.reduce((sum, value, at) => sum + (Math.abs(value - b[at]) > 40 ? 1 : 0), 0);
    }"""
    page.wait_for_function(f"({halves})() > 200")
    page.get_by_role("button", name="One over the other").click()
    page.get_by_label("Edge").fill("100")
    page.get_by_role("button", name="In turn").click()
    # What fades from one colour to another is looked at when it is there.
    page.emulate_media(reduced_motion="reduce")
    for size in (1280, 390):
        page.set_viewport_size({"width": size, "height": 844})
        assert page.evaluate(TOO_WIDE) == []
        found = Axe().run(page, options=AXE["light"])
        assert not found.violations_count, found.generate_report()
    page.set_viewport_size({"width": 1280, "height": 800})
    page.emulate_media(reduced_motion="no-preference")
    # And it is a yes.
    visitor.get_by_role("button", name="Approve").tap()
    expect(visitor.locator("#verdict")).to_have_text("Approved")
    page.goto("/productions/1/board")
    expect(page.locator("[data-status=approved]")).to_contain_text(SHOT)
    phone.close()
    page.goto(desk)
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("Control+z")
    expect(page.locator("html[data-waiting='0']")).to_have_count(1)


def test_a_card_is_dragged_to_a_status_and_a_place_and_many_are_changed_at_once(signed_in):
    page = signed_in
    page.goto("/productions/1/board")
    first = page.locator(".shot-card").first
    name = first.locator("a").first.inner_text()
    expect(first.locator("img")).to_have_attribute("src", re.compile("^blob:"), timeout=WORK_MS)
    first.drag_to(page.locator("[data-status=in_hand]"))
    expect(page.locator("[data-status=in_hand]")).to_contain_text(name)
    page.get_by_label(name, exact=True).check()
    page.get_by_role("combobox", name="Who").last.select_option(label="demo")
    page.get_by_role("combobox", name="Priority").select_option(label="High")
    page.get_by_role("button", name="Change the chosen shots").click()
    expect(page.locator(".is-high")).to_contain_text(name)
    page.goto("/")
    expect(page.get_by_role("heading", name="My work")).to_be_visible()
    expect(page.locator(".work-list .is-high")).to_contain_text(name)
    page.goto("/productions/1/board?as=list")
    page.get_by_label(name, exact=True).check()
    page.get_by_role("combobox", name="Who").last.select_option(label="nobody")
    page.get_by_role("combobox", name="Priority").select_option(label="Usual")
    page.get_by_role("combobox", name="Status").last.select_option(label="Waiting")
    page.get_by_role("button", name="Change the chosen shots").click()
    expect(page.locator(".wrong")).to_have_count(0)


def test_a_passkey_signs_in(signed_in, other):
    come_in(signed_in, other, "passkey@tinfork.example", "Viewer")
    session = other.context.new_cdp_session(other)
    session.send("WebAuthn.enable")
    session.send(
        "WebAuthn.addVirtualAuthenticator",
        {
            "options": {
                "protocol": "ctap2",
                "transport": "internal",
                "hasResidentKey": True,
                "hasUserVerification": True,
                "isUserVerified": True,
                "automaticPresenceSimulation": True,
            }
        },
    )
    other.goto("/account/two-factor/webauthn/add/")
    other.get_by_label("Password", exact=True).fill("loaf-before-tram-9")
    other.get_by_role("button", name="Confirm").click()
    other.get_by_label("Passwordless").check()
    other.get_by_role("button", name="Add").click()
    other.get_by_text("recovery codes", exact=False).first.wait_for()
    other.get_by_role("button", name="Sign out").click()
    other.goto("/account/login/")
    other.get_by_role("button", name="Sign in with a passkey").click()
    expect(other.get_by_role("heading", name="Productions")).to_be_visible()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_page_of_a_team_has_a_fault_that_axe_finds(signed_in, theme):
    page = signed_in
    page.evaluate("theme => localStorage.setItem('theme', theme)", theme)
    page.goto("/")
    page.get_by_role("link", name="People").click()
    people = page.url
    pages = [
        people, "/account/", "/account/delete", "/account/two-factor/", "/account/sessions/", "/account/email/",
        "/productions/1/board", "/productions/1/board?as=list", "/productions/1/reviews", "/shots/1/remarks",
            "/news", "/productions/1/activity", "/productions/1/",
    ]  # fmt: skip
    # What may differ in the dark does so at any width.
    for width in (1280, 390) if theme == "light" else (1280,):
        page.set_viewport_size({"width": width, "height": 844})
        for address in pages:
            page.goto(address)
            found = Axe().run(page, options=AXE[theme])
            assert not found.violations_count, f"{address} at {width}: {found.generate_report()}"
            assert page.evaluate(TOO_WIDE) == [], f"{address} at {width}"
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("localStorage.removeItem('theme')")
