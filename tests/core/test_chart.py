"""Claims of classes and single sounds, sizes, variants, sets."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.strategies import charts, readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import ChartError
from tinfork.core.mouths.articulation import SOUND_VECTORS, vector
from tinfork.core.mouths.chart import BIG, KEYS, SMALL, Chart, Drawing, correspondence, free_keys
from tinfork.core.mouths.sets import SetSpan, move_to_sets
from tinfork.core.mouths.starter import STARTER, STARTERS
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import drawing_on, solve
from tinfork.core.sound.loudness import FLOOR_DB, Loudness
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLASSES, SOUNDS, VISEMES, class_of, sound_parts, typical_sounds

RATE = FrameRate.parse("24")


def said(*sounds, gap_us=0):
    """One word of (IPA, frames) at 24 fps."""
    at, phonemes = 0, []
    for ipa, frames in sounds:
        end = at + frames * 1_000_000 // 24
        phonemes.append(Phoneme(ipa, at, end))
        at = end + gap_us
    return Reading(at, (Line("", "x", "en-us", (Word("x", 0, at, tuple(phonemes)),)),))


def test_a_single_sound_goes_before_its_class():
    chart = Chart((Drawing(1, "closed", ("bilabial",)), Drawing(2, "humming", ("m",)), Drawing(3, "open", ("open",))))
    assert [chart.drawing_for(s).number for s in ("p", "b", "m", "bilabial")] == [1, 1, 2, 1]


def test_sounds_that_no_drawing_claims_are_said_to_be_stood_in_for():
    chart = Chart((Drawing(1, "m alone", ("m",)), Drawing(2, "all open", ("open",)), Drawing(3, "rest", ("rest",))))
    assert chart.is_claimed("m")
    assert not chart.is_claimed("p")
    assert {"bilabial", "labiodental"} <= set(chart.unclaimed())
    assert not {"open", "rest"} & set(chart.unclaimed())
    assert chart.drawing_for("p").number == 1


@pytest.mark.parametrize("drawings", STARTERS)
def test_every_sound_of_every_language_has_a_mouth_in_every_starter_chart(drawings):
    chart = STARTERS[drawings]
    for sound in SOUNDS:
        assert chart.drawing_for(sound) in chart.drawings
    if drawings > 3:
        assert chart.unclaimed() == ()


@given(charts())
def test_a_claimed_sound_is_at_no_distance_and_no_other_is(chart):
    assert ((chart.distances == 0) == chart.claims).all()
    for column, sound in enumerate(SOUNDS):
        claimed = chart.claims[:, column]
        shown = chart.drawing_for(sound)
        assert not claimed.any() or claimed[chart.speaking.index(shown)]


def test_each_sound_has_a_vector_of_shares_and_lies_near_its_class():
    assert SOUND_VECTORS.shape == (len(SOUNDS), 7)
    assert ((SOUND_VECTORS >= 0) & (SOUND_VECTORS <= 1)).all()
    for sound in SOUNDS[1:]:
        assert np.abs(vector(sound) - vector(class_of(sound))).max() <= 0.5, sound


@given(st.text(max_size=6))
def test_any_text_passes_through_known_sounds(text):
    assert set(sound_parts(text)) <= set(SOUNDS)


@pytest.mark.parametrize("claim", ["A", "", "bilabials", "p b"])
def test_a_claim_that_is_no_sound_is_refused(claim):
    with pytest.raises(ChartError, match="not a sound"):
        Drawing(1, "x", (claim,))


def sized(*sizes):
    return Chart(
        (Drawing(1, "rest", ("rest",)), *(Drawing(2 + at, f"open {s}", ("open",), s) for at, s in enumerate(sizes)))
    )


def test_long_vowels_take_the_big_drawing_and_short_ones_the_small():
    reading = said(("ɑ", 12), ("m", 4), ("ɑ", 5), ("m", 4), ("ɑ", 5), ("m", 4), ("ɑ", 2), ("m", 4))
    chart = Chart((Drawing(1, "closed", ("rest", "bilabial")), *sized(SMALL, 0, BIG).drawings[1:]))
    holds = [h for h in solve(reading, chart, RATE, dials=Dials(lead=0)) if h.viseme == "open"]
    assert [h.drawing for h in holds] == [4, 3, 3, 2]


def test_loud_vowels_take_the_big_drawing():
    reading = said(*[("ɑ", 6), ("m", 4)] * 4)
    peaks = np.full((400, 2), 20, dtype=np.int8)
    shout = reading.lines[0].words[0].phonemes[4]
    peaks[shout.start_us // 10_000 : shout.end_us // 10_000] = 110
    chart = Chart((Drawing(1, "closed", ("rest", "bilabial")), *sized(0, BIG).drawings[1:]))
    holds = solve(reading, chart, RATE, dials=Dials(lead=0), loudness=Loudness(peaks, 100))
    assert [h.drawing for h in holds if h.viseme == "open"] == [2, 2, 3, 2]


def test_the_level_of_a_stretch_is_in_decibels_below_full_scale():
    peaks = np.zeros((100, 2), dtype=np.int8)
    peaks[50:] = (-127, 127)
    loudness = Loudness(peaks, 100)
    starts, ends = np.array([500_000, 0, 0, 5_000_000]), np.array([1_000_000, 500_000, 1_000_000, 6_000_000])
    assert loudness.levels_db(starts, ends) == pytest.approx([0, FLOOR_DB, -3.01, FLOOR_DB], abs=0.01)


def test_drawings_of_the_same_sounds_take_turns():
    chart = Chart((Drawing(1, "closed", ("bilabial",)), Drawing(2, "a", ("open",)), Drawing(3, "b", ("open",))))
    holds = solve(said(*[("ɑ", 6), ("m", 4)] * 4), chart, RATE, dials=Dials(lead=0))
    assert [h.drawing for h in holds if h.viseme == "open"] == [2, 3, 2, 3]


def changed_at(holds):
    return [h.start for h in holds]


@pytest.mark.parametrize("of", [3, 8, 14, 22])
@pytest.mark.parametrize("to", [3, 8, 14, 22])
def test_drawings_of_sets_correspond_by_sound(of, to):
    pairs = correspondence(STARTERS[of], STARTERS[to])
    assert set(pairs) == {d.number for d in STARTERS[of].drawings}
    if of == to:
        assert all(a == b for a, b in pairs.items())
    if of >= 8 and to >= 8:
        assert pairs[2] == 2
        assert pairs[3] == 3


def test_special_drawings_correspond_by_name():
    one = Chart((Drawing(1, "rest", ("rest",)), Drawing(8, "Whistle"), Drawing(9, "yawn")))
    other = Chart((Drawing(4, "rest", ("rest",)), Drawing(7, "whistle")))
    assert correspondence(one, other) == {1: 4, 8: 7}


@given(readings(), st.integers(0, 60), st.integers(1, 60))
def test_moving_a_stretch_to_another_set_keeps_the_timing(reading, start, length):
    holds = solve(reading, STARTER, RATE)
    frames = holds[-1].end if holds else 0
    stretch = SetSpan(start, start + length, "glad", STARTER)
    moved = move_to_sets(holds, STARTER, [stretch])
    for frame in range(frames):
        before, after = drawing_on(holds, frame), drawing_on(moved, frame)
        assert (after.drawing, after.viseme) == (before.drawing, before.viseme)
        assert after.set == ("glad" if start <= frame < start + length else "")
    assert [h.start for h in moved[1:]] == [h.end for h in moved[:-1]]
    assert set(changed_at(moved)) - set(changed_at(holds)) <= {start, start + length}


def test_a_smaller_set_joins_holds_that_look_the_same():
    holds = (Hold(0, 4, 9, "rhotic"), Hold(4, 8, 10, "close-rounded"), Hold(8, 12, 14, "open"))
    moved = move_to_sets(holds, STARTER, [SetSpan(0, 12, "few", STARTERS[8])])
    assert [(h.start, h.end, h.drawing, h.set) for h in moved] == [(0, 8, 5, "few"), (8, 12, 8, "few")]


def test_keys_stay_clear_of_playback_and_of_one_another():
    assert not set(KEYS) & set("jkliopn?+-= ")
    assert len(set(KEYS)) == len(KEYS)
    assert free_keys({"a", "d"}, 3) == ["s", "f", "g"]
    assert free_keys(set(KEYS), 2) == ["", ""]


def test_every_class_is_known_by_sounds_of_its_own():
    for viseme in VISEMES[1:]:
        assert set(typical_sounds(viseme)) <= set(CLASSES[viseme])
