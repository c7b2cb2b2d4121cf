"""Recordings of people: which are kept for measuring, where a voice begins and ends, and rows with known gaps."""

import subprocess
import zipfile

import numpy as np
import pytest

from tools.ear import people
from tools.ear.joining import rows, sharp_span
from tools.ear.people import Recording
from tools.ear.speaking import RATE_HZ

HOP = RATE_HZ // 100


def recorded(voice_s=0.6, before_s=0.2, after_s=0.2, fade_s=0.02, room=1e-4):
    """A hum in a quiet room that begins and ends within so long."""
    pick = np.random.default_rng(2)
    hum = 0.2 * np.sin(2 * np.pi * 180 * np.arange(round(voice_s * RATE_HZ)) / RATE_HZ)
    edge = np.minimum(np.arange(len(hum)), np.arange(len(hum))[::-1]) / (fade_s * RATE_HZ)
    voice = hum * np.minimum(edge, 1.0)
    samples = np.pad(voice, (round(before_s * RATE_HZ), round(after_s * RATE_HZ)))
    return (samples + pick.normal(scale=room, size=len(samples))).astype(np.float32)


def test_a_voice_that_begins_and_ends_sharply_has_known_edges():
    first, last = sharp_span(recorded())
    assert first == pytest.approx(0.2 * RATE_HZ, abs=HOP)
    assert last == pytest.approx(0.8 * RATE_HZ, abs=HOP)


@pytest.mark.parametrize(
    "samples",
    [
        recorded(voice_s=4.0, fade_s=2.0),
        recorded(room=0.02),
        recorded(voice_s=0.05),
        # Cut off in the middle of the voice.
        recorded()[: round(0.5 * RATE_HZ)],
    ],
    ids=["slow", "noisy", "short", "cut"],
)
def test_of_others_nobody_knows_where_they_begin_and_end(samples):
    assert sharp_span(samples) is None


def test_phrases_are_joined_with_gaps_and_their_places_are_known(tmp_path):
    pool = [(Recording("stamps", "ru", f"слово{n}", tmp_path, f"word {n}"), recorded()) for n in range(11)]
    pool += [(Recording("numbers", "ru", f"число{n}", tmp_path, f"number {n}"), recorded()) for n in range(3)]
    joined = rows(pool, "ru", np.random.default_rng(1))
    assert [len(row.phrases) for row in joined] == [5, 5]
    for row in joined:
        assert row.text == " ".join(phrase.text for phrase in row.phrases)
        assert all("слово" in phrase.text for phrase in row.phrases)
        ends = [0.0, *(phrase.end_s for phrase in row.phrases)]
        for end, phrase in zip(ends, row.phrases, strict=False):
            assert 0.1 < phrase.start_s - end < 0.7
            own = row.samples[round(phrase.start_s * RATE_HZ) : round(phrase.end_s * RATE_HZ)]
            gap = row.samples[round(end * RATE_HZ) : round(phrase.start_s * RATE_HZ)]
            assert np.abs(own).mean() > 50 * np.abs(gap).mean()


def test_what_is_kept_is_kept_by_text_in_every_language_and_whole_in_some(tmp_path):
    def is_kept(language, mark):
        return Recording("stamps", language, "", tmp_path, mark).is_kept

    marks = [f"a stamp of {n} mice" for n in range(400)]
    shares = {language: [is_kept(language, mark) for mark in marks] for language in ("ru", "fr", "bg", "en-us")}
    assert shares["ru"] == shares["fr"]
    assert 0.12 < np.mean(shares["ru"]) < 0.28
    assert all(shares["bg"])
    assert all(shares["en-us"])


def test_descriptions_are_found_with_their_words(tmp_path, monkeypatch):
    stamps = tmp_path / "stamps"
    (stamps / "animals").mkdir(parents=True)
    (stamps / "symbols").mkdir()
    for folder, name in (("animals", "toad"), ("symbols", "five"), ("animals", "coin")):
        words = {"toad": "A toad.\nru.utf8=Жаба.\n", "five": "Five.\nru.utf8=Пять.\n", "coin": "A coin ($5).\n"}[name]
        (stamps / folder / f"{name}.txt").write_text(words)
        for language in ("", "_ru", "_xx"):
            sound = stamps / folder / f"{name}_desc{language}.ogg"
            command = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=300:d=0.5", str(sound)]
            subprocess.run(command, check=True)
    monkeypatch.setattr(people, "_STAMPS", stamps)
    for other in ("_LETTERS", "_ITALIAN", "_FRENCH", "_REPORTS"):
        monkeypatch.setattr(people, other, tmp_path / "nothing")
    people.recordings.cache_clear()
    try:
        found = people.recordings()
    finally:
        people.recordings.cache_clear()
    assert [(r.language, r.text) for r in found] == [("en-us", "toad."), ("ru", "Жаба.")]
    ((_, samples), *_) = people.decoded(list(found))
    assert len(samples) == pytest.approx(RATE_HZ / 2, abs=200)
    assert np.abs(samples).max() > 0.01


def test_reports_are_read_out_of_their_archive_with_the_words_beside_them(tmp_path, monkeypatch):
    sound = tmp_path / "tone.ogg"
    subprocess.run(["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=300:d=0.5", str(sound)], check=True)
    table = 'audio "pcv1.ogg" oneshot 100 /*Kettle  Ready*/\naudio "pcv2.ogg" oneshot 100 /*Enemy LZ*/\n'
    table += 'audio "pcv3.ogg" oneshot 100 /*10 Minutes*/\naudio "pcv4.ogg" oneshot 100 /*Not There*/\n'
    with zipfile.ZipFile(tmp_path / "reports.zip", "w") as archive:
        archive.writestr("audio/audio.cfg", table)
        for number in (1, 2, 3):
            archive.write(sound, f"audio/deep/pcv{number}.ogg")
    monkeypatch.setattr(people, "_REPORTS", tmp_path / "reports.zip")
    (report,) = people._reports()
    assert (report.language, report.text, report.is_kept) == ("en-us", "kettle ready", True)
    assert len(report.samples()) == pytest.approx(RATE_HZ / 2, abs=200)
