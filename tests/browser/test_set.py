"""The guide beside a stop-motion set: by key, touch and link, and without a connection."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import open_desk


def shown(page):
    """The numbers on the three cards of the first column."""
    return page.locator(".column").first.locator("figcaption").all_inner_texts()


def open_guide(page):
    open_desk(page, "020 The counter")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Guide at the set").click()
    page.wait_for_selector("html[data-set=ready]")
    page.keyboard.press("Home")


def test_the_guide_shows_each_hold_with_what_comes_and_sounds_each_step(signed_in):
    page = signed_in
    open_desk(page, "020 The counter")
    holds = page.evaluate("JSON.parse(document.querySelector('#desk-document').textContent).characters[0].holds")
    drawings = page.evaluate("JSON.parse(document.querySelector('#desk-document').textContent).characters[0].drawings")
    numbers = {drawing["id"]: str(drawing["number"]) for drawing in drawings}
    open_guide(page)
    at = next(n for n, hold in enumerate(holds) if n and hold["end"] - hold["start"] >= 2)
    for _ in range(at):
        page.keyboard.press("ArrowDown")
    frame = holds[at]["start"]
    expect(page.locator("html")).to_have_attribute("data-frame", str(frame))
    assert shown(page) == [numbers[holds[n]["drawing"]] for n in (at - 1, at, at + 1)]
    more = holds[at]["end"] - frame - 1
    expect(page.locator(".column").first.locator("figure[data-at='0'] .left")).to_have_text(f"{more} more")
    page.keyboard.press("PageDown")
    expect(page.locator("html")).to_have_attribute("data-sounded", str(frame + 1))
    box = page.locator("#columns").bounding_box()
    page.mouse.click(box["x"] + 10, box["y"] + 10)
    expect(page.locator("html")).to_have_attribute("data-frame", str(frame))


def test_it_goes_on_where_it_stopped_and_works_without_a_connection(signed_in):
    page = signed_in
    open_guide(page)
    page.get_by_label("Go to frame").fill("12")
    page.keyboard.press("Enter")
    page.keyboard.press("m")
    page.keyboard.press("m")
    expect(page.locator("#shot-count")).to_have_text(re.compile(r"^2 of \d+ shot$"))
    page.reload()
    page.wait_for_selector("html[data-set=ready]")
    expect(page.locator("#of")).to_contain_text("frame 14 of")
    page.context.set_offline(True)
    try:
        page.keyboard.press("ArrowRight")
        expect(page.locator("html")).to_have_attribute("data-sounded", "14")
        assert page.evaluate("[...document.images].every((i) => i.hidden || !i.src || i.naturalWidth > 0)")
    finally:
        page.context.set_offline(False)
    for back in (12, 13):
        page.get_by_label("Go to frame").fill(str(back))
        page.keyboard.press("Enter")
        page.keyboard.press("m")
    expect(page.locator("#shot-count")).to_have_text(re.compile("^0 of"))


def test_one_link_opens_it_on_a_tablet_without_an_account(signed_in, browser, base_url):
    page = signed_in
    open_guide(page)
    page.get_by_role("button", name="Link for a tablet").click()
    page.wait_for_url("**/set/**/")
    stranger = browser.new_context(base_url=base_url, viewport={"width": 800, "height": 1100}, has_touch=True)
    try:
        tablet = stranger.new_page()
        tablet.goto(page.url)
        tablet.wait_for_selector("html[data-set=ready]")
        tablet.get_by_role("button", name="Next frame").tap()
        expect(tablet.locator("html")).to_have_attribute("data-sounded", "1")
        assert tablet.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
        # Nothing else opens with it, and a link that was bent opens nothing.
        assert tablet.goto(re.sub(r"/set/.*", "/", page.url)).url.endswith("/account/login/?next=/")
        assert tablet.goto(page.url[:-3] + "x/").status == 404
    finally:
        stranger.close()
