"""The pages on a phone: nothing scrolls sideways, and the Desk shows its picture."""

import pytest
from playwright.sync_api import expect

#: What is wider than the page, but for what scrolls in a box of its own.
TOO_WIDE = """() => document.documentElement.scrollWidth <= innerWidth ? [] :
  [...document.querySelectorAll("body *")].filter((one) => one.getBoundingClientRect().right > innerWidth + 1)
    .slice(0, 5).map((one) => `${one.tagName} ${one.className} ${one.id}`)"""


@pytest.fixture
def phone(desk):
    desk.set_viewport_size({"width": 390, "height": 844})
    yield desk
    desk.set_viewport_size({"width": 1280, "height": 800})


def test_no_page_scrolls_sideways(phone):
    desk = phone.url
    phone.goto("/")
    phone.get_by_role("link", name="Last Tram").first.click()
    production = phone.url
    phone.goto("/cast/")
    phone.get_by_role("link").filter(has=phone.get_by_text("Odalys", exact=True)).first.click()
    chart = phone.url
    shot = desk.removesuffix("desk")
    pages = [
        "/", "/cast/", "/jobs/", "/archive", "/productions/new", "/account/password/change/",
        production, desk, shot, chart,
        *(f"{production}{name}" for name in ("edit", "takes", "script", "pronunciations", "handover", "record")),
        *(f"{shot}{name}" for name in ("sound", "handover", "import", "set")),
        *(f"{chart}{name}" for name in ("place", "check", "starter")),
    ]  # fmt: skip
    wide = {}
    for page in pages:
        phone.goto(page)
        phone.wait_for_load_state("load")
        if found := phone.evaluate(TOO_WIDE):
            wide[page] = found
    assert wide == {}


def test_the_picture_stays_in_sight_while_the_rest_is_looked_through(phone):
    picture = phone.locator("#stage .picture")
    expect(picture).to_be_in_viewport()
    phone.locator("#sheet-tools").scroll_into_view_if_needed()
    expect(picture).to_be_in_viewport()
    phone.get_by_role("button", name="Play", exact=True).click()
    expect(phone.locator("#frame")).not_to_have_text("0001")
