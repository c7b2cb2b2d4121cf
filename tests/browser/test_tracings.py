"""Drawings that were traced again take turns on the Stage; a set of drawings leaves, and comes in again."""

import io
import re

from PIL import Image
from playwright.sync_api import expect

from tests.browser.casting import card, open_chart, upload
from tests.browser.conftest import WORK_MS, open_desk
from tests.browser.test_flow import download

#: The addresses of the mouth's pictures that are seen.
SEEN = """() => [...document.querySelectorAll("#stage .figure .mouth")]
  .filter((one) => !one.hidden && getComputedStyle(one).visibility !== "hidden").map((one) => one.src)"""


def inspected(page, number):
    """A drawing's form."""
    card(page, number).locator(".picture").click()
    form = page.get_by_label(f"Drawing {number}", exact=True)
    expect(form).to_be_visible()
    return form


def test_a_drawing_that_was_traced_again_takes_turns_with_its_tracing(signed_in):
    page = signed_in
    open_chart(page)
    form = inspected(page, 1)
    wide, high = map(int, re.findall(r"\d+", form.locator(".mono").last.inner_text()))
    out = io.BytesIO()
    Image.new("RGBA", (4 * wide, 4 * high), (200, 0, 0, 255)).save(out, "PNG")
    with page.expect_navigation():
        form.get_by_label("Add tracings").set_input_files(upload("again.png", out.getvalue()))
    # The page shows the job, until it is done.
    expect(page.locator(".job")).to_have_count(0, timeout=WORK_MS)
    page.wait_for_selector("html[data-chart=ready]")
    remove = page.get_by_role("button", name="Remove 1 tracing")
    inspected(page, 1)
    expect(remove).to_be_visible()
    open_desk(page, "020 The counter")
    page.keyboard.press("Home")
    seen = []
    for _ in range(6):
        page.wait_for_function("() => [...document.images].every((image) => image.complete)")
        seen.append(page.evaluate(SEEN))
        page.keyboard.press("ArrowRight")
    assert all(len(one) == 1 for one in seen)
    assert ["tracing=1" in one[0] for one in seen] == [False, False, True, True, False, False]
    open_chart(page)
    inspected(page, 1)
    with page.expect_navigation():
        remove.click()
    page.wait_for_selector("html[data-chart=ready]")
    inspected(page, 1)
    expect(remove).to_have_count(0)


def test_a_face_that_was_traced_again_takes_turns_on_the_stage(signed_in):
    page = signed_in
    open_chart(page)
    page.get_by_role("link", name="Character", exact=True).click()
    here = page.url
    size = page.locator(".face-now img").evaluate("(image) => [image.naturalWidth, image.naturalHeight]")
    out = io.BytesIO()
    Image.new("RGBA", tuple(size), (0, 120, 200, 90)).save(out, "PNG")
    tracings = page.get_by_label("Tracings of this face")
    tracings.set_input_files(upload("again.png", out.getvalue()))
    page.get_by_role("button", name="Add tracings").click()
    remove = page.get_by_role("button", name="Remove 1 tracing of the face")
    expect(remove).to_be_visible(timeout=WORK_MS)
    open_desk(page, "020 The counter")
    page.keyboard.press("Home")
    seen = []
    for _ in range(6):
        page.wait_for_function("() => [...document.images].every((image) => image.complete)")
        seen.append(page.evaluate(SEEN.replace(".mouth", ".face")))
        page.keyboard.press("ArrowRight")
    assert [["tracing=1" in one for one in all_] for all_ in seen] == [
        [n] for n in (False, False, True, True, False, False)
    ]
    page.goto(here)
    remove.click()
    expect(remove).to_have_count(0)


def test_a_set_leaves_as_an_archive_and_comes_in_again(signed_in):
    page = signed_in
    open_chart(page)
    page.get_by_text("New set", exact=True).click()
    data = download(page, page.get_by_role("link", name="Export “calm”").click)
    page.locator("#set-archive").set_input_files(upload("calm.zip", data))
    page.get_by_role("button", name="Import set").click()
    expect(page.get_by_text("The set “calm 2” was imported with 14 drawings.")).to_be_visible(timeout=WORK_MS)
    sets = page.get_by_role("navigation", name="Sets")
    expect(sets.get_by_role("link", name="calm 2")).to_have_attribute("aria-current", "true")
    expect(page.locator(".drawing")).to_have_count(14)
    page.get_by_text("New set", exact=True).click()
    page.get_by_text("Remove “calm 2” and its drawings").click()
    page.get_by_role("button", name="Remove set").click()
    expect(sets.get_by_role("link", name="calm 2")).to_have_count(0)
