"""Takes, recording, clips, turns and story reels, as a person meets them."""

import base64
import itertools
import re

import pytest
from playwright.sync_api import expect

from tests import sounds
from tests.browser.conftest import WORK_MS

S = 1_000_000
NUMBERS = itertools.count(1)

#: The loudness (dB, root mean square) of the sound that the page plays, whole.
LOUDNESS = """async () => {
  const answer = await fetch(document.querySelector("audio").src);
  const buffer = await new OfflineAudioContext(1, 1, 16000).decodeAudioData(await answer.arrayBuffer());
  const samples = buffer.getChannelData(0);
  let power = 0;
  for (const sample of samples) power += sample * sample;
  return 10 * Math.log10(power / samples.length);
}"""

#: Drops files on an element, as dragging them from a folder does.
DROP = """(element, files) => {
  const data = new DataTransfer();
  for (const [name, type, text] of files) {
    data.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], name, { type }));
  }
  for (const kind of ["dragover", "drop"]) {
    element.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }));
  }
}"""


def dropped(name, data, kind="audio/wav"):
    return [name, kind, base64.b64encode(data).decode()]


@pytest.fixture
def production(signed_in):
    """A production of its own for each test."""
    page = signed_in
    page.goto("/productions/new")
    page.get_by_label("Name").fill(f"Night shift {next(NUMBERS)}")
    page.get_by_role("button", name="Create production").click()
    page.wait_for_url(re.compile(r"/productions/\d+/$"))
    return page


def add_shot(page, name, who="Odalys"):
    page.get_by_label("Shot", exact=True).fill(name)
    page.get_by_label("Who speaks").select_option(label=who)
    page.get_by_role("button", name="Add shot").click()
    page.wait_for_url(re.compile(r"/shots/\d+/$"))
    return int(page.url.rstrip("/").rsplit("/", 1)[1])


def told(page, shot):
    """The shot's sound as the server has it."""
    return page.evaluate("async (url) => (await fetch(url)).json()", f"/shots/{shot}/sound.json")


#: The take that was read through the pages once; further tests send it to shots of their own.
READ: dict[str, int] = {}


@pytest.fixture
def talk(request, signed_in):
    """A conversation, read, on the page of its sound; gives back the page and the shot's number."""
    if not READ:
        page = request.getfixturevalue("production")
        shot = add_shot(page, "010 The talk")
        page.get_by_label("Words", exact=True).fill(sounds.CONVERSATION_WORDS)
        page.locator("#id_sound").set_input_files(
            {"name": "talk.wav", "mimeType": "audio/wav", "buffer": sounds.conversation()[0]}
        )
        page.get_by_role("button", name="Read the track", exact=True).click()
        page.wait_for_url("**/desk", timeout=WORK_MS)
        (take,) = told(page, shot)["takes"]
        page.goto(f"/takes/{take}/")
        page.get_by_label("The script of this recording").fill(sounds.CONVERSATION_WORDS)
        page.get_by_role("button", name="Find lines").click()
        expect(page.get_by_role("heading", name="Lines 3")).to_be_visible(timeout=WORK_MS)
        READ.update(take=int(take), duration=told(page, shot)["takes"][take]["durationUs"])
    page = signed_in
    page.goto(f"/takes/{READ['take']}/")
    page.locator("[name=piece]").first.evaluate(f"(box) => {{ box.value = '0-{READ['duration']}'; }}")
    page.locator("[name=piece]").first.check()
    page.get_by_role("button", name="Send", exact=True).click()
    page.wait_for_url("**/sound")
    shot = int(page.url.rsplit("/", 2)[1])
    return open_sound(page, shot), shot


def open_sound(page, shot):
    page.goto(f"/shots/{shot}/sound")
    page.wait_for_selector("html[data-sound=ready]")
    page.wait_for_selector("#lanes canvas[data-drawn]")
    return page


def lane(page, kind, at=0):
    """The box of a lane's head: its lane lies beside it."""
    return page.locator(f".head-{kind}").nth(at).bounding_box()


def x_of(page, time_us):
    """Where a time lies on the lanes when the whole shot is in sight."""
    box = page.locator("#lanes canvas").bounding_box()
    duration = page.evaluate("JSON.parse(document.querySelector('#sound-document').textContent).shot.durationUs")
    span = max(4_000_000, round(duration * 1.08) + 500_000)
    return box["x"] + time_us / span * box["width"]


def drag_on(page, from_us, to_us, y, to_y=None):
    page.mouse.move(x_of(page, from_us), y)
    page.mouse.down()
    page.mouse.move((x_of(page, from_us) + x_of(page, to_us)) / 2, y, steps=4)
    page.mouse.move(x_of(page, to_us), to_y or y, steps=4)
    page.mouse.up()


def changes(page, shot, act):
    """Do something that edits; wait for the server's answer; give back what it has now."""
    with page.expect_response("**/sound/edit") as answer:
        act()
    assert answer.value.status == 200, answer.value.text()
    return told(page, shot)


def middle(box):
    return box["y"] + box["height"] / 2


def test_recordings_dropped_on_the_library_are_opened_and_drawn(production):
    page = production
    page.get_by_role("link", name="Takes").click()
    files = [dropped("first.wav", sounds.sentence_wav()), dropped("second.wav", sounds.conversation()[0])]
    page.locator(".drop").first.evaluate(DROP, files)
    for name in ("first.wav", "second.wav"):
        row = page.get_by_role("row").filter(has_text=name)
        expect(row.locator("canvas.wave")).to_be_visible(timeout=WORK_MS)
        expect(row).to_contain_text("LUFS")
    drawn = "(c) => [...c.getContext('2d').getImageData(0, 0, c.width, c.height).data].some((v) => v)"
    page.wait_for_function(f"() => [...document.querySelectorAll('canvas.wave')].every({drawn})")
    play = page.get_by_role("button", name="Play first.wav")
    play.click()
    expect(play).to_have_attribute("data-playing", "")
    play.click()
    expect(play).not_to_have_attribute("data-playing", "")


def test_a_wrong_file_is_refused_where_it_was_dropped(production):
    page = production
    page.get_by_role("link", name="Takes").click()
    page.locator(".drop").first.evaluate(DROP, [dropped("x.png", sounds.png_bytes(), "image/png")])
    expect(page.get_by_role("alert").filter(has_text="“x.png” is not a sound")).to_be_visible()


def production_address(page, shot):
    return page.locator(".crumb a").first.get_attribute("href").rstrip("/")


@pytest.mark.alone
def test_counting_in_and_the_stand_in_microphone(production):
    page = production
    page.goto(page.url + "record")
    page.wait_for_selector("html[data-record=ready]")
    page.get_by_label("Microphone").select_option("stand-in")
    page.get_by_label("Count in").select_option("2")
    page.get_by_role("button", name="Record").click()
    button = page.locator("#record-button")
    expect(button).to_have_text("2")
    expect(button).to_have_text("1")
    expect(button).to_have_text("Stop")
    page.wait_for_timeout(600)
    page.keyboard.press("Escape")
    button.click()
    expect(page.locator("#record-takes li")).to_have_count(1)
    loud = page.evaluate("() => document.querySelector('#level').value")
    assert float(loud) > -60


def test_a_refused_microphone_is_said_with_what_to_do(production):
    page = production
    page.add_init_script(
        "navigator.mediaDevices.getUserMedia = async () => { throw new DOMException('no', 'NotAllowedError'); }"
    )
    page.goto(page.url + "record")
    page.wait_for_selector("html[data-record=ready]")
    page.get_by_label("Microphone").select_option("any")
    expect(page.get_by_role("alert").filter(has_text="blocked the microphone")).to_be_visible()
    expect(page.get_by_role("button", name="Record")).to_be_enabled()


@pytest.mark.alone
def test_what_was_recorded_before_the_microphone_was_unplugged_is_kept(production):
    page = production
    page.add_init_script(
        """const real = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices);
        navigator.mediaDevices.getUserMedia = async (wanted) => (window.heard = await real(wanted));"""
    )
    page.goto(page.url + "record")
    page.wait_for_selector("html[data-record=ready]")
    page.get_by_label("Microphone").select_option("any")
    page.wait_for_function("() => window.heard && document.querySelector('#record').dataset.open")
    page.get_by_label("Count in").select_option("0")
    page.get_by_role("button", name="Record").click()
    page.wait_for_timeout(800)
    page.evaluate("() => window.heard.getAudioTracks()[0].dispatchEvent(new Event('ended'))")
    expect(page.get_by_role("alert").filter(has_text="The microphone was unplugged")).to_be_visible()
    expect(page.locator("#record-takes li")).to_have_count(1)


def test_a_clip_is_dragged_to_the_frame_and_its_words_go_along(talk):
    page, shot = talk
    before = told(page, shot)
    y = middle(lane(page, "track"))
    after = changes(page, shot, lambda: drag_on(page, 2 * S, 3 * S, y))
    moved = after["clips"][0]["start"] - before["clips"][0]["start"]
    assert abs(moved - S) < 120_000
    frame = round(after["clips"][0]["start"] * 24 / S)
    assert after["clips"][0]["start"] == -(-frame * S // 24)
    assert after["words"][0]["start"] - before["words"][0]["start"] == moved
    after = changes(page, shot, lambda: page.keyboard.press("Control+z"))
    assert after["clips"] == before["clips"]
    after = changes(page, shot, lambda: page.get_by_role("button", name="Redo").click())
    assert after["clips"][0]["start"] == before["clips"][0]["start"] + moved


def test_the_sound_alone_is_moved_when_asked(talk):
    page, shot = talk
    before = told(page, shot)
    page.mouse.click(x_of(page, 2 * S), middle(lane(page, "track")))
    page.get_by_label("only the sound").check()
    after = changes(page, shot, lambda: drag_on(page, 2 * S, 3 * S, middle(lane(page, "track"))))
    assert after["clips"][0]["start"] > before["clips"][0]["start"]
    assert [w["start"] for w in after["words"]] == [w["start"] for w in before["words"]]


def test_a_clip_is_trimmed_split_and_faded_by_pointer_and_keys(talk):
    page, shot = talk
    before = told(page, shot)
    end = before["clips"][0]["length"]
    y = middle(lane(page, "track"))
    after = changes(page, shot, lambda: drag_on(page, end - 20_000, end - 2 * S, y))
    assert after["clips"][0]["length"] < end - S
    page.mouse.click(x_of(page, 2 * S), y)
    page.mouse.click(x_of(page, 3 * S), page.locator("#lanes canvas").bounding_box()["y"] + 8)
    after = changes(page, shot, lambda: page.keyboard.press("s"))
    assert [c["id"] for c in after["clips"]] == [1, 2]
    assert after["clips"][0]["length"] == after["clips"][1]["in"]
    page.mouse.click(x_of(page, 2 * S), y)
    after = changes(page, shot, lambda: (page.get_by_label("Fade in").fill("12"), page.keyboard.press("Enter"))[0])
    assert after["clips"][0]["fade_in"] == 500_000


def test_a_clip_is_turned_down_and_the_mix_with_it(talk):
    page, shot = talk
    before = page.evaluate(LOUDNESS)
    page.get_by_text("Clips").click()
    page.locator("[data-list=clips] button").first.click()
    field = page.locator('[data-field="gain"]')
    field.fill("-9")
    document = changes(page, shot, lambda: field.press("Enter"))
    assert document["clips"][0]["gain"] == -9
    expect(page.locator("audio")).to_have_attribute("src", document["sound"]["url"])
    assert page.evaluate(LOUDNESS) == pytest.approx(before - 9, abs=0.3)


def test_room_for_action_is_made_at_the_playhead_by_keyboard_alone(talk):
    page, shot = talk
    before = told(page, shot)
    page.keyboard.press("Home")
    for _ in range(2):
        page.keyboard.press("PageDown")
    page.keyboard.press("g")
    field = page.get_by_label("Insert empty frames")
    expect(field).to_be_focused()
    field.fill("24")
    after = changes(page, shot, lambda: page.keyboard.press("Enter"))
    assert [c["start"] for c in after["clips"]] == [0, 3 * S]
    late = [w for w in before["words"] if w["start"] > 2 * S]
    assert [w["start"] for w in after["words"]][-len(late) :] == [w["start"] + S for w in late]


def test_speech_begins_on_the_frame_that_was_asked_for(talk):
    page, shot = talk
    page.get_by_label("Speech starts on frame").fill("55")
    after = changes(page, shot, lambda: page.keyboard.press("Enter"))
    assert abs(after["words"][0]["start"] - 54 * S / 24) < 2


def test_turns_are_dragged_split_given_and_joined(talk):
    page, shot = talk
    first = told(page, shot)["turns"][0]
    y = middle(lane(page, "turns"))
    after = changes(page, shot, lambda: drag_on(page, first["end"] - 15_000, first["end"] + 300_000, y))
    assert abs(after["turns"][0]["end"] - first["end"] - 315_000) < 60_000
    page.mouse.click(x_of(page, first["start"] + 500_000), y)
    page.mouse.click(x_of(page, first["start"] + S), page.locator("#lanes canvas").bounding_box()["y"] + 8)
    # The ruler let the turn go: take it in hand again from the list.
    page.locator("[data-list=turns] button").first.click()
    after = changes(page, shot, lambda: page.keyboard.press("s"))
    assert len(after["turns"]) == 4
    page.locator("[data-list=turns] button").first.click()
    after = changes(page, shot, lambda: page.keyboard.press("2"))
    brindle = after["characters"][1]["id"]
    assert after["turns"][0]["speaker"] == brindle
    assert after["words"][0]["speaker"] == brindle
    down = middle(lane(page, "turns", 1))
    after = changes(page, shot, lambda: drag_on(page, first["start"] + 300_000, first["start"] + 300_000, down, y))
    assert after["turns"][0]["speaker"] == after["characters"][0]["id"]
    page.locator("[data-list=turns] button").first.click()
    after = changes(page, shot, lambda: page.keyboard.press("m"))
    assert len(after["turns"]) == 3


def test_overlapping_turns_are_drawn_by_dragging_where_there_is_none(talk):
    page, shot = talk
    first = told(page, shot)["turns"][0]
    y = middle(lane(page, "turns", 1))
    after = changes(page, shot, lambda: drag_on(page, first["start"], first["end"], y))
    new = next(t for t in after["turns"] if t["speaker"] == after["characters"][1]["id"])
    assert abs(new["start"] - first["start"]) < 60_000
    assert new["end"] > first["start"] + S


@pytest.mark.alone
def test_turns_are_tapped_while_it_plays(talk):
    page, shot = talk
    before = told(page, shot)
    brindle = before["characters"][1]["id"]
    turn = before["turns"][0]
    page.keyboard.press("Home")
    # At a quarter of the speed a slow machine's keys are late by little of the sound; a person's by a quarter too.
    page.keyboard.press("i")
    page.keyboard.press("i")
    expect(page.locator("#speed")).to_have_text("25 %")
    page.keyboard.press("Space")
    at = "document.querySelector('#sound').currentTime * 1e6"
    # A person hears the voice, and presses a little later; so does this one.
    page.wait_for_function(f"(t) => {at} >= t", arg=turn["start"] + 40_000, polling="raf")
    page.keyboard.down("2")
    page.wait_for_function(f"(t) => {at} >= t", arg=turn["end"] + 40_000, polling="raf")
    page.keyboard.up("2")
    after = changes(page, shot, lambda: page.keyboard.press("Space"))
    tapped = after["turns"][0]
    assert tapped["speaker"] == brindle
    assert abs(tapped["start"] - turn["start"]) < 1000
    assert abs(tapped["end"] - turn["end"]) < 1000
    assert after["words"][0]["speaker"] == brindle


def test_two_tabs_never_lose_an_edit(talk, context):
    page, shot = talk
    other = context.new_page()
    open_sound(other, shot)
    changes(page, shot, lambda: (page.get_by_label("Insert empty frames").fill("12"), page.keyboard.press("Enter")))
    with other.expect_response("**/sound/edit") as answer:
        other.get_by_label("Insert empty frames").fill("24")
        other.keyboard.press("Enter")
    assert answer.value.status == 409
    expect(other.locator("#refused")).to_contain_text("This shot was changed")
    first = told(page, shot)
    with other.expect_response("**/sound/edit") as answer:
        other.keyboard.press("Enter")
    assert answer.value.status == 200
    assert told(page, shot)["shot"]["frames"] == first["shot"]["frames"] + 24
    other.close()


def test_a_lost_connection_is_said_and_the_edit_arrives_when_it_is_back(talk, context):
    page, shot = talk
    before = told(page, shot)["shot"]["frames"]
    page.get_by_label("Insert empty frames").fill("12")
    context.set_offline(True)
    page.get_by_role("button", name="Insert").click()
    expect(page.locator("#said")).to_contain_text("1 edit waits")
    context.set_offline(False)
    expect(page.locator("#said")).to_be_empty()
    assert told(page, shot)["shot"]["frames"] == before + 12


def test_the_page_of_the_sound_is_whole_at_every_size(talk):
    page, _ = talk
    for width, height in ((1280, 800), (1024, 768), (1920, 1080)):
        page.set_viewport_size({"width": width, "height": height})
        assert page.evaluate(
            "document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth"
        )
        box = page.locator("#lanes").bounding_box()
        # The ruler's, a track's, the words' and two characters' heads.
        expect(page.locator(".head")).to_have_count(5)
        last = page.locator(".head").last.bounding_box()
        assert last["y"] + last["height"] <= box["y"] + box["height"] + 1
