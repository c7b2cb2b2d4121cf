"""Moving heads, faces and parts on the Stage: by dragging, by number, by keys, performed as it plays, and by rule."""

import json
import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import open_desk
from tests.browser.test_handover import saved
from tests.browser.test_lens import take_back


@pytest.fixture
def moving(signed_in):
    """The Desk of one character with a part in hand; what was done is taken back."""
    page = open_desk(signed_in, "020 The counter")
    page.keyboard.press("F7")
    expect(page.get_by_role("form", name="Move a part")).to_be_visible()
    page.get_by_text("Suggest acting").click()
    page.get_by_role("button", name="Clear").click()
    saved(page)
    page.get_by_text("Suggest acting").click()
    page.evaluate("document.activeElement.blur()")
    yield page
    take_back(page)


def go(page, frame):
    """The playhead on a frame, counted from 0."""
    page.keyboard.press("Home")
    for _ in range(frame):
        page.keyboard.press("ArrowRight")


def fill(page, name, value):
    field = page.locator(f"#moving [name={name}]")
    field.fill(str(value))
    field.blur()
    saved(page)


def transform(page, of=".figure > .moved"):
    """The six numbers of what is moved, as the browser has them."""
    text = page.locator(f"#stage {of}").first.evaluate("e => getComputedStyle(e).transform")
    return (
        [float(n) for n in re.findall(r"-?[\d.]+(?:e-?\d+)?", text.removeprefix("matrix"))] if text != "none" else None
    )


def keys(page):
    """How many keys each part says it has."""
    names = page.locator("#moving [data-moves]").evaluate_all("all => all.map((b) => [b.dataset.moves, b.textContent])")
    return {part: int((re.findall(r" (\d+)$", text) or [0])[0]) for part, text in names}


def motion(page):
    """All keys of the character, by what moves, as the server has them."""
    html = page.evaluate("fetch(location.pathname).then((answer) => answer.text())")
    document = json.loads(re.search(r"desk-document[^>]*>([^<]*)<", html)[1])
    (parts,) = document["motion"].values()
    return parts


def test_a_head_is_turned_by_number_goes_on_between_keys_and_is_undone(moving):
    page = moving
    go(page, 10)
    fill(page, "turn", 0)
    page.get_by_role("button", name="Set key").click()
    go(page, 20)
    fill(page, "turn", 30)
    assert keys(page)["head"] == 2
    a, b, *_ = transform(page)
    assert (round(a, 3), round(b, 3)) == (0.866, 0.5)
    go(page, 15)
    a, b, *_ = transform(page)
    assert (round(a, 3), round(b, 3)) == (0.966, 0.259)
    page.locator("#moving [name=way]").select_option("hold")
    saved(page)
    assert transform(page) is None
    page.evaluate("document.activeElement.blur()")
    for _ in range(3):
        page.keyboard.press("Control+z")
    saved(page)
    assert keys(page)["head"] == 0


def test_a_mouth_is_dragged_larger_and_stays_so_on_its_frames_alone(moving):
    page = moving
    page.get_by_role("button", name="mouth", exact=True).click()
    page.evaluate("document.activeElement.blur()")
    go(page, 30)
    page.keyboard.press("Enter")
    go(page, 36)
    figure = page.locator("#stage .figure").first.bounding_box()
    middle = figure["x"] + figure["width"] / 2, figure["y"] + figure["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 30, middle[1] + 12, steps=4)
    page.mouse.up()
    saved(page)
    assert keys(page)["mouth"] == 2
    x, y = (float(page.locator(f"#moving [name={n}]").input_value()) for n in ("x", "y"))
    assert abs(x - 3000 / figure["height"]) < 0.4
    assert abs(y - 1200 / figure["height"]) < 0.4
    go(page, 30)
    assert float(page.locator("#moving [name=x]").input_value()) == 0
    # The keys are copied, moved a frame and taken away by the Sheet's own keys.
    page.keyboard.press("Shift+PageDown")
    expect(page.locator("#frame")).to_have_text("0037")
    page.keyboard.press("Alt+ArrowDown")
    saved(page)
    expect(page.locator("#frame")).to_have_text("0038")
    page.keyboard.press("Control+c")
    go(page, 50)
    page.keyboard.press("Control+v")
    saved(page)
    assert keys(page)["mouth"] == 3
    page.keyboard.press("Backspace")
    saved(page)
    assert keys(page)["mouth"] == 2


def test_a_shape_is_laid_on_one_hold_of_the_mouth_and_stays_when_it_is_solved_anew(moving):
    page = moving
    page.get_by_role("button", name="mouth", exact=True).click()
    page.evaluate("document.activeElement.blur()")
    go(page, 60)
    hold = page.evaluate(
        """() => {
          const holds = JSON.parse(document.querySelector("#desk-document").textContent).characters[0].holds;
          return holds.find((h) => h.start <= 60 && 60 < h.end);
        }"""
    )
    fill(page, "size", 60)
    page.get_by_role("button", name="On this hold").click()
    saved(page)
    wanted = sorted({hold["start"] - 2, hold["start"], hold["end"] - 1, hold["end"] + 1})
    rows = motion(page)["mouth"]
    assert [k["frame"] for k in rows] == wanted
    assert [k["pose"][5] for k in rows] == [60 if hold["start"] <= f < hold["end"] else 0 for f in wanted]
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Escape")
    page.keyboard.press("F7")
    page.keyboard.press("v")
    saved(page)
    assert motion(page)["mouth"] == rows
    page.keyboard.press("F7")


def test_acting_is_proposed_by_rule_tried_again_and_what_is_locked_stays(moving):
    page = moving
    page.get_by_text("Suggest acting").click()
    page.get_by_role("button", name="Suggest", exact=True).click()
    expect(page.get_by_text("Change one to make it your own")).to_be_visible()
    saved(page)
    first = motion(page)
    page.get_by_role("button", name="Try another").click()
    saved(page)
    second = motion(page)
    assert first != second
    assert any(key["by"].startswith("blink") for part in first.values() for key in part)
    assert any("accent on" in key["by"] for key in first["head"])
    page.get_by_text("Suggest acting").click()
    page.get_by_role("button", name="Lock", exact=True).click()
    page.locator("#moving [name=turn]").fill("5")
    page.locator("#moving [name=turn]").blur()
    expect(page.locator("#trouble")).to_contain_text("is locked")
    page.get_by_role("button", name="Lock", exact=True).click()
    moved = next(k["frame"] for k in second["head"] if k["pose"][1] > 1)
    page.evaluate("document.activeElement.blur()")
    go(page, moved)
    assert transform(page) is not None
    page.get_by_role("button", name="Hide", exact=True).click()
    assert transform(page) is None
    page.get_by_role("button", name="Hide", exact=True).click()


def perform(page, far=40, moves=24):
    """The pointer to and fro on the character, from frame 5 on; the frame on which it began."""
    go(page, 5)
    figure = page.locator("#stage .figure").first.bounding_box()
    x, y = figure["x"] + figure["width"] / 2, figure["y"] + figure["height"] / 2
    page.keyboard.press(" ")
    page.wait_for_function("() => Number(document.querySelector('#stage').dataset.frame) > 7")
    page.mouse.move(x, y)
    page.mouse.down()
    begun = int(page.locator("#stage").get_attribute("data-frame"))
    for n in range(moves):
        page.mouse.move(x + far * (1 if n % 12 < 6 else -1), y)
        page.wait_for_timeout(40)
    page.mouse.up()
    page.keyboard.press("k")
    saved(page)
    return begun


def live(page):
    page.get_by_role("button", name="Live").click()
    page.evaluate("document.activeElement.blur()")


def test_a_pass_has_a_note_of_its_own(moving):
    page = moving
    note = page.locator("#moving [name=note]")
    note.fill("less on “counter”")
    note.blur()
    saved(page)
    page.get_by_role("group", name="What moves").get_by_role("button", name="mouth").click()
    expect(note).to_have_value("")
    head = page.get_by_role("group", name="What moves").get_by_role("button", name="head")
    expect(head).to_have_attribute("title", re.compile("less on “counter”"))
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("F7")
    expect(note).to_have_value("less on “counter”")


@pytest.mark.alone
def test_a_head_is_performed_with_the_pointer_while_it_plays(moving):
    page = moving
    live(page)
    begun = perform(page)
    count = keys(page)["head"]
    assert 3 <= count <= 40
    head = motion(page)["head"]
    assert abs(head[0]["frame"] - begun) <= 6
    assert max(k["pose"][0] for k in head) > 3 and min(k["pose"][0] for k in head) < -3
    assert not any(k["by"] for k in head)


@pytest.mark.alone
def test_of_several_performances_one_is_kept_and_mixed_with_what_was_there(moving):
    page = moving
    page.evaluate("document.activeElement.blur()")
    go(page, 5)
    fill(page, "y", 12)
    before = motion(page)["head"]
    page.evaluate("document.activeElement.blur()")
    live(page)
    perform(page, 40)
    perform(page, 15, 12)
    takes = page.locator("#moving [data-take]")
    expect(takes).to_have_text(["1", "2"])
    expect(takes.nth(1)).to_have_attribute("aria-pressed", "true")
    second = motion(page)["head"]
    takes.nth(0).click()
    saved(page)
    first = motion(page)["head"]

    def widest(keys):
        return max(abs(k["pose"][0]) for k in keys)

    assert widest(first) > widest(second) > 1
    # What was performed twice is not laid down twice: the second take is as it was.
    takes.nth(1).click()
    saved(page)
    assert motion(page)["head"] == second
    blend = page.get_by_label("blend")
    blend.fill("0")
    blend.blur()
    saved(page)
    none = motion(page)["head"]
    assert widest(none) == 0
    assert {k["pose"][1] for k in none} == {k["pose"][1] for k in before}
    # Whatever else is done to the column ends the choice: acting that is proposed, too.
    page.get_by_text("Suggest acting").click()
    page.get_by_role("button", name="Suggest", exact=True).click()
    expect(takes).to_have_count(0)
    saved(page)


@pytest.mark.alone
def test_it_is_counted_in_before_a_performance_and_stopped_by_playing_again(moving):
    page = moving
    live(page)
    page.get_by_label("count in").check()
    page.evaluate("document.activeElement.blur()")
    go(page, 5)
    count = page.locator("#stage .count-in")
    page.keyboard.press(" ")
    expect(count).to_have_text("4")
    page.keyboard.press(" ")
    expect(count).to_be_hidden()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press(" ")
    expect(count).to_have_text("1")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    expect(count).to_be_hidden()
    page.keyboard.press("k")
