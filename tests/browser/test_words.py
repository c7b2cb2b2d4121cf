"""Words, pronunciations and readings without words, as a person meets them."""

from playwright.sync_api import expect

from tests import sounds
from tests.browser.conftest import WORK_MS, open_desk
from tests.browser.test_flow import make_shot, upload_files
from tests.browser.test_lens import reading, take_back
from tests.browser.test_sheet import holds_of


def to_pronunciations(page):
    page.goto("/")
    page.get_by_role("link", name="Toad Songs").click()
    page.get_by_role("link", name="Pronunciations").click()
    page.wait_for_selector("html[data-pronounce=ready]")


def test_an_odd_word_is_heard_corrected_by_picking_sounds_and_read_again(signed_in):
    page = signed_in
    make_shot(page, "Toad Songs")
    upload_files(
        page, sounds.sentence_wav("The baker Zorbelquint opens the door."), "The baker Zorbelquint opens the door."
    )
    page.wait_for_url("**/desk", timeout=WORK_MS)
    to_pronunciations(page)
    row = page.get_by_role("row").filter(has_text="Zorbelquint")
    field = row.get_by_label("How “Zorbelquint” is pronounced")
    guessed = field.input_value()
    assert guessed.startswith("z")
    row.get_by_role("button", name="Hear").click()
    expect(row.locator("form")).to_have_attribute("data-heard", guessed)
    field.fill("zɔb")
    page.get_by_role("button", name="ɛ", exact=True).click()
    page.get_by_role("button", name="l", exact=True).click()
    expect(field).to_be_focused()
    expect(field).to_have_value("zɔbɛl")
    row.get_by_role("button", name="Save").click()
    expect(page.get_by_text("“Zorbelquint” has a new pronunciation.")).to_be_visible()
    expect(page.get_by_text("Its lines in 1 shot are being re-read.")).to_be_visible()
    row.get_by_role("button", name="Reset to default").click()
    expect(page.get_by_text("has its default pronunciation again")).to_be_visible()
    expect(field).to_have_value(guessed)


def test_what_is_no_sound_is_said_beside_the_list(signed_in):
    page = signed_in
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()
    page.get_by_role("link", name="Pronunciations").click()
    page.get_by_label("Find a word").fill("tr")
    page.get_by_role("button", name="Find").click()
    row = page.get_by_role("row").filter(has_text="tram").first
    row.get_by_role("textbox").fill("t!r")
    row.get_by_role("button", name="Hear").click()
    expect(page.get_by_role("alert").filter(has_text="Pick sounds from the list, or correct it")).to_be_visible()


def test_a_shot_without_words_is_read_by_ear(signed_in):
    page = signed_in
    make_shot(page, "Nameless Songs")
    page.get_by_label("Sounds only").check()
    upload_files(page, sounds.sentence_wav(), "")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    expect(page.get_by_text("Read from sounds only: expect about two of")).to_be_visible()


def test_words_that_nobody_typed_are_heard(signed_in):
    page = signed_in
    make_shot(page, "Heard Songs")
    shot = page.url
    expect(page.get_by_label("Hear the words")).to_be_checked()
    upload_files(page, sounds.sentence_wav(), "")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    assert {"tram", "leaves"} & {word["text"] for word in reading(page)["words"]}
    page.goto(shot)
    expect(page.get_by_label("Words", exact=True)).not_to_have_value("")
    expect(page.get_by_label("Words above: most precise")).to_be_checked()


def test_who_types_words_wants_them_read(signed_in):
    page = signed_in
    make_shot(page, "Typed Songs")
    page.get_by_label("Words", exact=True).fill(sounds.SENTENCE)
    expect(page.get_by_label("Words above: most precise")).to_be_checked()


def the_film(page):
    page.goto("/")
    page.get_by_role("link", name="Last Tram").click()


def test_one_recording_dropped_on_a_production_speaks_on_the_stage(signed_in):
    page = signed_in
    the_film(page)
    page.set_input_files(
        "#drop-file", {"name": "dropped.wav", "mimeType": "audio/wav", "buffer": sounds.sentence_wav()}
    )
    page.wait_for_url("**/desk", timeout=WORK_MS)
    shown = {hold["drawing"] for hold in holds_of(page)[0]["holds"]}
    assert len(shown) > 4
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.locator('[data-do="play"]')).to_have_attribute("data-playing", "true")


def test_twelve_recordings_become_twelve_shots_and_the_list_fills(signed_in):
    page = signed_in
    the_film(page)
    wav = sounds.sentence_wav("Last tram.")
    files = [{"name": f"line_{n:02}.wav", "mimeType": "audio/wav", "buffer": wav} for n in range(12)]
    files.append({"name": "notes.wav", "mimeType": "audio/wav", "buffer": b"no sound"})
    page.set_input_files("#drop-file", files)
    expect(page.get_by_text("“notes.wav” is not a sound that can be read.")).to_be_visible()
    rows = page.get_by_role("row").filter(has_text="line ")
    expect(rows).to_have_count(12)
    expect(rows.filter(has_text="read").filter(has_not=page.locator("progress"))).to_have_count(
        12, timeout=12 * WORK_MS
    )
    rows.first.get_by_role("link", name="line 00").click()
    page.wait_for_url("**/desk")


def test_a_crowd_flaps_with_its_loudness(signed_in):
    page = signed_in
    make_shot(page, "Crowd Songs")
    page.get_by_label("Flap").check()
    upload_files(page, sounds.sentence_wav(), "")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    shown = {hold["drawing"] for hold in holds_of(page)[0]["holds"]}
    assert len(shown) > 1
    assert len(holds_of(page)[0]["holds"]) > 5


def test_a_stretch_and_then_everything_is_read_again_and_what_is_pinned_stays(signed_in):
    page = signed_in
    make_shot(page, "Twice Songs")
    shot = page.url
    upload_files(page, sounds.sentence_wav(), "The last tram leaves the depot before midnight.")
    page.wait_for_url("**/desk", timeout=WORK_MS)
    desk = page.url
    before = reading(page)["words"]
    tram = next(w for w in before if w["text"] == "tram")
    for _ in range(tram["start"] * 25 // 1_000_000 + 2):
        page.keyboard.press("ArrowRight")
    # Twice before the first is answered, and its end as well.
    with page.expect_response(lambda answer: '"edge"' in (answer.request.post_data or "")):
        page.keyboard.press("Control+ArrowRight")
        page.keyboard.press("Control+ArrowRight")
        page.keyboard.press("Alt+Shift+ArrowRight")
    page.keyboard.press("|")
    pinned = {w["text"]: (w["start"], w["end"]) for w in reading(page)["words"] if w["pinned"]}
    assert pinned["tram"] == (tram["start"] + 20_000, tram["end"] + 30_000)
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("form", name="Re-read a range of frames").get_by_role("button", name="Re-read").click()
    page.wait_for_url(lambda url: url != desk)
    page.wait_for_url(desk, timeout=WORK_MS)
    expect(page.get_by_text("Re-read: ")).to_be_visible()
    page.goto(shot)
    page.get_by_label("Re-read unchanged lines too").check()
    page.get_by_role("button", name="Read the track", exact=True).click()
    page.wait_for_url(desk, timeout=WORK_MS)
    expect(page.get_by_text("Re-read: ")).to_be_visible()
    now = reading(page)["words"]
    assert {w["text"]: (w["start"], w["end"]) for w in now if w["pinned"]} == pinned
    assert [w["text"] for w in now] == [w["text"] for w in before]


def test_a_name_put_right_in_one_shot_is_put_right_in_the_others(signed_in):
    """Two of the film's shots speak of the oven: retyped in one, the other is offered, and follows."""
    page = open_desk(signed_in, "030 The oven")
    word = next(word for word in reading(page)["words"] if word["text"] == "oven")
    for _ in range(word["start"] * 24 // 1_000_000 + 2):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("F2")
    page.locator("#wordwork [data-part=text]").fill("Pimoven")
    page.keyboard.press("Enter")
    expect(page.locator("#alike")).to_contain_text("“oven” is written in one more place.")
    page.get_by_role("button", name="Correct there too").click()
    expect(page.locator("#trouble")).to_contain_text("“oven” is now “Pimoven” in 1 more place.")
    expect(page.locator("#alike")).to_be_hidden()
    other = open_desk(page, "040 The last loaf")
    assert "Pimoven" in [word["text"] for word in reading(other)["words"]]
    take_back(other)
    assert reading(other)["words"], "the first reading is not taken back"
    take_back(open_desk(page, "030 The oven"))
