"""A director gets a link, says what they want on a frame, and approves; the animator finds it on the Desk."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import WORK_MS, open_desk

SHOT = "030 The oven"


def test_from_the_link_to_the_desk_and_back_to_a_yes(signed_in, browser, base_url):
    desk = open_desk(signed_in, SHOT).url
    page = signed_in
    page.goto("/productions/1/reviews")
    page.get_by_label("Who is it for").fill("Ms Kettle")
    page.get_by_label("Shots").select_option(label=SHOT)
    page.get_by_role("button", name="Create link").click()
    link = page.get_by_label("Review link").input_value()

    # A director's phone, without an account.
    phone = browser.new_context(base_url=base_url, viewport={"width": 390, "height": 844}, has_touch=True)
    visitor = phone.new_page()
    troubles = []
    visitor.on("pageerror", lambda error: troubles.append(str(error)))
    visitor.goto(link)
    visitor.locator("#film").wait_for(timeout=WORK_MS)
    visitor.wait_for_function("() => document.querySelector('#film').readyState >= 3")
    assert visitor.evaluate("() => document.documentElement.scrollWidth <= 390")
    where = visitor.locator("#where")
    expect(where).to_have_text(f"{SHOT} · 0001")
    for _ in range(3):
        visitor.get_by_role("button", name="Next frame").tap()
    expect(where).to_have_text(f"{SHOT} · 0004")
    # What is said to be seen is what the film is at.
    assert visitor.evaluate("() => Math.floor(document.querySelector('#film').currentTime * 24)") == 3
    visitor.get_by_role("button", name="Play").tap()
    expect(where).not_to_have_text(f"{SHOT} · 0004")
    visitor.get_by_role("button", name="Pause").tap()
    visitor.locator("#at").fill("20")
    expect(where).to_have_text(f"{SHOT} · 0021")
    visitor.get_by_label("Your name").fill("Ms Kettle")
    visitor.get_by_role("textbox", name="Remark on").fill("Wider here, please")
    visitor.get_by_role("button", name="Add remark").tap()
    expect(visitor.locator("#remarks li")).to_have_count(1)
    visitor.get_by_role("button", name="Request changes").tap()
    expect(visitor.locator("#verdict")).to_have_text("Changes requested")

    # On the Desk it is the first second look; it leads to its frame, and is settled there.
    page.goto(desk)
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("n")
    expect(page.locator("#frame")).to_have_text("0021")
    expect(page.locator("#tray")).to_contain_text("Ms Kettle: “Wider here, please”")
    page.keyboard.press("/")
    expect(page.locator("html[data-waiting='0']")).to_have_count(1)
    page.goto(re.sub("desk$", "remarks", desk))
    expect(page.get_by_text("settled", exact=False).first).to_be_visible()
    page.get_by_label("Answer").fill("Done")
    page.get_by_role("button", name="Answer").click()

    visitor.reload()
    expect(visitor.locator("#remarks")).to_contain_text("demo: Done")
    visitor.get_by_role("button", name="Approve").tap()
    expect(visitor.locator("#verdict")).to_have_text("Approved")
    page.reload()
    expect(page.get_by_text("Approved")).to_be_visible()

    page.goto("/productions/1/reviews")
    page.get_by_role("button", name="Withdraw").first.click()
    visitor.reload()
    expect(visitor.get_by_role("heading", name="This link does not open any more")).to_be_visible()
    assert not troubles
    phone.close()
