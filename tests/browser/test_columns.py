"""Other columns of the Sheet and words by keys alone: several characters, eyes, sets, dials, words moved and added."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.casting import open_chart, upload, upload_files
from tests.browser.conftest import WORK_MS, open_desk
from tests.browser.test_lens import lens, reading, take_back, tap  # noqa: F401
from tests.browser.test_sheet import drawn, pins
from tests.pictures import encoded, mouths

S = 1_000_000


@pytest.fixture
def cast(signed_in):
    """The Desk of a shot of three characters; what was pinned is let go."""
    page = open_desk(signed_in, "040 The last loaf")
    yield page
    take_back(page)
    assert not any(pins(page, who) for who in range(3))


def to_word(page, nth):
    """The playhead on a word, by keys; the word."""
    word = reading(page)["words"][nth]
    page.keyboard.press("Home")
    for _ in range(word["start"] * 24 // S + 2):
        page.keyboard.press("ArrowRight")
    return word


def test_mouths_go_to_another_character_by_their_sounds(cast):
    page = cast
    page.keyboard.press("Shift+ArrowDown")
    for _ in range(30):
        page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Control+c")
    page.keyboard.press("Escape")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator('.tabs [aria-pressed="true"]')).to_have_text(re.compile("Brindle"))
    page.keyboard.press("Home")
    page.keyboard.press("Control+v")
    own = drawn(page, 0)[:30]
    theirs = drawn(page, 1)[:30]
    assert pins(page, 0) == []
    assert pins(page, 1)[0][0] == 0
    # Other drawings, which change where the copied ones do.
    assert not set(own) & set(theirs)
    changes = [n for n in range(1, 30) if own[n] != own[n - 1]]
    assert len(changes) > 3
    assert [n for n in range(1, 30) if theirs[n] != theirs[n - 1]] == changes


def test_every_column_is_written_at_once_where_the_selection_goes_over_them(cast):
    page = cast
    page.keyboard.press("PageDown")
    first = int(page.locator("#stage").get_attribute("data-frame") or 24)
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press(".")
    assert pins(page, 0) == [(first, first + 3)]
    assert set(drawn(page)[first : first + 3]) == {0}


@pytest.fixture
def eyes(signed_in):
    """The Desk of a character that has eyes, which somebody brought; they are gone again after it."""
    page = signed_in
    open_chart(page)
    page.get_by_role("link", name="Character", exact=True).click()
    character = page.url
    page.get_by_label("Name of the part").fill("Lids")
    page.get_by_label("Kind of part").select_option("eyes")
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("link", name="Place", exact=True).wait_for()
    upload_files(page, [upload(f"{n}.png", encoded(mouths()[n])) for n in (1, 10, 12)], 3)
    yield open_desk(page, "020 The counter")
    page.goto(character)
    page.get_by_role("button", name="Remove Lids").click()
    page.get_by_role("button", name="Remove Lids").wait_for(state="detached")


#: The column of the part that was made last.
LIDS = -1


def test_eyes_have_a_column_with_keys_of_its_own(eyes):
    page = eyes
    page.get_by_role("button", name="Lids", exact=True).click()
    other = page.locator("#tray .mouths li").nth(1)
    key = other.locator("kbd").text_content().lower()
    page.keyboard.press("Home")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press(key)
    assert pins(page, LIDS) == [(0, 2)]
    assert drawn(page, LIDS)[1:3] == [int(other.get_attribute("data-drawing")), drawn(page, LIDS)[-1]]
    assert pins(page, 0) == []
    page.keyboard.press("Control+c")
    page.keyboard.press("Escape")
    page.keyboard.press("PageDown")
    page.keyboard.press("Control+v")
    assert len(pins(page, LIDS)) == 2
    for _ in range(2):
        page.keyboard.press("Control+z")
    assert pins(page, LIDS) == []


@pytest.mark.alone
def test_eyes_are_tapped_while_it_plays(eyes):
    page = eyes
    page.get_by_role("button", name="Lids", exact=True).click()
    other = page.locator("#tray .mouths li").nth(1)
    page.keyboard.press("Home")
    down, up = tap(page, other.locator("kbd").text_content().lower())
    ((start, end),) = pins(page, LIDS)
    assert abs(start - (down - 80_000) * 24 / 1e6) < 2
    assert abs(end - (up - 80_000) * 24 / 1e6) < 2
    assert set(drawn(page, LIDS)[start:end]) == {int(other.get_attribute("data-drawing"))}
    assert pins(page, 0) == []
    page.keyboard.press("Control+z")
    assert pins(page, LIDS) == []


def test_dials_are_turned_by_keyboard_alone(cast):
    page = cast
    timing = page.locator('#lens [data-part="timing"]')
    expect(timing).to_have_text("lead 1 · shortest 2")
    page.keyboard.press("Control+.")
    expect(page.get_by_label("Lead")).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(timing).to_have_text("lead 2 · shortest 2")
    page.keyboard.press("Control+.")
    expect(page.get_by_label("Lead")).to_be_hidden()
    page.keyboard.press("Control+z")
    expect(timing).to_have_text("lead 1 · shortest 2")


def test_words_lines_and_sounds_move_by_keys(lens):  # noqa: F811
    page = lens
    word = to_word(page, 1)
    line = [n for n, w in enumerate(reading(page)["words"]) if w["line"] == word["line"]]

    def moved(key):
        before = reading(page)["words"]
        page.keyboard.press(key)
        now = reading(page)["words"]
        return {
            n: (b["start"] - a["start"], b["end"] - a["end"]) for n, (a, b) in enumerate(zip(before, now, strict=True))
            if (a["start"], a["end"]) != (b["start"], b["end"])
        }  # fmt: skip

    assert moved("Alt+ArrowRight")[1] == (10_000, 0)
    assert moved("Alt+ArrowLeft")[1] == (-10_000, 0)
    assert moved("Alt+Shift+ArrowLeft")[1] == (0, -10_000)
    assert moved("Control+ArrowRight")[1] == (10_000, 10_000)
    assert moved("Control+Shift+ArrowRight") == dict.fromkeys(line, (10000, 10000))
    assert moved("Control+Shift+ArrowLeft") == dict.fromkeys(line, (-10000, -10000))

    def starts():
        return [sound["start"] for sound in reading(page)["words"][1]["sounds"]]

    to_word(page, 1)
    page.keyboard.press("ArrowRight")
    before = starts()
    page.keyboard.press("Control+Alt+ArrowRight")
    now = starts()
    assert sorted(b - a for a, b in zip(before, now, strict=True))[-1] == 10_000
    assert sum(a != b for a, b in zip(before, now, strict=True)) == 1


def test_a_word_is_added_on_selected_frames_and_taken_out(lens):  # noqa: F811
    page = lens
    before = reading(page)["words"]
    # Where nothing is said: after the last word.
    page.keyboard.press("End")
    for _ in range(6):
        page.keyboard.press("Shift+ArrowUp")
    page.keyboard.press("Shift+F2")
    page.locator("#wordwork [data-part=text]").fill("bread")
    page.keyboard.press("Enter")
    now = reading(page)
    assert len(now["words"]) == len(before) + 1
    last = now["words"][-1]
    assert (last["text"], last["pinned"]) == ("bread", True)
    assert [sound["ipa"] for sound in last["sounds"]] == ["b", "ɹ", "ɛ", "d"]
    page.keyboard.press("Escape")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("F2")
    page.locator("#wordwork [data-part=text]").fill("")
    page.keyboard.press("Enter")
    assert [w["text"] for w in reading(page)["words"]] == [w["text"] for w in before]


def test_the_spectrogram_is_drawn_under_the_waveform_and_gone_again(lens):  # noqa: F811
    page = lens
    canvas = page.locator("#lens canvas")
    button = page.get_by_role("button", name="Spectrogram")

    def picture():
        return canvas.evaluate("(canvas) => canvas.toDataURL()")

    plain = picture()
    page.keyboard.press("Control+i")
    expect(button).to_have_attribute("aria-pressed", "true")
    page.wait_for_function("(was) => document.querySelector('#lens canvas').toDataURL() !== was", arg=plain)
    drawn_once = picture()
    page.keyboard.press("Control+i")
    expect(button).to_have_attribute("aria-pressed", "false")
    page.wait_for_function("(was) => document.querySelector('#lens canvas').toDataURL() !== was", arg=drawn_once)


def test_a_set_with_a_face_of_its_own_turns_the_head_on_the_stage(signed_in):
    page = signed_in
    open_chart(page)
    page.locator("details.drop-down summary").first.click()
    page.get_by_label("Name of the new set").fill("profile")
    page.get_by_role("button", name="Add set").click()
    page.get_by_role("navigation", name="Sets").get_by_role("link", name="profile").and_(
        page.locator("[aria-current]")
    ).wait_for()
    page.get_by_role("link", name="Place", exact=True).click()
    page.get_by_text("Face of “profile”").click()
    face = b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 300 400'><circle cx='150' cy='200' r='140'/></svg>"
    page.get_by_label("Face picture for this set").set_input_files(upload("profile.svg", face))
    page.get_by_role("button", name="Use this picture").click()
    page.get_by_text("Where a shot shows the set, the head changes").wait_for(timeout=WORK_MS)
    page.wait_for_selector("html[data-place=ready]")
    page.get_by_label("Across %").fill("70")
    page.get_by_label("Across %").blur()
    page.get_by_text("Saved.").wait_for()
    page = open_desk(page, "020 The counter")
    page.get_by_role("button", name="Settings", exact=True).click()
    form = page.get_by_role("form", name="Show a set on a range of frames")
    form.get_by_label("Show").select_option(label="profile")
    form.get_by_label("from").fill("1")
    form.get_by_label("to", exact=True).fill("10")
    form.get_by_role("button").click()
    seen = page.locator("#stage .figure .face:visible")
    expect(seen).to_have_attribute("src", re.compile("/cast/charts/"))
    box, mouth = seen.bounding_box(), page.locator("#stage .figure .mouth:visible").bounding_box()
    assert abs((mouth["x"] + mouth["width"] / 2 - box["x"]) / box["width"] - 0.7) < 0.02
    assert abs(box["height"] / box["width"] - 4 / 3) < 0.02
    page.keyboard.press("Escape")
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    expect(seen).to_have_attribute("src", re.compile("/cast/[0-9]+/"))
    page.keyboard.press("Control+z")
    open_chart(page)
    page.get_by_role("navigation", name="Sets").get_by_role("link", name="profile").click()
    page.locator("details.drop-down summary").first.click()
    page.get_by_text("Remove “profile” and its drawings").click()
    page.get_by_role("button", name="Remove set").click()
    page.get_by_role("navigation", name="Sets").get_by_role("link", name="profile").wait_for(state="detached")
