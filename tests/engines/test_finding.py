"""Lines of a script found in recordings, as they are said: spoken anew, in another order, with other speech between."""

from pathlib import Path

import numpy as np
import pytest

from tests import sounds
from tinfork.core.errors import WordsError
from tinfork.engines.decode import Sound, decode
from tinfork.engines.finding import find_lines
from tinfork.engines.limits import READING_HZ
from tinfork.engines.wording import LineText

DEMO = Path(__file__).parents[2] / "demo"
SCRIPT = [
    "The last tram leaves the depot before midnight.",
    "Seven small loaves are waiting on the counter.",
    "Nobody opens the oven while it is humming.",
    "Please carry that lantern under the bridge.",
]
OTHER = "Could somebody bring me another cup of coffee?"


def session(*said: str) -> tuple[Sound, list[float]]:
    """What is said, one after another with pauses between, and about when each begins (seconds)."""
    parts: list[np.ndarray] = []
    starts = []
    for text in said:
        parts.append(np.zeros(READING_HZ * 9 // 10, dtype=np.float32))
        starts.append(sum(map(len, parts)) / READING_HZ)
        parts.append(sounds.as_sound(sounds.spoken(text)).mono_at(READING_HZ))
    return Sound(np.concatenate([*parts, np.zeros(READING_HZ, dtype=np.float32)])[:, None], READING_HZ), starts


def test_a_session_falls_into_its_lines_with_repeats_gaps_and_other_speech():
    sound, starts = session(SCRIPT[0], SCRIPT[1], SCRIPT[1], OTHER, SCRIPT[3])
    found = find_lines(sound, [LineText(text, "7") for text in SCRIPT])
    assert [one.number for one in found] == [0, 1, 1, None, 3]
    assert [one.line.text for one in found if one.number is not None] == [SCRIPT[0], SCRIPT[1], SCRIPT[1], SCRIPT[3]]
    assert all(one.fit > 0.55 for one in found if one.number is not None)
    assert np.allclose([one.line.start_us / 1e6 for one in found], starts, atol=0.25)


def test_a_script_of_which_nothing_is_said_leaves_what_is_heard():
    found = find_lines(decode(DEMO / "030_the_oven.wav"), [LineText("Nobody has seen the lantern or the keys.")])
    assert {one.number for one in found} == {None}
    assert "oven" in " ".join(one.line.text for one in found)


def test_silence_and_a_missing_listener_are_said_in_words(monkeypatch, tmp_path):
    sound, _ = session(SCRIPT[0])
    monkeypatch.setenv("TINFORK_WORDS_MODEL", str(tmp_path))
    with pytest.raises(WordsError, match="The model that hears words is missing"):
        find_lines(sound, [LineText(SCRIPT[0])])
