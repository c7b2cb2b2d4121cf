"""A shot is worked on with fingers alone, and with the keyboard alone."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESKS, open_desk

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


def hold(page, x, y):
    """A finger is held still."""
    session = page.context.new_cdp_session(page)
    session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
    page.wait_for_selector("#note:focus")
    session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def test_fingers_play_pin_take_back_and_write_a_note(tablet):
    play = tablet.get_by_role("button", name="Play")
    frame = tablet.locator("#frame")
    play.tap()
    expect(frame).not_to_have_text("0001")
    tablet.locator('[data-do="play"]').tap()
    sheet = tablet.locator("#sheet").bounding_box()
    undo = tablet.get_by_role("button", name="Undo")
    expect(undo).to_be_disabled()
    tablet.touchscreen.tap(sheet["x"] + sheet["width"] / 2, sheet["y"] + 160)
    tablet.locator("#tray [data-drawing]").nth(5).tap()
    expect(undo).to_be_enabled()
    undo.tap()
    expect(undo).to_be_disabled()
    # What a double click does, a finger does that is held still.
    hold(tablet, sheet["x"] + sheet["width"] - 20, sheet["y"] + 200)
    tablet.keyboard.insert_text("turn here")
    tablet.keyboard.press("Enter")
    expect(undo).to_be_enabled()
    undo.tap()
    expect(undo).to_be_disabled()


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
