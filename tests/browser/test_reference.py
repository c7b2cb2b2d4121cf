"""A film beside the Stage: recorded before the camera or uploaded, in step with the sound, and followed."""

import json

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import WORK_MS, open_desk
from tests.browser.test_camera import refuse
from tools.demo.stand_in_face import SHIPPED


@pytest.fixture
def panel(signed_in):
    """The panel of the counter's shot, with the parts that are moved; whatever film is there is taken away after."""
    page = open_desk(signed_in, "020 The counter")
    page.keyboard.press("F7")
    page.locator("#following > summary").click()
    panel = page.locator("#reference-panel")
    expect(panel.get_by_role("button", name="Record yourself")).to_be_visible()
    yield panel
    page.context.set_offline(False)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("F7")
    page.locator("#following > summary").click()
    expect(panel).to_be_visible()
    if panel.get_by_role("button", name="Remove").count():
        panel.get_by_role("button", name="Remove").click()
    expect(panel.get_by_role("button", name="Record yourself")).to_be_visible()


def keys(page, part="head"):
    """The keys of a part of the character in hand that a person laid."""
    document = json.loads(page.locator("#desk-document").text_content())
    motion = document["motion"].get(str(document["characters"][0]["id"]), {})
    return [key for key in motion.get(part, []) if not key["by"]]


def settled(page):
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")


FILM = "document.querySelector('#reference video')"


def test_one_acts_the_shot_before_the_camera_and_the_head_does_it_too(panel):
    page = panel.page
    before = keys(page)
    panel.get_by_role("button", name="Record yourself").click()
    expect(page.locator("#stage .count-in")).to_have_text("4")
    expect(page.get_by_label("Camera picture")).to_be_visible()
    page.wait_for_function("() => document.querySelector('#sound').currentTime > 4.5")
    page.keyboard.press("Space")
    film = page.get_by_label("Reference film", exact=True)
    expect(film).to_be_visible(timeout=WORK_MS)
    expect(page.get_by_label("Camera picture")).to_be_hidden()
    panel.get_by_role("button", name="Follow the face").click()
    expect(panel.get_by_text("A face on")).to_be_visible(timeout=WORK_MS)
    assert "100%" in panel.get_by_text("A face on").text_content()
    # The recording set in just before the sound: within a beat.
    assert -1_000_000 < int(panel.get_attribute("data-begins")) <= 0
    assert int(panel.get_attribute("data-lasts")) > 4_000_000
    # The face is live, but its pass is locked.
    page.locator("#following > summary").click()
    page.locator("#moving [data-moves='face']").click()
    page.get_by_role("button", name="Lock", exact=True).click()
    page.locator("#following > summary").click()
    with page.expect_response("**/mouths") as answer:
        panel.get_by_role("button", name="Add keys").click()
    assert answer.value.ok
    settled(page)
    after = keys(page)
    assert before == []
    assert 4 <= len(after) < 60
    assert max(abs(key["pose"][2]) for key in after) > 4
    assert keys(page, "face") == []
    page.keyboard.press("Control+z")
    expect(page.locator('#sheet-tools [data-do="redo"]')).to_be_enabled()


def test_a_film_stands_in_step_with_the_sound_from_the_frame_it_begins_on(panel):
    page = panel.page
    with page.expect_file_chooser() as chooser:
        panel.get_by_role("button", name="Choose a film").click()
    chooser.value.set_files(SHIPPED)
    film = page.get_by_label("Reference film", exact=True)
    expect(film).to_be_visible(timeout=WORK_MS)
    frame = panel.get_by_label("Film starts on frame")
    expect(frame).to_have_value("1")
    frame.fill("13")
    frame.press("Enter")
    expect(panel).to_have_attribute("data-begins", "500000")
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    expect(page.locator("#reference")).to_have_class("reel over")
    for _ in range(24):
        page.keyboard.press("ArrowRight")
    # Frame 25 lasts from 1 s of the shot on: half a second of the film.
    page.wait_for_function(f"() => Math.abs({FILM}.currentTime - 0.5 - 1 / 48) < 0.01 && !{FILM}.seeking")
    expect(page.locator("#reference")).to_have_class("reel")
    box, own = page.locator("#stage .picture").bounding_box(), film.bounding_box()
    assert own["x"] + own["width"] <= box["x"] + 1 or own["y"] + own["height"] <= box["y"] + 1


def test_what_is_no_film_says_so_and_a_film_that_is_lost_on_the_way_is_kept_and_sent_again(panel):
    page = panel.page
    with page.expect_file_chooser() as chooser:
        panel.get_by_role("button", name="Choose a film").click()
    chooser.value.set_files({"name": "notes.mp4", "mimeType": "video/mp4", "buffer": b"no film"})
    expect(panel.get_by_role("alert")).to_contain_text("“notes.mp4” is not a film that can be read")
    page.context.set_offline(True)
    with page.expect_file_chooser() as chooser:
        panel.get_by_role("button", name="Choose a film").click()
    chooser.value.set_files(SHIPPED)
    expect(panel.get_by_role("alert").first).to_contain_text("could not be uploaded")
    page.context.set_offline(False)
    panel.get_by_role("button", name="Send it again").click()
    expect(page.get_by_label("Reference film", exact=True)).to_be_visible(timeout=WORK_MS)
    expect(panel).to_have_attribute("data-name", "stand-in.webm")


def test_without_a_camera_the_stand_in_shows_how_it_works(panel):
    page = panel.page
    refuse(page, "NotFoundError")
    panel.get_by_role("button", name="Record yourself").click()
    expect(page.locator("#trouble")).to_contain_text("No camera found")
    expect(page.locator("#stage .count-in")).to_be_hidden()
    panel.get_by_role("button", name="Stand-in").click()
    panel.get_by_role("button", name="Follow the face").click(timeout=WORK_MS)
    expect(panel.get_by_text("8 blinks")).to_be_visible(timeout=WORK_MS)
    live = panel.locator("tr:visible [name=on]:checked")
    while live.count():
        live.first.uncheck()
    panel.get_by_role("button", name="Add keys").click()
    expect(page.locator("#trouble")).to_contain_text("Tick at least one column that follows the face")
