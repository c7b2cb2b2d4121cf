"""Voices that are known again, made up from harmonics with a colour of their own."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_recordings import RATE, voice
from tinfork.core.errors import FormatError
from tinfork.core.sound.voiceprint import Voiceprint, are_several, recognised, voiceprints


def prints(*parts, seed=1):
    """The voices of some parts (who, pitch, colour), eight seconds each, one after another in a quiet room."""
    pick = np.random.default_rng(seed)
    # Nobody speaks at one pitch, or one vowel.
    spoken = [
        voice(pitch * pick.uniform(0.85, 1.2), colour + pick.uniform(-250, 250), 0.5)
        for _, pitch, colour in parts
        for _ in range(16)
    ]
    sound = np.concatenate(spoken)
    sound = sound + pick.normal(scale=0.0005, size=len(sound))
    spans = {who: [(at * 8_000_000, (at + 1) * 8_000_000)] for at, (who, *_) in enumerate(parts)}
    return voiceprints(sound.astype(np.float32), RATE, spans)


def test_a_voice_is_known_again_in_another_sound():
    known = prints(("odalys", 220, 1600), ("brindle", 110, 600))
    heard = prints(("0", 115, 620), ("1", 228, 1580), ("2", 160, 2600), seed=7)
    assert recognised(heard, known) == {"0": "brindle", "1": "odalys"}


def test_of_too_little_speech_and_of_silence_there_is_no_voice():
    sound = np.concatenate([voice(220, 1600, 1.0), np.zeros(RATE * 4)]).astype(np.float32)
    assert voiceprints(sound, RATE, {"a": [(0, 1_000_000)], "b": [(1_000_000, 5_000_000)]}) == {}


def test_nobody_is_two_voices_and_no_voice_is_two_people():
    known = prints(("odalys", 220, 1600))
    twice = prints(("0", 221, 1600), ("1", 222, 1600))
    assert len(recognised(twice, known)) == 1
    # Two that are known and sound alike: neither is sure.
    assert recognised(known, {"one": twice["0"], "other": twice["0"]}) == {}


def test_what_is_kept_is_the_same_voice_and_what_is_none_is_refused():
    (one,) = prints(("a", 220, 1600)).values()
    again = Voiceprint.of(json.loads(json.dumps(one.kept())))
    assert again.distance(one) < 1e-4
    for wrong in ({}, {"seconds": 1, "middle": [1], "spread": []}, {"seconds": "?", "middle": [], "spread": []}):
        with pytest.raises(FormatError):
            Voiceprint.of(wrong)


@given(st.floats(1, 200), st.floats(1, 200))
def test_more_of_a_voice_moves_it_by_its_share(first, second):
    spread = np.eye(19)
    one, two = (Voiceprint(s, np.full(19, at), spread) for s, at in ((first, 0.0), (second, 1.0)))
    both = one.with_more(two)
    assert one.distance(two) == pytest.approx(19 / 8)
    assert np.allclose(both.middle, second / (min(first, 120.0) + second))
    assert np.allclose(both.spread, spread)


def test_one_voice_that_was_cut_in_two_is_not_several():
    assert not are_several(prints(("0", 220, 1600), ("1", 221, 1590)).values())
    assert are_several(prints(("0", 220, 1600), ("1", 110, 600)).values())
    assert not are_several([])
