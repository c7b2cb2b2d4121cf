"""The cast: characters with a name, a starter chart, moods; exported, imported, archived; by mouse and by keyboard
alone.
"""

import json

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.casting import PICTURES, card, coverage, new_character, open_chart, upload, upload_files
from tests.browser.conftest import AXE, WORK_MS
from tests.browser.test_sheet import settled
from tests.pictures import encoded, huge_png, page
from tinfork.core.mouths.style import MOODS


def test_wrong_files_are_named_and_the_page_stays(signed_in):
    page = signed_in
    new_character(page, "Wrong files")
    upload_files(page, [upload("good.png", encoded(PICTURES[1])), upload("huge.png", huge_png())], 1)
    expect(page.get_by_text("“huge.png” has more than 36 million pixels")).to_be_visible()
    page.locator("#files").set_input_files([upload(f"{n}.png", b"x") for n in range(500)])
    expect(page.get_by_role("alert").filter(has_text="500 files; the limit is 200")).to_be_visible()
    page.locator("#files").set_input_files([upload("fake.png", b"<html>")])
    expect(page.get_by_role("alert").filter(has_text="“fake.png” is not a picture")).to_be_visible(timeout=WORK_MS)
    expect(page.locator(".drawing")).to_have_count(1)


def test_a_page_is_cut_up_by_mouse_and_keyboard(signed_in):
    browser = signed_in
    new_character(browser, "Cut")
    places = [(20 + (i % 5) * 320, 20 + (i // 5) * 220) for i in range(14)]
    sheet = encoded(page(PICTURES.values(), places, (1800, 800)))
    browser.locator("#page-file").set_input_files([upload("all.png", sheet)])
    browser.wait_for_url("**/pages/*/", timeout=WORK_MS)
    browser.wait_for_selector("html[data-cut=ready]")
    boxes = browser.locator("[data-box]")
    expect(boxes).to_have_count(14)
    boxes.nth(0).click()
    boxes.nth(1).click(modifiers=["Shift"])
    browser.get_by_role("button", name="Merge selected boxes").click()
    expect(boxes).to_have_count(13)
    boxes.nth(12).focus()
    before = boxes.nth(12).bounding_box()
    browser.keyboard.press("ArrowRight")
    browser.keyboard.press("Shift+ArrowDown")
    after = boxes.nth(12).bounding_box()
    assert after["x"] > before["x"]
    assert after["height"] > before["height"]
    browser.keyboard.press("Delete")
    expect(boxes).to_have_count(12)
    area = browser.locator(".page-of-drawings").bounding_box()
    browser.mouse.move(area["x"] + area["width"] - 12, area["y"] + area["height"] - 12)
    browser.mouse.down()
    browser.mouse.move(area["x"] + area["width"] - 90, area["y"] + area["height"] - 70, steps=4)
    browser.mouse.up()
    expect(boxes).to_have_count(13)
    browser.keyboard.press("Delete")
    slider = browser.locator('[data-part="gap"]')
    slider.focus()
    browser.keyboard.press("ArrowRight")
    expect(boxes).to_have_count(14)
    browser.get_by_role("button", name="Cut out drawings").click()
    expect(browser.locator(".drawing")).to_have_count(14, timeout=WORK_MS)


def test_the_starter_chart_is_chosen_by_look_and_put_in(signed_in):
    page = signed_in
    new_character(page, "Starter")
    page.get_by_role("link", name="starter chart", exact=True).click()
    first = page.locator("#preview img").first
    before = first.get_attribute("src")
    page.get_by_text("beak", exact=True).click()
    expect(first).not_to_have_attribute("src", before)
    page.get_by_role("button", name="sad", exact=True).click()
    expect(page.locator('[name="lift"]')).to_have_value(str(MOODS["sad"].lift))
    page.locator('.choice input[value="8"]').check(force=True)
    expect(page.locator("#preview li")).to_have_count(8)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Download SVG and PNG").click()
    assert waiting.value.suggested_filename.endswith(".zip")
    page.get_by_role("button", name="Add to").click()
    expect(page.locator(".drawing")).to_have_count(8)
    expect(coverage(page)).to_have_text("15 of 15 sound groups have a drawing")


def test_a_mood_is_made_and_shown_on_a_stretch_of_the_shot(desk):
    page = desk
    here = page.url
    open_chart(page)
    page.get_by_text("New set", exact=True).click()
    page.get_by_label("Name of the new set").fill("merry")
    page.get_by_role("button", name="Add set").click()
    page.get_by_role("link", name="Starter chart").click()
    page.get_by_role("button", name="glad", exact=True).click()
    page.get_by_role("button", name="Add to").click()
    expect(page.locator(".drawing")).to_have_count(14)
    page.goto(here)
    page.wait_for_selector("html[data-desk=ready]")
    starts = [h["start"] for h in document(page)["holds"]]
    page.get_by_role("button", name="Settings").click()
    page.locator("select[name=chart]").select_option(label="merry")
    page.get_by_role("form", name="Show a set on a range of frames").locator("input[name=first]").fill("20")
    page.get_by_role("form", name="Show a set on a range of frames").locator("input[name=last]").fill("60")
    page.get_by_role("button", name="Set", exact=True).click()
    settled(page)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    shot = document(page)
    glad = {d["id"] for d in shot["drawings"] if d["set"] == "merry"}
    assert [h["drawing"] in glad for h in shot["holds"]] == [19 <= h["start"] < 60 for h in shot["holds"]]
    assert set(starts) <= {h["start"] for h in shot["holds"]} | {19, 60}
    for _ in range(30):
        page.keyboard.press("ArrowRight")
    expect(page.locator('#tray [data-part="why"]')).to_contain_text("of the set merry")
    page.get_by_role("button", name="Settings").click()
    # What is selected is what a set is shown on.
    page.locator("#sheet").focus()
    page.keyboard.press("Control+a")
    page.locator("select[name=chart]").select_option(label="calm")
    page.get_by_role("button", name="Set", exact=True).click()
    settled(page)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    assert [h["start"] for h in document(page)["holds"]] == starts


def document(page):
    return json.loads(page.locator("#desk-document").text_content())["characters"][0]


def test_a_character_is_exported_imported_archived_and_deleted(signed_in, tmp_path):
    page = signed_in
    open_chart(page, "Brindle")
    page.get_by_role("link", name="Character").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Export").click()
    archive = tmp_path / "Brindle the second.zip"
    waiting.value.save_as(archive)
    page.goto("/cast/")
    page.get_by_label("Character archive").set_input_files(archive)
    page.get_by_role("button", name="Import").click()
    expect(page.locator(".drawing")).to_have_count(14, timeout=WORK_MS)
    page.get_by_role("link", name="Character").click()
    page.get_by_role("button", name="Archive", exact=True).click()
    expect(page.get_by_text("archived", exact=True)).to_be_visible()
    page.get_by_role("button", name="Delete", exact=True).click()
    page.wait_for_url("**/cast/")
    expect(page.get_by_text("Brindle the second")).to_have_count(0)


@pytest.mark.parametrize("theme", AXE)
def test_no_page_of_the_cast_has_a_fault_that_axe_finds(signed_in, theme):
    page = signed_in
    page.emulate_media(color_scheme=theme)
    open_chart(page)
    here = page.url
    card(page, 3).locator(".picture").click()
    page.get_by_role("region", name="Drawing 3").wait_for()
    faults = []
    for address in ("", "place", "check", "starter", "edit"):
        if address == "edit":
            page.get_by_role("link", name="Character").click()
        elif address:
            page.goto(here + address)
        found = Axe().run(page, options=AXE[theme]).response["violations"]
        faults += [(address, v["id"], [n["html"][:140] for n in v["nodes"]][:3]) for v in found]
    assert not faults


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768)])
def test_the_chart_page_fits_without_scrolling_sideways(signed_in, size):
    page = signed_in
    page.set_viewport_size({"width": size[0], "height": size[1]})
    open_chart(page)
    here = page.url
    for address in ("", "place", "check", "starter"):
        page.goto(here + address)
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), address


def press(page, locator, *keys):
    """Focus a control as Tab would, and press keys: no mouse."""
    locator.focus()
    for key in keys:
        page.keyboard.press(key)


def test_from_a_name_to_a_mended_chart_without_a_mouse(signed_in):
    page = signed_in
    page.goto("/cast/")
    press(page, page.get_by_label("Name", exact=True), *"Keys", "Enter")
    page.wait_for_url("**/charts/*/")
    press(page, page.get_by_role("link", name="Starter chart", exact=True), "Enter")
    page.wait_for_url("**/starter")
    press(page, page.locator('[name="kind"][value="soft"]'), "ArrowRight")
    expect(page.locator('[name="kind"][value="square"]')).to_be_checked()
    press(page, page.locator('[name="weight"]'), "ArrowRight", "ArrowRight")
    press(page, page.get_by_role("button", name="Add to"), "Enter")
    expect(page.locator(".drawing")).to_have_count(14)
    page.wait_for_selector("html[data-chart=ready]")
    press(page, page.locator('.drawing[data-number="2"] button.chip'), "Delete")
    expect(coverage(page)).to_have_text("14 of 15 sound groups have a drawing")
    press(page, page.get_by_label("Sentence to try"), "Enter")
    expect(page.locator('[data-part="gaps"]')).to_contain_text("p b m")
    press(page, page.get_by_role("link", name="Check", exact=True), "Enter")
    mend = page.get_by_role("button", name="Move the sounds to drawing ")
    expect(mend).to_be_visible(timeout=WORK_MS)
    press(page, mend, "Enter")
    expect(page.get_by_text("Nothing to fix.")).to_be_visible(timeout=WORK_MS)
    press(page, page.get_by_role("link", name="Sounds", exact=True), "Enter")
    expect(coverage(page)).to_have_text("15 of 15 sound groups have a drawing")
    press(page, page.locator(".drop-down summary"), "Enter")
    press(page, page.get_by_label("Name of the new set"), *"sad", "Enter")
    expect(page.get_by_role("navigation", name="Sets").get_by_role("link")).to_have_text(["calm", "sad"])


def test_files_dropped_anywhere_on_the_page_come_in(signed_in):
    page = signed_in
    new_character(page, "Dropped")
    page.wait_for_selector("html[data-chart=ready]")
    page.evaluate(
        """(bytes) => {
          const carried = new DataTransfer();
          carried.items.add(new File([new Uint8Array(bytes)], "07 round.png"));
          document.querySelector(".empty").dispatchEvent(
            new DragEvent("drop", { dataTransfer: carried, bubbles: true, cancelable: true }));
        }""",
        list(encoded(PICTURES[11])),
    )
    expect(page.locator('.drawing[data-number="7"] .name')).to_have_text("round", timeout=WORK_MS)
