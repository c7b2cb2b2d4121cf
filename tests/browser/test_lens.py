"""The Lens and hearing: words and sounds dragged, typed and chosen; frames sounded; mouths tapped."""

import json
from itertools import pairwise

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import open_desk
from tests.browser.test_sheet import pins, settled

LANE, GAP = 25, 3


def reading(page):
    """Words, with their sounds, as the server has them now."""
    settled(page)
    return page.evaluate(
        """async () => {
          const text = await (await fetch(location.href)).text();
          const told = new DOMParser().parseFromString(text, "text/html").querySelector("#desk-document").textContent;
          const { words } = JSON.parse(told);
          return { words };
        }"""
    )


def lane(page, nth):
    """The middle of the words' (0) or sounds' (1) lane, in the window."""
    box = page.locator("#lens canvas").bounding_box()
    top = box["height"] - 3 * (LANE + GAP) - 8 - 6
    return box["y"] + top + nth * (LANE + GAP) + LANE / 2


def x_of(page, time_us):
    box = page.locator("#lens canvas").bounding_box()
    return box["x"] + time_us / 1_400_000 * box["width"]


def pull(page, from_us, to_us, nth, key=None):
    y = lane(page, nth)
    page.mouse.move(x_of(page, from_us), y)
    page.mouse.down()
    if key:
        page.keyboard.down(key)
    page.mouse.move((x_of(page, from_us) + x_of(page, to_us)) / 2, y)
    page.mouse.move(x_of(page, to_us), y)
    page.mouse.up()
    if key:
        page.keyboard.up(key)


def take_back(page):
    """Undo everything: it goes back to the reading, and no further."""
    settled(page)
    while page.get_by_role("button", name="Undo", exact=True).is_enabled():
        page.keyboard.press("Control+z")
        settled(page)


@pytest.fixture
def lens(signed_in):
    """The Desk of the second shot; what a test did is taken back after it."""
    page = open_desk(signed_in, "020 The counter")
    yield page
    take_back(page)
    assert not any(word["pinned"] for word in reading(page)["words"])


def test_the_end_between_two_words_is_dragged_and_the_neighbour_follows(lens):
    page = lens
    the, dough = reading(page)["words"][:2]
    assert the["end"] == dough["start"]
    pull(page, the["end"], the["end"] + 60_000, 0)
    now = reading(page)["words"]
    assert now[0]["end"] == now[1]["start"]
    assert abs(now[0]["end"] - the["end"] - 60_000) < 4_000
    assert now[0]["pinned"] or now[1]["pinned"]


def test_alt_leaves_a_gap(lens):
    page = lens
    the, dough = reading(page)["words"][:2]
    pull(page, dough["start"] + 1_000, dough["start"] + 60_000, 0, "Alt")
    now = reading(page)["words"]
    assert now[0]["end"] == the["end"]
    assert abs(now[1]["start"] - dough["start"] - 60_000) < 4_000


def test_a_word_slides_and_a_line_with_shift(lens):
    page = lens
    before = reading(page)["words"]
    middle = (before[1]["start"] + before[1]["end"]) / 2
    pull(page, middle, middle - 40_000, 0)
    now = reading(page)["words"]
    assert now[1]["end"] - now[1]["start"] == before[1]["end"] - before[1]["start"]
    assert now[0]["end"] == now[1]["start"]
    pull(page, middle - 40_000, middle - 140_000, 0, "Shift")
    then = reading(page)["words"]
    line = [n for n, w in enumerate(before) if w["line"] == before[1]["line"]]
    moved = {then[n]["start"] - now[n]["start"] for n in line}
    assert len(moved) == 1
    assert abs(moved.pop() + 100_000) < 4_000


def test_a_word_is_typed_anew_by_keyboard_and_its_sounds_follow(lens):
    page = lens
    word = reading(page)["words"][1]
    for _ in range(word["start"] * 24 // 1_000_000 + 2):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("F2")
    field = page.locator("#wordwork [data-part=text]")
    expect(field).to_have_value("dough")
    field.fill("bread")
    page.keyboard.press("Enter")
    now = reading(page)
    assert now["words"][1]["text"] == "bread"
    assert [sound["ipa"] for sound in now["words"][1]["sounds"]] == ["b", "ɹ", "ɛ", "d"]
    page.keyboard.press("Control+ArrowLeft")
    slid = reading(page)["words"][1]
    assert now["words"][1]["start"] - slid["start"] == 10_000
    page.keyboard.press("Alt+Shift+ArrowLeft")
    assert slid["end"] - reading(page)["words"][1]["end"] == 10_000


def test_a_sound_is_chosen_from_the_list_and_one_is_put_in_and_taken_out(lens):
    page = lens
    sounds = reading(page)["words"][1]["sounds"]
    middle = (sounds[0]["start"] + sounds[0]["end"]) / 2

    def choose():
        page.mouse.dblclick(x_of(page, middle), lane(page, 1))

    def ipa():
        return [sound["ipa"] for sound in reading(page)["words"][1]["sounds"]]

    was = [p["ipa"] for p in sounds]
    choose()
    panel = page.get_by_role("form", name="Word or sound")
    panel.get_by_role("button", name="b", exact=True).click()
    assert ipa() == ["b", *was[1:]]
    choose()
    panel.get_by_label("before it").check()
    panel.get_by_role("button", name="s", exact=True).click()
    assert ipa() == ["s", "b", *was[1:]]
    choose()
    panel.get_by_role("button", name="Remove").click()
    assert len(ipa()) == len(was)
    choose()
    panel.get_by_label("IPA or ARPABET").fill("xx!")
    page.keyboard.press("Enter")
    expect(page.locator("#trouble")).not_to_have_text("")


@pytest.mark.alone
def test_each_frame_sounds_once_when_stepped_or_scrubbed(lens):
    page = lens
    page.mouse.click(x_of(page, 100_000), lane(page, 0) - 60)
    # Every start of a buffer is written down: when, from where, how long.
    page.evaluate(
        """() => {
          window.heard = [];
          const start = AudioBufferSourceNode.prototype.start;
          AudioBufferSourceNode.prototype.start = function (...given) {
            window.heard.push([...given, this.context.currentTime]);
            return start.apply(this, given);
          };
        }"""
    )
    # The sound is decoded when it is first asked for.
    for _ in range(200):
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowLeft")
        if page.evaluate("window.heard.length"):
            break
        page.wait_for_timeout(50)
    page.evaluate("window.heard = []")
    frame = int(page.locator("#frame").text_content()) - 1
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    heard = page.evaluate("window.heard")
    assert [round(from_s * 24) for _, from_s, *_ in heard] == [frame + n for n in range(1, 5)]
    assert all(abs(length - 1 / 24) < 1e-4 for _, _, length, _ in heard)
    # Gapless: while a frame still sounds, the next begins no later than where it ends.
    assert all(b[0] <= max(a[0] + 1 / 24, b[3]) + 1e-4 for a, b in pairwise(heard))


@pytest.mark.alone
def test_a_selection_is_played_round_and_the_playhead_goes_home(lens):
    page = lens
    for _ in range(5):
        page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Shift+ ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.locator("#frame")).to_have_text("0001")
    # At the end of the sound too.
    page.keyboard.press("End")
    last = page.locator("#frame").text_content()
    page.keyboard.press("\\")
    page.keyboard.press("Shift+ ")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.locator("#frame")).to_have_text(last)
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    for _ in range(5):
        page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("o")
    page.keyboard.press("Shift+ ")
    # A busy machine may skip a frame in one round: it plays until each was drawn and it has gone round three times.
    seen = page.evaluate(
        """async () => {
          const out = new Set();
          let rounds = 0, before = -1;
          for (let drawn = 0; drawn < 1500 && (rounds < 3 || out.size < 6); drawn++) {
            await new Promise((done) => requestAnimationFrame(done));
            const frame = Number(document.querySelector("#stage").dataset.frame);
            if (frame < before) rounds++;
            out.add(before = frame);
          }
          return { frames: [...out].sort((a, b) => a - b), rounds };
        }"""
    )
    assert seen["frames"] == [0, 1, 2, 3, 4, 5]
    assert seen["rounds"] >= 3
    page.keyboard.press("k")
    page.keyboard.press("o")


def tap(page, key):
    """A Tray key held down for a while at half speed; the sound clock (us) at both its ends."""
    page.keyboard.press("i")
    page.keyboard.press(" ")
    clock = "Math.round(document.querySelector('#sound').currentTime * 1e6)"
    page.wait_for_function(f"() => {clock} > 400000")
    # The sound clock as each key arrives, however long that takes.
    page.evaluate(
        f"""(key) => {{
          window.keys = {{}};
          for (const kind of ["keydown", "keyup"])
            addEventListener(kind, (event) => event.key === key && (window.keys[kind] ??= {clock}), true);
        }}""",
        key,
    )
    page.keyboard.down(key)
    down = page.evaluate("window.keys.keydown")
    page.wait_for_function(f"() => {clock} > {down + 300_000}")
    page.keyboard.up(key)
    up = page.evaluate("window.keys.keyup")
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    page.keyboard.press("i")
    page.keyboard.press("i")
    return down, up


@pytest.mark.alone
def test_mouths_are_tapped_while_it_plays(lens):
    page = lens
    down, up = tap(page, "v")
    ((start, end),) = pins(page)
    # Half speed: the reaction is half as long in the sound.
    assert abs(start - (down - 80_000) * 24 / 1e6) < 2
    assert abs(end - (up - 80_000) * 24 / 1e6) < 2
    document = json.loads(page.locator("#desk-document").text_content())
    shown = next(d["id"] for d in document["characters"][0]["drawings"] if (d["key"], d["set"]) == ("v", ""))
    page.keyboard.press("Home")
    for _ in range(start):
        page.keyboard.press("ArrowRight")
    expect(page.locator("#stage")).to_have_attribute("data-drawing", str(shown))
