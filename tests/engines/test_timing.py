"""Two listeners together, and voices unlike those that they know."""

from dataclasses import replace

import numpy as np
import pytest

from tests import sounds
from tinfork.engines.limits import READING_HZ
from tinfork.engines.recogniser import AlignedWord, Aligner, slowed
from tinfork.engines.timing import OTHER_SPEAKER, PLAIN, time_words
from tinfork.engines.wording import lines_from_text, spell


def played(ratio):
    """The sentence played so many times as fast, and where its words truly begin (seconds)."""
    said = sounds.spoken()
    samples = sounds.as_sound(said).mono_at(READING_HZ)
    starts = [start_us / 1e6 / ratio for start_us, _ in said.word_starts]
    return slowed(samples, 1 / ratio), starts


class Deaf(Aligner):
    """Puts everything elsewhere where it is asked at another speed than the sound's own; keeps what it was asked."""

    def __init__(self):
        super().__init__({})
        self.asked = []

    def align(self, samples, words, *, ratio=1.0):
        self.asked.append(ratio)
        found = super().align(samples, words)
        by = 0.0 if ratio == 1.0 else 0.4
        return [
            AlignedWord(tuple(replace(p, start_s=p.start_s + by, end_s=p.end_s + by) for p in w.phones)) for w in found
        ]


def timed(samples, aligner):
    return time_words(samples, spell(lines_from_text(sounds.SENTENCE)).spoken, aligner)


def away(words, starts):
    """How far each word begins from where it should, in seconds."""
    return np.array([abs(w.sounds[0].start_s - at) for w, at in zip(words, starts, strict=True)])


@pytest.mark.parametrize("semitones", [0, 5, 8])
def test_a_high_voice_is_heard_as_another_speakers_and_timed_as_well(semitones):
    samples, starts = played(2 ** (semitones / 12))
    words = timed(samples, Aligner({}))
    assert {w.way for w in words} == {OTHER_SPEAKER if semitones else PLAIN}
    assert away(words, starts).max() < 0.03


def test_where_the_recogniser_is_lost_at_another_speed_it_is_asked_at_the_sounds_own():
    samples, starts = played(2 ** (5 / 12))
    aligner = Deaf()
    words = timed(samples, aligner)
    assert aligner.asked[0] > 1.0
    assert aligner.asked[1:] == [1.0]
    assert np.median(away(words, starts)) < 0.02
    assert away(words, starts).max() < 0.08


def test_a_usual_voice_is_listened_to_at_its_own_speed_alone():
    aligner = Deaf()
    timed(played(1.0)[0], aligner)
    assert aligner.asked == [1.0]
