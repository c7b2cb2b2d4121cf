"""The shot's picture on the Stage, and what leaves: as a user would, from the Desk to the opened file."""

import io
import json
import subprocess
import zipfile

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.conftest import WORK_MS, open_desk
from tests.browser.test_flow import download


def stands(page):
    """Where figures are on the Stage, as shares of the picture: their middles."""
    return page.evaluate(
        """() => {
          const frame = document.querySelector("#stage .picture").getBoundingClientRect();
          return [...document.querySelectorAll("#stage .figure")].map((figure) => {
            const box = figure.getBoundingClientRect();
            return [(box.x + box.width / 2 - frame.x) / frame.width, (box.y + box.height / 2 - frame.y) / frame.height];
          });
        }"""
    )


def arranging(page):
    """The fields of the picture's layout."""
    return page.get_by_role("form", name="Arrange the picture")


def saved(page):
    page.wait_for_function("() => document.documentElement.dataset.waiting === '0'")


def test_a_character_is_arranged_by_dragging_and_by_number_and_it_is_undone(signed_in):
    page = open_desk(signed_in, "020 The counter")
    before = stands(page)
    page.keyboard.press("F8")
    figure = page.locator("#stage .figure").first
    box = figure.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 + 40, box["y"] + box["height"] / 2, steps=5)
    page.mouse.up()
    saved(page)
    frame = page.locator("#stage .picture").bounding_box()
    moved = stands(page)
    assert abs(moved[0][0] - before[0][0] - 40 / frame["width"]) < 0.01 and abs(moved[0][1] - before[0][1]) < 0.01
    arranging(page).get_by_label("turn").fill("20")
    arranging(page).get_by_label("mirrored").check()
    saved(page)
    page.reload()
    page.wait_for_selector("html[data-desk=ready]")
    assert np.allclose(stands(page), moved, atol=0.02)
    assert "rotate(20deg) scaleX(-1)" in page.locator("#stage .figure").first.get_attribute("style")
    # As often as one likes: the reading itself is not taken back, and the Desk stays.
    for _ in range(5):
        page.keyboard.press("Control+z")
    saved(page)
    assert np.allclose(stands(page), before, atol=0.01)


def test_close_up_fills_the_picture_with_the_character_in_hand(signed_in):
    page = open_desk(signed_in, "020 The counter")
    wide = page.locator("#stage .figure").first.bounding_box()
    page.keyboard.press("F9")
    expect(page.get_by_role("button", name="Close-up")).to_have_attribute("aria-pressed", "true")
    frame, close = page.locator("#stage .picture").bounding_box(), page.locator("#stage .figure").first.bounding_box()
    assert close["height"] > wide["height"]
    assert abs(close["height"] - frame["height"]) < 2 or abs(close["width"] - frame["width"]) < 2
    assert abs(close["x"] + close["width"] / 2 - frame["x"] - frame["width"] / 2) < 2
    page.keyboard.press("F9")
    assert page.locator("#stage .figure").first.bounding_box() == wide


def picture_of(page):
    """The Stage's picture, as it is seen once all of it is there."""
    page.wait_for_function("() => [...document.images].every((image) => image.complete)")
    return Image.open(io.BytesIO(page.locator("#stage .picture").screenshot())).convert("RGB")


def away(one, other):
    """How far two pictures are from each other at each pixel, but for their rims."""
    rows = np.abs(np.asarray(one, dtype=int) - np.asarray(other, dtype=int)).max(axis=2)
    return rows[3:-3, 3:-3]


def exported(page, frame, size):
    """A frame of the shot, as the shot numbers it, handed over as a picture and made as large as another one."""
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Numbered pictures").click()
    page.get_by_label("From frame").fill(str(frame))
    page.get_by_label("To frame").fill(str(frame))
    page.locator("select[name=o-ground]").select_option(label="background")
    page.get_by_label("Pictures of").select_option(label="the whole picture")
    links = page.get_by_role("link", name="Download")
    made_before = links.count()
    page.get_by_role("button", name="Make .pictures.zip").click()
    expect(links).to_have_count(made_before + 1, timeout=WORK_MS)
    with zipfile.ZipFile(io.BytesIO(download(page, links.first.click))) as archive:
        (name,) = archive.namelist()
        return Image.open(io.BytesIO(archive.read(name))).convert("RGB").resize(size, Image.Resampling.BOX)


@pytest.mark.parametrize("boils", [False, True])
def test_an_exported_picture_is_what_the_stage_shows(signed_in, boils):
    """But for the edges' smoothing, which each does in its own way."""
    page = open_desk(signed_in, "020 The counter")
    page.keyboard.press("F8")
    arranging(page).get_by_label("turn").fill("-12")
    arranging(page).get_by_label("size").fill("60")
    saved(page)
    page.keyboard.press("F8")
    for _ in range(30):
        page.keyboard.press("ArrowRight")
    frame = int(page.locator("#frame").inner_text())
    variant = int(page.locator("#stage").get_attribute("data-frame")) // 2 % 3
    seen = still = picture_of(page)
    if boils:
        page.keyboard.press("F8")
        arranging(page).get_by_label("line boil").fill("80")
        saved(page)
        # On twos, of face, eyes, pupils and mouth.
        page.wait_for_function(
            "() => [...document.querySelectorAll('#stage .figure img.boils')].length === 4 &&"
            "[...document.querySelectorAll('#stage .figure img[src*=boil]')].filter((one) => !one.hidden)"
            f".every((one) => one.src.includes('boil=80-{variant}-'))"
        )
        page.keyboard.press("F8")
        seen = picture_of(page)
    made = exported(page, frame, seen.size)
    # Flat colours are the same; lines are, once neighbouring pixels are taken together.
    assert (away(made, seen) <= 6).mean() > 0.9
    if boils:
        # What is left is the smoothing, as where nothing boils.
        assert away(made, seen).mean() < 0.6 * away(made, still).mean()
    blurred = [np.asarray(image.reduce(6), dtype=int) for image in (made, seen)]
    assert np.abs(blurred[0] - blurred[1]).max() < 40
    page.go_back()
    page.get_by_role("link", name="Back to the Desk").click()
    page.wait_for_selector("html[data-desk=ready]")
    for _ in range(2 + boils):
        page.keyboard.press("Control+z")
    saved(page)


def test_a_background_is_chosen_and_the_preview_and_what_was_made_know_it(signed_in, tmp_path):
    page = open_desk(signed_in, "010 The tram stop")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Animated picture (GIF, WebP)").click()
    page.get_by_label("Size").select_option(label="320 wide")
    page.get_by_role("button", name="Make .gif").click()
    expect(page.get_by_role("link", name="Download")).to_be_visible(timeout=WORK_MS)
    assert page.get_by_text("out of date").count() == 0
    page.get_by_role("link", name="Back to the Desk").click()
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("F8")
    picture = tmp_path / "blue.png"
    Image.new("RGB", (160, 90), "#2040c0").save(picture)
    page.get_by_label("Choose a picture").set_input_files(picture)
    page.wait_for_function("() => document.querySelector('#stage .behind').naturalWidth === 160", timeout=WORK_MS)
    page.get_by_role("button", name="Done").click()
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Animated picture (GIF, WebP)").click()
    expect(page.get_by_text("out of date")).to_be_visible()
    source = page.locator(".preview img").get_attribute("src")
    corner = page.evaluate(
        """async (source) => {
          const image = new Image();
          image.src = source;
          await image.decode();
          const canvas = document.createElement("canvas");
          const context = canvas.getContext("2d");
          context.drawImage(image, 0, 0);
          return [...context.getImageData(2, 2, 1, 1).data];
        }""",
        source,
    )
    assert np.abs(np.array(corner) - [0x20, 0x40, 0xC0, 255]).max() <= 3
    page.go_back()
    page.go_back()
    page.wait_for_selector("html[data-desk=ready]")
    page.keyboard.press("Control+z")
    saved(page)


def test_a_wrong_background_is_named_and_nothing_changes(signed_in, tmp_path):
    page = open_desk(signed_in, "010 The tram stop")
    page.keyboard.press("F8")
    wrong = tmp_path / "page.png"
    wrong.write_bytes(b"This is a letter.")
    page.get_by_label("Choose a picture").set_input_files(wrong)
    expect(page.get_by_role("alert").filter(has_text="page.png")).to_be_visible(timeout=WORK_MS)
    expect(page.get_by_label("Choose a picture")).to_be_enabled()


def test_a_productions_shots_leave_together_and_as_one_movie(signed_in):
    page = open_desk(signed_in, "010 The tram stop")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Several shots").click()
    page.get_by_role("link", name="Praat TextGrid").click()
    page.get_by_role("button", name="Make .TextGrid").click()
    link = page.get_by_role("link", name="Download").first
    expect(link).to_be_visible(timeout=WORK_MS)
    with zipfile.ZipFile(io.BytesIO(download(page, link.click))) as archive:
        told = json.loads(archive.read("manifest.json"))
        files = [row["file"] for row in told["shots"]]
        assert len(files) >= 2 and sorted(archive.namelist()) == sorted(["manifest.json", *files])
        assert files[0] == "001-010-The-tram-stop/010-The-tram-stop.TextGrid"
        assert all(archive.read(file).startswith(b"File type") for file in files)
    frames = sum(row["last_frame"] - row["first_frame"] + 1 for row in told["shots"][:2])
    page.get_by_role("link", name="Movie with sound").click()
    expect(page.get_by_role("button", name="Make .mp4")).to_be_visible()
    for box in page.get_by_role("group", name="Shots").get_by_role("checkbox").all()[2:]:
        box.uncheck()
    page.get_by_label("Size").select_option(label="320 wide")
    page.get_by_label("One movie of all shots").check()
    page.get_by_role("button", name="Make .mp4").click()
    link = page.get_by_role("link", name="Download").first
    expect(page.get_by_text("Last Tram, First Loaf.mp4")).to_be_visible(timeout=WORK_MS)
    data = download(page, link.click)
    command = [
        "ffprobe",
        "-v",
        "error",
        "-select_streams",
        "v",
        "-count_frames",
        "-show_entries",
        "stream=nb_read_frames",
    ]
    done = subprocess.run([*command, "-of", "csv=p=0", "-i", "pipe:0"], input=data, capture_output=True, check=True)
    assert int(done.stdout.strip().strip(b",")) == frames
