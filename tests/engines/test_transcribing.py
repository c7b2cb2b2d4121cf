"""Readings of sounds whose words nobody typed."""

import itertools
from pathlib import Path

import numpy as np
import pytest

from tests import sounds
from tinfork.core.errors import WordsError
from tinfork.core.speech.transcript import HeardWord
from tinfork.engines import transcribing
from tinfork.engines.decode import Sound, decode
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords
from tinfork.engines.transcribing import HearingRequest, language_for, transcribe

DEMO = Path(__file__).parents[2] / "demo"


def lines_of(sound, **wanted):
    return transcribe(sound, HearingRequest(**wanted)).reading.lines


@pytest.fixture(scope="module")
def last_loaf():
    """A scene in English in which one answer is Spanish."""
    return decode(DEMO / "040_the_last_loaf.wav")


def test_a_scene_in_two_languages_is_taken_down_line_by_line(last_loaf):
    lines = lines_of(last_loaf)
    assert [(line.language, line.text) for line in lines if line.text][:1] == [
        ("en-us", "One loaf is left, and two of us are hungry.")
    ]
    (spanish,) = [line for line in lines if line.language == "es"]
    assert spanish.text.lower().startswith("está listo")
    assert 8.5e6 < spanish.start_us < spanish.end_us < 10.5e6
    # In order, none over another.
    words = [word for line in lines for word in line.words]
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(words))


def test_a_language_that_was_asked_for_is_the_only_one(last_loaf):
    assert {line.language for line in lines_of(last_loaf, language="en-us")} == {"en-us"}


def test_a_name_that_is_told_is_heard():
    sound = decode(DEMO / "010_the_tram_stop.wav")
    assert any("Odalys" in line.text for line in lines_of(sound, context="Odalys, Brindle, Pim"))


def test_what_else_a_word_may_be_is_kept_with_it():
    words = [word for line in lines_of(decode(DEMO / "020_the_counter.wav")) for word in line.words]
    assert any(word.others for word in words)
    assert all(word.text not in word.others and len(word.others) <= 3 for word in words)
    # What was well heard is surer than what was not.
    unsure = [word.confidence for word in words if word.others]
    assert np.mean(unsure) < np.mean([word.confidence for word in words if not word.others])


@pytest.mark.parametrize("kind", ["a room", "noise", "hum", "clicks"])
def test_where_nobody_speaks_nothing_is_made_up(kind):
    pick = np.random.default_rng(4)
    count = 8 * READING_HZ
    samples = {
        "a room": pick.normal(size=count) * 0.05 * np.abs(np.sin(np.arange(count) / 20_000)),
        "noise": pick.normal(size=count) * 0.05 * (np.sin(np.arange(count) / 9000) > 0),
        "hum": 0.2 * np.sin(np.arange(count) * 2 * np.pi * 50 / READING_HZ) * (np.arange(count) % 16_000 < 9000),
        "clicks": np.where(np.arange(count) % 7000 < 4, 0.8, 0.0),
    }[kind]
    with pytest.raises(WordsError, match=transcribing.NO_WORDS[:20]):
        lines_of(Sound(samples.astype(np.float32)[:, None], READING_HZ))


def test_without_a_listener_it_is_said_what_is_missing(monkeypatch, tmp_path):
    monkeypatch.setenv("TINFORK_WORDS_MODEL", str(tmp_path))
    with pytest.raises(WordsError, match="TINFORK_WORDS_MODEL"):
        transcribe(sounds.as_sound(sounds.spoken()))


def test_a_language_that_the_listener_does_not_know_is_refused():
    with pytest.raises(WordsError, match="cannot be heard"):
        lines_of(sounds.as_sound(sounds.spoken()), language="qya")


class Listens:
    """Hears the same words in every window, with a score that depends on how long it is."""

    asked = []

    def __init__(self, samples):
        self.seconds = len(samples) / READING_HZ
        Listens.asked.append(self.seconds)

    def languages(self):
        return {"en": 0.9, "es": 0.1}

    def words(self, language, *, context="", is_detailed=False):
        end_us = round(self.seconds * 1e6)
        spans = [("The", 150_000, 400_000), ("last", 400_000, 800_000), *[("again", end_us, end_us)] * 2]
        words = tuple(HeardWord(text, start, until, 0.8, language=language) for text, start, until in spans)
        score = Listens.scores[min(len(Listens.asked), len(Listens.scores)) - 1]
        return HeardWords("The last again again", score, words)


@pytest.fixture
def listens(monkeypatch):
    monkeypatch.setattr(transcribing, "Listening", Listens)
    Listens.asked, Listens.scores = [], [-0.2]
    return Listens


def test_what_is_written_past_the_end_of_the_sound_is_left_out(listens):
    (line,) = lines_of(sounds.as_sound(sounds.spoken()))
    assert line.text == "The last"


def test_a_voice_that_is_hardly_understood_is_heard_higher_and_lower(listens):
    listens.scores = [-0.9, -0.3, -0.7]
    lines_of(sounds.as_sound(sounds.spoken()))
    first, *others = listens.asked
    assert others
    assert all(seconds != pytest.approx(first, rel=0.1) for seconds in others)
    listens.asked = []
    listens.scores = [-0.1]
    lines_of(sounds.as_sound(sounds.spoken()))
    assert len(listens.asked) == 1


def test_stretches_are_heard_together_and_a_long_pause_costs_nothing(listens):
    one = sounds.as_sound(sounds.spoken()).mono_at(READING_HZ)
    pause = np.zeros(20 * READING_HZ, dtype=np.float32)
    lines_of(Sound(np.concatenate([one, pause, one])[:, None], READING_HZ))
    # Whether the second one, of which no word was heard, is in another language is asked apart.
    assert listens.asked[0] == pytest.approx(2 * len(one) / READING_HZ, abs=1.0)
    assert listens.asked[0] > 1.5 * listens.asked[-1]


@pytest.mark.parametrize(
    ("code", "language"), [("en", "en-us"), ("zh", "cmn"), ("no", "nb"), ("fi", "fi"), ("pt", "pt-br"), ("yi", "")]
)
def test_the_language_that_is_heard_is_one_that_can_be_pronounced(code, language):
    assert language_for(code) == language
