import csv
import io
import json
import re
import wave
import zipfile

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests import sounds
from tests.browser.conftest import WORK_MS

WORDS = "The last tram leaves the depot\nbefore midnight."


def make_shot(page, production, shot="010 The stop"):
    page.get_by_role("link", name="New production").click()
    page.get_by_label("Name").fill(production)
    page.get_by_label("Frame rate").select_option("25")
    page.get_by_role("button", name="Create production").click()
    page.get_by_label("Shot").fill(shot)
    page.get_by_label("Who speaks").select_option(label="Odalys")
    page.get_by_label("First frame").fill("101")
    page.get_by_role("button", name="Add shot").click()
    expect(page.get_by_role("heading", name=shot)).to_be_visible()


def upload_files(page, data, words, name="take.wav"):
    page.get_by_label("Words", exact=True).fill(words)
    page.get_by_label("Sound", exact=True).set_input_files({"name": name, "mimeType": "audio/wav", "buffer": data})
    page.get_by_role("button", name="Read the track", exact=True).click()


def download(page, click):
    with page.expect_download() as waiting:
        click()
    with open(waiting.value.path(), "rb") as file:
        return file.read()


def test_from_sign_in_to_a_sheet_and_a_picture_sequence(signed_in):
    page = signed_in
    make_shot(page, "Night Bakery")
    upload_files(page, sounds.sentence_wav(), WORDS)
    expect(page.get_by_role("status").filter(has_text="Reading")).to_be_visible()
    page.wait_for_url("**/desk", timeout=WORK_MS)
    page.wait_for_selector("html[data-desk=ready]")
    expect(page.locator("#frame")).to_have_text("0101")

    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("link", name="Exposure sheet as a table (CSV)").click()
    button = page.get_by_role("button", name="Download .csv")
    rows = list(csv.DictReader(io.StringIO(download(page, button.click).decode())))
    frames = -(-sounds.spoken().duration_us * 25 // 1_000_000)
    assert [int(r["frame"]) for r in rows] == list(range(101, 101 + frames))
    said = list(dict.fromkeys(" ".join(r["word"] for r in rows).split()))
    assert said == ["The", "last", "tram", "leaves", "the", "depot", "before", "midnight"]
    assert {r["viseme"] for r in rows} >= {"bilabial", "open"}
    page.get_by_label("A row for each").select_option(label="hold")
    per_hold = list(csv.DictReader(io.StringIO(download(page, button.click).decode())))
    assert sum(int(r["frames"]) for r in per_hold) == frames
    assert min(int(r["frames"]) for r in per_hold) >= 2

    page.get_by_role("link", name="Numbered pictures").click()
    page.get_by_label("Pictures of").select_option(label="each mouth")
    page.get_by_label("File names").fill("{shot}_{frame}")
    page.get_by_role("button", name="Make .pictures.zip").click()
    link = page.get_by_role("link", name="Download")
    expect(link).to_be_visible(timeout=WORK_MS)
    with zipfile.ZipFile(io.BytesIO(download(page, link.click))) as archive:
        names = [n for n in archive.namelist() if n.endswith(".png")]
        assert names == [f"010-The-stop_{n:04d}.png" for n in range(101, 101 + frames)]
        for row, name in list(zip(rows, names, strict=True))[:: frames // 6]:
            picture = np.array(Image.open(io.BytesIO(archive.read(name))))
            assert picture.shape == (1080, 1920, 4)
            assert 0 < (picture[:, :, 3] > 0).mean() < 0.1
            twin = next(r["frame"] for r in rows if r["drawing"] == row["drawing"])
            assert archive.read(name) == archive.read(f"010-The-stop_{int(twin):04d}.png")
        with wave.open(io.BytesIO(archive.read("010-The-stop.wav"))) as sound:
            assert sound.getnframes() == frames * 1920
    # What was chosen is chosen again.
    page.get_by_role("link", name="Movie with sound").click()
    page.get_by_role("link", name="Numbered pictures").click()
    expect(page.get_by_label("Pictures of")).to_have_value("mouths")


def test_a_file_that_is_renamed_before_it_is_sent_is_named_and_the_words_stay(signed_in, tmp_path):
    page = signed_in
    make_shot(page, "Renamed Songs")
    file = tmp_path / "take.wav"
    file.write_bytes(sounds.sentence_wav())
    page.get_by_label("Words", exact=True).fill("Seven loaves.")
    page.get_by_label("Sound", exact=True).set_input_files(file)
    file.rename(tmp_path / "other.wav")
    page.get_by_role("button", name="Read the track", exact=True).click()
    expect(page.get_by_role("alert").filter(has_text="“take.wav” was changed, moved or renamed")).to_be_visible()
    expect(page.get_by_label("Words", exact=True)).to_have_value("Seven loaves.")


def test_a_wrong_file_keeps_the_words_and_says_what_is_wrong(signed_in):
    page = signed_in
    make_shot(page, "Wrong file")
    upload_files(page, sounds.png_bytes(), WORDS)
    expect(page.get_by_text("is not a sound that can be read")).to_be_visible()
    expect(page.get_by_label("Words", exact=True)).to_have_value(WORDS)
    upload_files(page, sounds.wav_bytes(np.zeros(48_000)), WORDS)
    expect(page.get_by_role("alert").filter(has_text="silent")).to_be_visible(timeout=WORK_MS)
    expect(page.get_by_label("Words", exact=True)).to_have_value(WORDS)


def test_a_reading_is_cancelled_and_the_words_stay(signed_in):
    page = signed_in
    make_shot(page, "Cancelled")
    said = np.tile(sounds.spoken().samples, 40)
    upload_files(page, sounds.wav_bytes(said, sounds.spoken().rate_hz), "\n".join([sounds.SENTENCE] * 40))
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("Reading was cancelled.")).to_be_visible(timeout=WORK_MS)
    expect(page.get_by_label("Words", exact=True)).to_have_value("\n".join([sounds.SENTENCE] * 40))


def test_a_worker_killed_in_the_middle_leaves_a_job_that_is_done_again(signed_in, services):
    page = signed_in
    make_shot(page, "Killed worker")
    said = np.tile(sounds.spoken().samples, 24)
    upload_files(page, sounds.wav_bytes(said, sounds.spoken().rate_hz), "\n".join([sounds.SENTENCE] * 24))
    expect(page.locator(".job")).to_contain_text(re.compile("Aligning words|Reading: "), timeout=WORK_MS)
    services.kill_worker()
    services.start_worker()
    page.wait_for_url("**/desk", timeout=WORK_MS)
    assert json.loads(page.locator("#desk-document").text_content())["words"]
