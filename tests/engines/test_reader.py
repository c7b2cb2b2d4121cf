import subprocess
import sys

import numpy as np
import pytest

from tests import sounds
from tinfork.core.clock import FrameRate
from tinfork.core.errors import Cancelled, SoundError, WordsError
from tinfork.core.score.boundaries import score
from tinfork.core.speech.reading import DOUBTFUL
from tinfork.engines import isolated
from tinfork.engines.decode import Sound
from tinfork.engines.isolated import run_isolated
from tinfork.engines.reading.reader import read_track
from tinfork.engines.wording import lines_from_text

RATE = FrameRate.parse("24")
SENTENCES = [
    sounds.SENTENCE,
    "Nobody bakes bread like the woman at the corner.",
    "She opened the oven and found five small loaves.",
]


@pytest.mark.parametrize("text", SENTENCES)
def test_the_sounds_of_a_spoken_sentence_are_found_where_they_are(text):
    said = sounds.spoken(text)
    reading = read_track(sounds.as_sound(said), lines_from_text(text)).reading
    result = score(tuple(reading.phonemes()), said.phonemes, said.duration_us, RATE)
    assert result.median_s < 0.015
    assert result.mean_s < 0.035
    assert result.tolerant > 0.75
    assert [w.text for w in reading.words()] == text.rstrip(".").split()


def test_a_lead_in_and_a_pause_move_the_words_with_them():
    said = sounds.spoken()
    silence = np.zeros((said.rate_hz * 2, 1), np.float32)
    twice = Sound(np.concatenate([silence, said.samples[:, None], silence, said.samples[:, None]]), said.rate_hz)
    plain = list(read_track(sounds.as_sound(said), lines_from_text(sounds.SENTENCE)).reading.words())
    words = list(read_track(twice, lines_from_text(f"{sounds.SENTENCE}\n{sounds.SENTENCE}")).reading.words())
    later = [(w.start_us - 2_000_000) for w in words[: len(plain)]]
    again = [(w.start_us - 4_000_000 - said.duration_us) for w in words[len(plain) :]]
    for moved in (later, again):
        apart = np.abs(np.array(moved) - [w.start_us for w in plain])
        # Where one word ends with the sound that the next begins with, its edge may lie anywhere in it.
        assert (apart < 40_000).sum() >= len(plain) - 1
        assert apart.max() < 120_000


def test_a_wrong_word_is_doubtful_and_the_others_stay():
    said = sounds.spoken()
    right = list(read_track(sounds.as_sound(said), lines_from_text(sounds.SENTENCE)).reading.words())
    wrong_text = sounds.SENTENCE.replace("depot", "violin")
    (line,) = read_track(sounds.as_sound(said), lines_from_text(wrong_text)).reading.lines
    wrong = list(line.words)
    assert line.missing_words == ("violin",) or min(wrong, key=lambda w: w.confidence).text == "violin"
    assert all(w.confidence > DOUBTFUL for w in wrong if w.text != "violin")
    for a, b in zip(right[:4], wrong[:4], strict=True):
        assert abs(a.start_us - b.start_us) < 40_000


def test_a_made_up_name_is_read_with_its_own_sounds():
    text = "The baker Zorbelquint opens the door."
    reading = read_track(sounds.as_sound(sounds.spoken(text)), lines_from_text(text)).reading
    name = next(w for w in reading.words() if w.text == "Zorbelquint")
    assert name.phonemes[0].ipa == "z"
    assert len(name.phonemes) >= 8


def test_a_number_keeps_its_text_and_has_the_sounds_of_its_words():
    text = "She paid 14 coins."
    reading = read_track(sounds.as_sound(sounds.spoken(text)), lines_from_text(text)).reading
    word = next(w for w in reading.words() if w.text == "14")
    assert [p.ipa.strip("ˈ") for p in word.phonemes][:1] == ["f"]


def test_words_of_another_recording_are_said_not_to_fit():
    result = read_track(sounds.as_sound(sounds.spoken()), lines_from_text("purple mountains rise above seven engines"))
    assert "Many words sound different from what is typed" in result.warnings[0]


def test_speech_without_words_is_pointed_out():
    long = sounds.spoken(" ".join(SENTENCES))
    result = read_track(sounds.as_sound(long), lines_from_text("The last tram"))
    assert result.warnings


@pytest.mark.parametrize(
    ("samples", "text", "error", "message"),
    [
        (np.zeros((48_000, 1), np.float32), "hello", SoundError, "silent"),
        (None, "hello " * 400, WordsError, "do not fit into"),
        (None, "— … !", WordsError, "no words"),
    ],
    ids=["silence", "too-many-words", "no-words"],
)
def test_what_cannot_be_read_is_refused(samples, text, error, message):
    sound = sounds.as_sound(sounds.spoken()) if samples is None else Sound(samples, 16_000)
    with pytest.raises(error, match=message):
        read_track(sound, lines_from_text(text))


def test_noise_with_words_is_read_or_refused_but_never_breaks():
    noise = np.random.default_rng(5).normal(scale=0.1, size=(48_000, 1)).astype(np.float32)
    try:
        result = read_track(Sound(noise, 16_000), lines_from_text("the last tram"))
    except WordsError as error:
        assert "Check" in str(error)
    else:
        assert result.warnings


def test_cancelling_stops_the_work_in_its_own_process():
    def cancel(phase, done):
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        run_isolated(read_track, sounds.as_sound(sounds.spoken()), lines_from_text(sounds.SENTENCE), progress=cancel)


def test_somebody_may_cancel_before_a_busy_machine_has_begun(monkeypatch):
    monkeypatch.setattr(isolated, "_HEARTBEAT_S", 0.0)
    seen = []

    def cancel(phase, done):
        seen.append((phase, done))
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        run_isolated(read_track, sounds.as_sound(sounds.spoken()), lines_from_text(sounds.SENTENCE), progress=cancel)
    assert seen == [("", 0.0)]


def test_progress_runs_from_phase_to_phase_and_the_result_comes_through():
    seen = []
    sound = sounds.as_sound(sounds.spoken())
    result = run_isolated(
        read_track, sound, lines_from_text(sounds.SENTENCE), progress=lambda p, d: seen.append((p, d))
    )
    assert list(dict.fromkeys(p for p, _ in seen if p)) == ["spell", "lay out", "align"]
    assert seen[-1] == ("align", 1.0)
    assert result.reading == read_track(sound, lines_from_text(sounds.SENTENCE)).reading


def test_core_and_its_tests_need_no_django():
    code = (
        "import sys; sys.modules.update(dict.fromkeys(['django', 'procrastinate', 'PIL', 'pocketsphinx']));"
        "import importlib, pkgutil, tinfork.core as c;"
        "[importlib.import_module(m.name) for m in pkgutil.walk_packages(c.__path__, 'tinfork.core.')]"
    )
    subprocess.run([sys.executable, "-c", code], check=True)
