"""Every step of the cast, by mouse and by keyboard alone, as a person does it."""

import json

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.conftest import AXE, WORK_MS
from tests.browser.step import check_step
from tests.browser.test_sheet import settled
from tests.pictures import encoded, huge_png, mouths, on_ground, page
from tinfork.core.mouths.style import MOODS, Style

PICTURES = mouths(Style(kind="muzzle"))


def upload(name, data):
    return {"name": name, "mimeType": "application/octet-stream", "buffer": data}


def fourteen():
    return [upload(f"{n:02d}.png", encoded(p)) for n, p in PICTURES.items()]


def new_character(page, name):
    page.goto("/cast/")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_role("button", name="Make the character").click()
    page.wait_for_url("**/charts/*/")


def bring(page, files, count):
    page.locator("#files").set_input_files(files)
    expect(page.locator(".drawing")).to_have_count(count, timeout=WORK_MS)


def open_chart(page, name="Odalys"):
    page.goto("/cast/")
    page.get_by_role("link").filter(has=page.get_by_text(name, exact=True)).click()
    page.wait_for_selector("html[data-chart=ready]")


def card(page, number):
    return page.locator(f'.drawing[data-number="{number}"]')


def coverage(page):
    return page.locator('[data-part="coverage"]')


@pytest.fixture
def chart(signed_in):
    """A new character with fourteen drawings that somebody brought, and no sounds on them."""
    page = signed_in
    new_character(page, "Pim")
    bring(page, fourteen(), 14)
    page.wait_for_selector("html[data-chart=ready]")
    return page


def test_a_chart_is_brought_matched_tried_and_checked(chart):
    page = chart
    expect(coverage(page)).to_have_text("no drawing shows a sound yet")
    page.get_by_role("button", name="Propose sounds").click()
    expect(page.get_by_role("dialog").get_by_role("checkbox")).to_have_count(14)
    page.get_by_role("dialog").get_by_role("checkbox").nth(6).uncheck()
    page.get_by_role("button", name="Lay these sounds").click()
    expect(coverage(page)).to_have_text("14 of 15 groups have a drawing")
    expect(page.locator(".chip.stand-in")).to_have_text("≈ l")
    page.get_by_label("A sentence to try").fill("Loaves and more loaves.")
    page.get_by_role("button", name="Say it").click()
    expect(page.locator('[data-part="gaps"]')).to_contain_text("1 group of sounds shown by the nearest drawing: l")
    page.get_by_role("link", name="Check").click()
    expect(page.get_by_text("Nothing to mend.")).to_be_visible(timeout=WORK_MS)


@pytest.mark.alone
def test_the_mouth_of_a_tried_sentence_is_the_one_due_at_the_sound_clock(signed_in):
    page = signed_in
    open_chart(page)
    with page.expect_response("**/say") as waiting:
        page.get_by_role("button", name="Say it").click()
    holds = waiting.value.json()["holds"]
    seen = page.evaluate(
        """async () => {
          const audio = document.querySelector(".try audio");
          const root = document.querySelector(".try");
          const out = [];
          while (!audio.currentTime) await new Promise((done) => setTimeout(done, 5));
          while (!audio.ended) {
            await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
            const shown = [...root.querySelectorAll(".mouths img")].filter((m) => !m.hidden).length;
            out.push([audio.currentTime, Number(root.dataset.drawing), Number(root.dataset.frame), shown]);
          }
          return out;
        }"""
    )
    drawing_on = [h["drawing"] for h in holds for _ in range(h["start"], h["end"])]
    pictures = [(clock, frame) for clock, _, frame, _ in seen[:-1]]
    check_step(pictures, lambda s: min(len(drawing_on) - 1, int(s * 24)))
    assert all(drawing == drawing_on[frame] and shown == 1 for _, drawing, frame, shown in seen[1:-2])


def test_sounds_are_laid_moved_and_taken_off_by_dragging(chart):
    page = chart
    page.locator("#pool-bilabial").drag_to(card(page, 2).locator(".picture"))
    expect(card(page, 2).locator(".chip.whole")).to_have_text("p b m")
    page.locator("#pool-m").drag_to(card(page, 1).locator(".picture"))
    expect(card(page, 1).locator(".chip").filter(has_text="m")).to_have_text("m")
    expect(card(page, 2).locator(".chip.whole")).to_have_text("p b")
    card(page, 1).locator("button.chip").drag_to(card(page, 14).locator(".picture"))
    expect(card(page, 14).locator("button.chip")).to_have_text("m")
    card(page, 14).locator("button.chip").drag_to(page.locator(".pool h2"))
    expect(card(page, 14).locator("button.chip")).to_have_count(0)
    page.reload()
    expect(card(page, 2).locator(".chip.whole")).to_have_text("p b m")


def test_drawings_are_put_in_order_by_dragging(chart):
    page = chart
    card(page, 14).locator(".picture").drag_to(card(page, 1).locator(".picture"))
    expect(page.locator(".drawing .no").first).to_have_text("14")
    page.reload()
    expect(page.locator(".drawing .no").first).to_have_text("14")


def test_the_keyboard_alone_lays_takes_off_orders_and_renames(chart):
    page = chart
    page.locator("#pool-rest").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator("#pool-bilabial")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("#said")).to_contain_text("bilabial in hand")
    card(page, 1).locator(".picture").focus()
    page.keyboard.press("ArrowRight")
    expect(card(page, 2).locator(".picture")).to_be_focused()
    page.keyboard.press("Enter")
    chip = card(page, 2).locator("button.chip")
    expect(chip).to_have_text("p b m")
    expect(page.locator("#pool-bilabial")).to_be_focused()
    # A drawing that a sound is laid on is not opened by it.
    expect(page.get_by_role("region", name="Drawing 2")).to_have_count(0)
    chip.focus()
    page.keyboard.press("Delete")
    expect(chip).to_have_count(0)
    expect(card(page, 2).locator(".picture")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Drawing 2")).to_be_visible()
    page.get_by_label("Name", exact=True).fill("pressed lips")
    page.keyboard.press("Enter")
    expect(card(page, 2).locator(".name")).to_have_text("pressed lips")
    page.get_by_role("button", name="Later", exact=True).focus()
    page.keyboard.press("Enter")
    expect(page.locator(".drawing .no").nth(2)).to_have_text("2")
    card(page, 1).locator(".picture").focus()
    page.keyboard.press("v")
    expect(card(page, 14)).to_have_attribute("aria-current", "true")
    expect(page.get_by_role("region", name="Drawing 14")).to_be_visible()


def test_escape_lets_a_sound_go(chart):
    page = chart
    page.locator("#pool-open").focus()
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    card(page, 3).locator(".picture").click()
    expect(page.get_by_role("region", name="Drawing 3")).to_be_visible()
    expect(card(page, 3).locator("button.chip")).to_have_count(0)


def test_a_sound_laid_by_someone_else_is_not_lost(chart, context):
    page = chart
    other = context.new_page()
    other.goto(page.url)
    other.locator("#pool-open").drag_to(card(other, 14).locator(".picture"))
    expect(card(other, 14).locator(".chip.whole")).to_have_text("æ a ɑ")
    page.locator("#pool-rest").drag_to(card(page, 14).locator(".picture"))
    expect(card(page, 14).locator("button.chip")).to_have_count(2)


def test_two_forms_of_one_drawing_keep_what_was_typed(chart, context):
    page = chart
    card(page, 5).locator(".picture").click()
    other = context.new_page()
    other.goto(page.url)
    card(other, 5).locator(".picture").click()
    other.get_by_label("Name", exact=True).fill("theirs")
    other.keyboard.press("Enter")
    expect(card(other, 5).locator(".name")).to_have_text("theirs")
    page.get_by_label("Name", exact=True).fill("ours")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="Someone changed drawing 5")).to_be_visible()
    expect(page.get_by_label("Name", exact=True)).to_have_value("ours")
    page.get_by_label("Name", exact=True).press("Enter")
    expect(card(page, 5).locator(".name")).to_have_text("ours")


def test_wrong_files_are_named_and_the_page_stays(signed_in):
    page = signed_in
    new_character(page, "Wrong files")
    bring(page, [upload("good.png", encoded(PICTURES[1])), upload("huge.png", huge_png())], 1)
    expect(page.get_by_text("“huge.png” is more than 36 million pixels")).to_be_visible()
    page.locator("#files").set_input_files([upload(f"{n}.png", b"x") for n in range(500)])
    expect(page.get_by_role("alert").filter(has_text="500 files; at most 200")).to_be_visible()
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
    browser.get_by_role("button", name="Merge the chosen").click()
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
    browser.get_by_role("button", name="Cut them out").click()
    expect(browser.locator(".drawing")).to_have_count(14, timeout=WORK_MS)


def place_of(page):
    return {n: float(page.locator(f'[name="{n}"]').input_value()) for n in ("x", "y", "width", "angle")}


def test_the_mouth_is_placed_by_handles_numbers_and_keys(chart):
    page = chart
    page.get_by_role("link", name="Place").click()
    page.wait_for_selector("html[data-place=ready]")
    start = place_of(page)
    frame = page.locator(".frame").bounding_box()
    middle = (frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 60, middle[1] - 30, steps=5)
    page.mouse.up()
    expect(page.get_by_text("Saved.")).to_be_visible()
    moved = place_of(page)
    assert moved["x"] > start["x"] + 3
    assert moved["y"] < start["y"] - 3
    corner = page.get_by_role("button", name="Scale").bounding_box()
    page.mouse.move(corner["x"] + 6, corner["y"] + 6)
    page.mouse.down()
    page.mouse.move(corner["x"] + 60, corner["y"] + 46, steps=5)
    page.mouse.up()
    assert place_of(page)["width"] > start["width"] * 1.1
    page.get_by_role("button", name="Turn").focus()
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    assert place_of(page)["angle"] == 5
    page.locator('[name="y"]').fill("70")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Saved.")).to_be_visible()
    kept = place_of(page)
    page.reload()
    page.wait_for_selector("html[data-place=ready]")
    assert place_of(page) == kept
    assert kept["y"] == 70


def test_drawings_are_lined_up_by_a_pixel_against_the_onion_skin_and_flipped(chart):
    page = chart
    page.get_by_role("link", name="Place").click()
    page.wait_for_selector("html[data-place=ready]")
    page.locator("#stage").focus()
    page.keyboard.press("v")
    expect(page.locator('[data-part="number"]')).to_have_text("14")
    mouth = page.locator('[data-part="mouth"] img')
    before = mouth.bounding_box()
    for key in ("ArrowRight", "Shift+ArrowRight", "ArrowUp"):
        page.keyboard.press(key)
    expect(page.locator('[name="offset_x"]')).to_have_value("11")
    expect(page.locator('[name="offset_y"]')).to_have_value("-1")
    scale = before["width"] / 400
    assert mouth.bounding_box()["x"] - before["x"] == pytest.approx(11 * scale, abs=0.2)
    expect(page.locator('[data-part="skin"] img')).to_have_count(1)
    shown = mouth.get_attribute("src")
    page.keyboard.press(" ")
    assert mouth.get_attribute("src") != shown
    expect(page.locator('[data-part="skin"] img')).to_have_count(0)
    page.keyboard.press(" ")
    assert mouth.get_attribute("src") == shown
    expect(page.get_by_text("Saved.")).to_be_visible()
    page.reload()
    page.wait_for_selector("html[data-place=ready]")
    page.get_by_role("button", name="14").click()
    expect(page.locator('[name="offset_x"]')).to_have_value("11")
    page.get_by_role("button", name="Zero the offset").click()
    expect(page.locator('[name="offset_x"]')).to_have_value("0")


def test_a_planted_fault_is_found_with_its_measure_and_mended_with_a_click(chart):
    page = chart
    bring_back = upload("14.png", encoded(on_ground(PICTURES[14])))
    page.get_by_label("replace drawings by the number").check()
    page.locator("#files").set_input_files([bring_back])
    page.wait_for_timeout(300)
    expect(page.locator(".job")).to_have_count(0, timeout=WORK_MS)
    page.get_by_role("link", name="Check").click()
    finding = page.locator(".findings li").filter(has_text="opaque")
    expect(finding).to_contain_text("one plain colour to the edge")
    finding.get_by_role("button", name="Make the ground transparent").click()
    expect(page.locator(".findings li").filter(has_text="opaque")).to_have_count(0, timeout=WORK_MS)


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
    page.get_by_role("button", name="Put them into").click()
    expect(page.locator(".drawing")).to_have_count(8)
    expect(coverage(page)).to_have_text("15 of 15 groups have a drawing")


def test_a_mood_is_made_and_shown_on_a_stretch_of_the_shot(desk):
    page = desk
    here = page.url
    open_chart(page)
    page.get_by_text("+ set").click()
    page.get_by_label("A new set").fill("merry")
    page.get_by_role("button", name="Add the set").click()
    page.get_by_role("link", name="Starter chart").click()
    page.get_by_role("button", name="glad", exact=True).click()
    page.get_by_role("button", name="Put them into").click()
    expect(page.locator(".drawing")).to_have_count(14)
    page.goto(here)
    page.wait_for_selector("html[data-desk=ready]")
    starts = [h["start"] for h in document(page)["holds"]]
    page.get_by_role("button", name="Dials").click()
    page.locator("select[name=chart]").select_option(label="merry")
    page.get_by_role("form", name="Show a set on some frames").locator("input[name=first]").fill("20")
    page.get_by_role("form", name="Show a set on some frames").locator("input[name=last]").fill("60")
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
    page.get_by_role("button", name="Dials").click()
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
    page.get_by_label("A character's archive").set_input_files(archive)
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
    press(page, page.get_by_role("button", name="Put them into"), "Enter")
    expect(page.locator(".drawing")).to_have_count(14)
    page.wait_for_selector("html[data-chart=ready]")
    press(page, page.locator('.drawing[data-number="2"] button.chip'), "Delete")
    expect(coverage(page)).to_have_text("14 of 15 groups have a drawing")
    press(page, page.get_by_label("A sentence to try"), "Enter")
    expect(page.locator('[data-part="gaps"]')).to_contain_text("p b m")
    press(page, page.get_by_role("link", name="Check", exact=True), "Enter")
    mend = page.get_by_role("button", name="Lay the sounds on drawing")
    expect(mend).to_be_visible(timeout=WORK_MS)
    press(page, mend, "Enter")
    expect(page.get_by_text("Nothing to mend.")).to_be_visible(timeout=WORK_MS)
    press(page, page.get_by_role("link", name="Sounds", exact=True), "Enter")
    expect(coverage(page)).to_have_text("15 of 15 groups have a drawing")
    press(page, page.locator(".drop-down summary"), "Enter")
    press(page, page.get_by_label("A new set"), *"sad", "Enter")
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
