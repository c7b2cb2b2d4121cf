"""A chart of drawings: what sounds they show, their order, place and faults; by mouse and by keyboard alone."""

import pytest
from playwright.sync_api import expect

from tests.browser.casting import PICTURES, card, coverage, fourteen, new_character, open_chart, upload, upload_files
from tests.browser.conftest import WORK_MS
from tests.browser.step import check_step
from tests.pictures import encoded, on_ground


@pytest.fixture
def chart(signed_in):
    """A new character with fourteen drawings that somebody uploaded, and no sounds on them."""
    page = signed_in
    new_character(page, "Pim")
    upload_files(page, fourteen(), 14)
    page.wait_for_selector("html[data-chart=ready]")
    return page


def test_a_chart_is_brought_matched_tried_and_checked(chart):
    page = chart
    expect(coverage(page)).to_have_text("No drawing has sounds yet")
    page.get_by_role("button", name="Suggest sounds for unmatched drawings").click()
    expect(page.get_by_role("dialog").get_by_role("checkbox")).to_have_count(14)
    page.get_by_role("dialog").get_by_role("checkbox").nth(6).uncheck()
    page.get_by_role("button", name="Assign these sounds").click()
    expect(coverage(page)).to_have_text("14 of 15 sound groups have a drawing")
    expect(page.locator(".chip.stand-in")).to_have_text("≈ l")
    page.get_by_label("Sentence to try").fill("Loaves and more loaves.")
    page.get_by_role("button", name="Preview speech").click()
    expect(page.locator('[data-part="gaps"]')).to_contain_text("1 group of sounds shown by the closest drawing: l")
    page.get_by_role("link", name="Check").click()
    expect(page.get_by_text("Nothing to fix.")).to_be_visible(timeout=WORK_MS)


@pytest.mark.alone
def test_the_mouth_of_a_tried_sentence_is_the_one_due_at_the_sound_clock(signed_in):
    page = signed_in
    open_chart(page)
    with page.expect_response("**/say") as waiting:
        page.get_by_role("button", name="Preview speech").click()
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
    expect(page.locator("#said")).to_contain_text("bilabial selected")
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
    page.get_by_role("button", name="Reset offset").click()
    expect(page.locator('[name="offset_x"]')).to_have_value("0")


def test_a_planted_fault_is_found_with_its_measure_and_mended_with_a_click(chart):
    page = chart
    bring_back = upload("14.png", encoded(on_ground(PICTURES[14])))
    page.get_by_label("Replace drawings with the same number").check()
    with page.expect_navigation():
        page.locator("#files").set_input_files([bring_back])
    expect(page.locator(".job")).to_have_count(0, timeout=WORK_MS)
    page.get_by_role("link", name="Check").click()
    finding = page.locator(".findings li").filter(has_text="opaque")
    expect(finding).to_contain_text("one plain colour to the edge")
    finding.get_by_role("button", name="Make the background transparent").click()
    expect(page.locator(".findings li").filter(has_text="opaque")).to_have_count(0, timeout=WORK_MS)
