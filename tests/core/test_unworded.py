"""Readings without words: syllables by ear, and flaps."""

import itertools

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.ear.loop import HeardSound
from tinfork.core.ear.phones import HEARD, heard_as
from tinfork.core.score.rightness import reliability, shares_right, word_share
from tinfork.core.speech.cues import BREATH, LAUGH, cue_of, without_comments
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.unworded import BY_EAR, FLAP, flapping, lines_by_ear, lines_of_flap


def heard(*runs):
    out, at = [], 0
    for sound, frames in runs:
        out.append(HeardSound(heard_as(sound)[0] if sound else 0, at, at + frames, -0.1))
        at += frames
    return out


def test_sounds_by_ear_become_syllables_in_lines_between_pauses():
    sounds = heard(("", 20), ("h", 6), ("ə", 8), ("l", 6), ("oʊ", 15), ("", 50), ("b", 5), ("a", 10), ("t", 5), ("", 9))
    first, second = lines_by_ear(sounds, "en-us", 2_000_000)
    assert [w.text for w in first.words] == ["hə", "loʊ"]
    assert [w.text for w in second.words] == ["bat"]
    assert (first.method, first.text) == (BY_EAR, "")
    assert (first.start_us, first.end_us) == (200_000, 550_000)


def test_a_short_silence_parts_syllables_and_not_lines():
    (line,) = lines_by_ear(heard(("a", 10), ("", 10), ("o", 10)), "", 1_000_000)
    assert [w.text for w in line.words] == ["a", "o"]


@given(st.lists(st.tuples(st.integers(0, len(HEARD) - 1), st.integers(3, 40)), max_size=30))
def test_anything_heard_makes_a_reading_that_holds_together(runs):
    out, at = [], 0
    for sound, frames in runs:
        out.append(HeardSound(sound, at, at + frames, -1.0))
        at += frames
    duration_us = max(1, at * 10_000 - 7)
    reading = Reading(duration_us, lines_by_ear(out, "", duration_us))
    said = sum(frames for sound, frames in runs if sound)
    covered = sum(p.end_us - p.start_us for p in reading.phonemes())
    assert abs(covered - said * 10_000) <= 10_000


def syllables_at(*syllables):
    """Levels of syllables (dB, hops) with dips between them."""
    parts = [np.full(30, -90.0)]
    for level, hops in syllables:
        parts.append(level - 12 * np.abs(np.linspace(-1, 1, hops)) ** 2)
    return np.concatenate([*parts, np.full(30, -90.0)])


def test_a_flap_for_each_rise_of_the_level_wider_when_louder():
    (line,) = lines_of_flap(syllables_at((-10, 20), (-18, 20), (-28, 20), (-10, 20)), "", 2_000_000)
    assert line.method == FLAP
    vowels = [word.phonemes[-1].ipa for word in line.words]
    assert [next(n for n, kin in enumerate(("əɪʊ", "ɛʌo", "aɑæ")) if v in kin) for v in vowels] == [2, 1, 0, 2]
    again = [lines_of_flap(syllables_at((-10, 20), (-18, 20)), "", 2_000_000, seed=n) for n in (1, 1, 2, 3, 4)]
    assert again[0] == again[1]
    assert len({line.words for (line,) in again}) > 1


@settings(max_examples=30)
@given(st.lists(st.floats(-90, 0), min_size=1, max_size=300))
def test_flaps_never_overlap_or_leave_the_sound(levels):
    duration_us = len(levels) * 10_000
    reading = Reading(duration_us, lines_of_flap(np.array(levels), "", duration_us))
    words = list(reading.words())
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(words))


def test_a_crowd_flaps_outside_the_turns_of_those_who_speak():
    levels = np.full(600, -20.0)
    words = (Word("a", 1_000_000, 3_000_000, (Phoneme("a", 1_000_000, 3_000_000),)),)
    read = Reading(6_000_000, (Line("1", "a", "en-us", words),))
    spans = {
        who: [(line.start_us, line.end_us) for line in flapping(read, levels, who).lines] for who in ("1", "crowd")
    }
    assert spans == {"1": [(1_000_000, 3_000_000)], "crowd": [(0, 1_000_000), (3_000_000, 6_000_000)]}
    assert {line.speaker for line in flapping(read, levels, "crowd").lines} == {"crowd"}


def test_cues_are_told_from_remarks():
    assert cue_of("[sighs deeply]") == BREATH
    assert cue_of("(laughter)") == LAUGH
    assert cue_of("(beat)") is None
    assert cue_of("(to the man who laughs)") is None
    assert without_comments("[sigh] Well (beat) no") == "[sigh] Well no"


def test_a_sound_is_right_for_as_long_as_the_truth_shows_its_class():
    truth = [Phoneme("b", 0, 100), Phoneme("a", 100, 300)]
    found = [Phoneme("p", 0, 100), Phoneme("ɑ", 100, 200), Phoneme("s", 200, 300)]
    assert shares_right(found, truth) == [1.0, 1.0, 0.0]
    assert abs(word_share(found, [1.0, 1.0, 0.0]) - 2 / 3) < 1e-6
    assert shares_right([Phoneme("a", 400, 500)], truth) == [0.0]


def test_reliability_counts_how_often_the_sure_are_right():
    rows = reliability([0.95, 0.97, 0.2, 1.0], [True, False, False, True])
    assert [(name, count) for name, count, *_ in rows] == [("0-50 %", 1), ("95-100 %", 3)]
    assert [round(right, 2) for *_, right in rows] == [0.0, 0.67]
