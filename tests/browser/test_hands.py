"""A shot is worked on with fingers alone, and with the keyboard alone."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESKS, open_desk
from tests.browser.test_lens import lane, reading, x_of

SHOT = "020 The counter"


@pytest.fixture
def tablet(signed_in, browser, base_url):
    """A tablet that is held upright: no mouse, no keys."""
    open_desk(signed_in, SHOT)
    context = browser.new_context(base_url=base_url, viewport={"width": 768, "height": 1024}, has_touch=True)
    context.add_cookies(signed_in.context.cookies())
    page = context.new_page()
    page.goto(DESKS[SHOT])
    page.wait_for_selector("html[data-desk=ready]")
    yield page
    context.close()


def hold(page, x, y, until):
    """A finger is held still until something is there."""
    session = page.context.new_cdp_session(page)
    session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
    page.wait_for_selector(until)
    session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def test_fingers_correct_a_word_pin_take_back_and_play(tablet):
    # What a double click does, a finger does that is held still: a word is typed anew.
    word = reading(tablet)["words"][0]
    hold(tablet, x_of(tablet, (word["start"] + word["end"]) / 2), lane(tablet, 0), "#wordwork [data-part=text]:focus")
    expect(tablet.locator("#wordwork [data-part=text]")).to_have_value(word["text"])
    tablet.get_by_role("form", name="Word or sound").locator("[data-word=close]").tap()
    undo = tablet.get_by_role("button", name="Undo")
    expect(undo).to_be_disabled()
    sheet = tablet.locator("#sheet").bounding_box()
    tablet.touchscreen.tap(sheet["x"] + sheet["width"] / 2, sheet["y"] + 160)
    tablet.locator("#tray [data-drawing]").nth(5).tap()
    expect(undo).to_be_enabled()
    undo.tap()
    expect(undo).to_be_disabled()
    frame = tablet.locator("#frame")
    shown = frame.text_content()
    tablet.locator('[data-do="play"]').tap()
    expect(frame).not_to_have_text(shown)
    tablet.locator('[data-do="play"]').tap()


def tab_to(page, name):
    """Tab until the focus is on what has this name."""
    for _ in range(80):
        page.keyboard.press("Tab")
        if (
            page.evaluate(
                "() => (document.activeElement.getAttribute('aria-label') || document.activeElement.textContent).trim()"
            )
            == name
        ):
            return
    raise AssertionError(f"Tab never comes to {name}")


def test_keys_alone_go_from_the_productions_to_a_file(signed_in):
    open_desk(signed_in, SHOT)
    page = signed_in
    page.goto("/")
    tab_to(page, "Productions")
    for _ in range(40):
        page.keyboard.press("Tab")
        if "Last Tram" in page.evaluate("() => document.activeElement.textContent"):
            break
    page.keyboard.press("Enter")
    page.wait_for_url("**/productions/*/")
    tab_to(page, SHOT)
    page.keyboard.press("Enter")
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("Space")
    expect(page.locator("#frame")).not_to_have_text("0001")
    page.keyboard.press("Space")
    page.keyboard.press("v")
    undo = page.get_by_role("button", name="Undo")
    expect(undo).to_be_enabled()
    page.keyboard.press("Control+z")
    expect(undo).to_be_disabled()
    tab_to(page, "Hand over")
    page.keyboard.press("Enter")
    page.wait_for_url("**/handover*")
    page.goto(re.sub(r"handover.*", "handover?as=csv", page.url))
    with page.expect_download() as download:
        tab_to(page, "Download .csv")
        page.keyboard.press("Enter")
    assert download.value.suggested_filename.endswith(".csv")


def test_focus_stays_where_it_was_while_a_list_is_told_anew(signed_in):
    open_desk(signed_in, SHOT)
    page = signed_in
    page.goto("/productions/1/")
    # The list as it is while something in it is worked on: asked for again each second.
    page.evaluate(
        """() => {
          const list = document.querySelector("#shots");
          list.setAttribute("hx-get", location.pathname + "shots");
          list.setAttribute("hx-trigger", "load");
          list.setAttribute("hx-swap", "outerHTML");
          document.querySelector("#shots tbody a").focus();
          list.dataset.old = "yes";
          window.htmx.process(list);
        }"""
    )
    page.wait_for_selector("#shots:not([data-old])")
    expect(page.locator("#shots tbody a").first).to_be_focused()
