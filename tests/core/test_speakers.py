"""Character the ear takes a sound for."""

from functools import partial
from itertools import pairwise

import numpy as np
import pytest

from tinfork.core.ear.hearing import HOP, log_mel, log_mels, normalised
from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import find
from tinfork.core.ear.phones import HEARD, heard_as
from tinfork.core.ear.speakers import (
    RATIOS,
    Gains,
    evidence_between_pauses,
    evidence_of_speakers,
    gains_of_sizes,
    speaker_of_sounds,
)
from tinfork.core.sound.voice import level_db

USUAL, LOW, HIGH = RATIOS


def tone(hz, seconds):
    return (0.1 * np.sin(2 * np.pi * hz * np.arange(round(16_000 * seconds)) / 16_000)).astype(np.float32)


def voice_of(hz):
    """A second of two tones in turn, the first so high."""
    return np.concatenate([tone(hz, 0.1), tone(2.5 * hz, 0.1)] * 5)


#: The two tones of a voice of 800 Hz as the ear is given them.
HOME = normalised(log_mel(voice_of(800)))[[5, 15]]


class Ear:
    """Hears "a" in a tone at home, as sure as it is near, and silence where nothing stands out."""

    times = 0

    def listen_to_bands(self, bands):
        self.times += 1
        heard = np.empty((len(bands), len(HEARD)))
        for row, frame in zip(heard, bands, strict=True):
            away = min(float(np.abs(frame - home).mean()) for home in HOME)
            sure = max(0.05, 0.95 - away)
            row[:] = (1 - sure) / (len(HEARD) - 1)
            row[heard_as("a")[0] if np.ptp(frame) > 0.5 else 0] = sure
        return Evidence(np.log(heard).astype(np.float32), np.full(len(bands), 0.1, dtype=np.float32))


@pytest.mark.parametrize("ratio", RATIOS)
def test_a_shifted_voice_is_known_by_its_sounds(ratio):
    assert speaker_of_sounds(of(voice_of(800 * ratio))).ratio == ratio


def heard(ear, voice, ratios):
    return [ear.listen_to_bands(normalised(bands)) for bands in log_mels(voice, ratios)]


def of(voice, ear=None):
    """The evidence of a voice, as of each size that is asked for."""
    return partial(heard, ear or Ear(), voice)


@pytest.mark.parametrize("ratio", RATIOS)
def test_a_shifted_voice_is_known_by_how_well_its_words_fit(ratio):
    plain, *others = heard(Ear(), voice_of(800 * ratio), RATIOS)
    found = find(plain, [["a"]])
    gains = Gains()
    gains.add(RATIOS[1:], gains_of_sizes(found, [["a"]], plain, others))
    assert gains.likeliest() == ratio


def test_a_speakers_size_is_that_of_all_their_words_together():
    gains = Gains()
    assert gains.likeliest() == 1.0
    gains.add([HIGH, LOW], [np.array([0.4]), np.array([-0.1])])
    assert gains.likeliest() == HIGH
    # One word that fits another size by chance does not count against many that do not.
    gains.add([HIGH, LOW], [np.full(9, -0.05), np.full(9, 0.0)])
    assert gains.likeliest() == 1.0
    gains.add([LOW], [np.full(10, 0.3)])
    assert gains.likeliest() == LOW
    assert gains.words == 20


@pytest.mark.parametrize("semitones", [-8, 8])
def test_a_voice_further_away_is_known_by_its_sounds_too(semitones):
    ratio = 2 ** (semitones / 12)
    assert speaker_of_sounds(of(voice_of(800 * ratio))).ratio == ratio


def test_a_voice_as_usual_is_not_taken_for_another_for_little():
    # A band away from home: another speaker would be no nearer.
    assert speaker_of_sounds(of(voice_of(820))).ratio == USUAL


def test_it_is_listened_to_as_speakers_further_away_only_beyond_a_nearer_one_that_is_taken():
    for ratio, times in ((USUAL, 3), (HIGH, 4)):
        ear = Ear()
        speaker_of_sounds(of(voice_of(800 * ratio), ear))
        assert ear.times == times


def test_each_part_has_the_speaker_that_is_clearest_in_it():
    conversation = np.concatenate([voice_of(800 * ratio) for ratio in (HIGH, USUAL, LOW)])
    evidence = evidence_of_speakers(of(conversation), [100, 200])
    assert evidence.heard.shape == (len(conversation) // HOP, len(HEARD))
    assert evidence.edge.shape == (300,)
    for first, last in pairwise([0, 100, 200, 300]):
        clear = np.exp(evidence.heard[first + 5 : last - 5, heard_as("a")[0]])
        # As the voice is, it would be 0.38 at most.
        assert np.median(clear) > 0.5


def test_after_a_pause_somebody_else_may_speak():
    pause = np.zeros(9_600, dtype=np.float32)
    conversation = np.concatenate([voice_of(800 * HIGH), pause, voice_of(800), pause, voice_of(800 * LOW)])
    evidence = evidence_between_pauses(of(conversation), level_db(conversation, 16_000))
    assert evidence.heard.shape == (len(conversation) // HOP, len(HEARD))
    for first in (0, 160, 320):
        assert np.median(np.exp(evidence.heard[first + 5 : first + 95, heard_as("a")[0]])) > 0.5


def test_a_sound_without_a_voice_is_as_it_is():
    assert speaker_of_sounds(of(np.zeros(16_000, dtype=np.float32))).ratio == USUAL
