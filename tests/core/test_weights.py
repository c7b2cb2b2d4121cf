"""Weights of rigged faces, and numbers of holds."""

import itertools
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats import weights_json
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.numbers import numbers_of
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.solver.segments import SoundSegment, segments_of, sounds_of
from tinfork.core.solver.weights import viseme_weights
from tinfork.core.speech.visemes import CLOSURES, VISEMES

RATE = FrameRate.parse("24")


@settings(max_examples=60)
@given(readings(), st.integers(0, 3))
def test_weights_sum_to_one_and_closures_reach_all_of_it(reading, lead):
    dials = Dials(lead=lead)
    parts = segments_of(sounds_of(reading), reading.duration_us, dials)
    frames = RATE.frames_in(reading.duration_us)
    weights = viseme_weights(parts, RATE, frames, dials)
    assert weights.shape == (frames, len(VISEMES))
    assert np.allclose(weights.sum(axis=1), 1)
    assert (weights >= -1e-12).all()
    middles = {}
    for part in parts:
        if part.viseme in CLOSURES:
            frame = min(max(RATE.frame_at((part.start_us + part.end_us) // 2) - lead, 0), frames - 1)
            middles.setdefault(frame, set()).add(part.viseme)
    for frame, classes in middles.items():
        assert np.isclose(sum(weights[frame, VISEMES.index(v)] for v in classes), 1)


def test_no_frame_is_without_weights_in_silence():
    weights = viseme_weights([], RATE, 5, Dials())
    assert (weights[:, VISEMES.index("rest")] == 1).all()
    assert viseme_weights([], RATE, 0, Dials()).shape == (0, len(VISEMES))


def test_a_sound_has_most_weight_at_its_middle_and_hands_over_smoothly():
    parts = [SoundSegment(0, 500_000, "ɑ", 1.0), SoundSegment(500_000, 1_000_000, "i", 1.0)]
    weights = viseme_weights(parts, RATE, 24, Dials(lead=0))
    opened = weights[:, VISEMES.index("open")]
    assert opened[5] > 0.9
    assert opened[18] < 0.1
    assert np.abs(np.diff(opened)).max() < 0.35


def test_the_numbers_of_holds():
    holds = (Hold(0, 2, 1, "rest"), Hold(2, 3, 2, "open"), Hold(3, 5, 1, "rest"), Hold(5, 24, 3, "mid", "sad"))
    numbers = numbers_of(HoldColumns.of(holds), RATE)
    assert [(u.drawing, u.set, u.holds, u.frames, u.pieces) for u in numbers.uses] == [
        (3, "sad", 1, 19, 1),
        (1, "", 2, 4, 2),
        (2, "", 1, 1, 1),
    ]
    assert (numbers.changes_per_second, numbers.shortest, numbers.pieces) == (3.0, 1, 4)
    assert numbers.on == (1 / 24, 4 / 24, 0.0, 19 / 24)
    assert numbers_of(HoldColumns.of(()), RATE).uses == ()
    # Three changes in two seconds, at 24 frames a second.
    two_seconds = tuple(Hold(12 * n, 12 * n + 12, 1 + n % 2, "open") for n in range(4))
    assert numbers_of(HoldColumns.of(two_seconds), RATE).changes_per_second == 1.5


@st.composite
def columns(draw):
    """Holds that lie side by side, also of no mouth and of other sets."""
    at, out = 0, []
    for _ in range(draw(st.integers(1, 20))):
        end = at + draw(st.integers(1, 6))
        out.append(
            Hold(at, end, draw(st.sampled_from([NO_MOUTH, 1, 2, 3])), "open", draw(st.sampled_from(["", "sad"])))
        )
        at = end
    return out


@given(columns())
def test_numbers_are_what_one_counts_frame_by_frame(holds):
    frames = [hold for hold in holds for _ in range(hold.start, hold.end)]
    mouths = {(h.set, h.drawing) for h in holds if h.drawing != NO_MOUTH}
    numbers = numbers_of(HoldColumns.of(holds), RATE)
    assert {(u.set, u.drawing): (u.holds, u.frames) for u in numbers.uses} == {
        mouth: (
            sum((h.set, h.drawing) == mouth for h in holds),
            sum((h.set, h.drawing) == mouth for h in frames),
        )
        for mouth in mouths
    }
    assert [u.frames for u in numbers.uses] == sorted((u.frames for u in numbers.uses), reverse=True)
    for use in numbers.uses:
        own = [h for h in holds if (h.set, h.drawing) == (use.set, use.drawing)]
        # A mouth cannot be cleaned and put on again within two frames.
        assert use.pieces == 1 + any(b.start - a.end <= 2 for a, b in itertools.pairwise(own))
    shown = [h for h in holds if h.drawing != NO_MOUTH]
    assert numbers.shortest == min((h.end - h.start for h in shown), default=0)
    total = max(1, sum(h.end - h.start for h in shown))
    by_length = [sum(n for n in (h.end - h.start for h in shown) if min(n, 4) == length) for length in (1, 2, 3, 4)]
    assert np.allclose(numbers.on, [n / total for n in by_length])


@settings(max_examples=40)
@given(st.binary(max_size=200))
def test_any_bytes_are_weights_or_a_clear_error(data):
    try:
        weights_json.read(data)
    except FormatError as error:
        assert str(error)


def test_weights_survive_being_written():
    weights = viseme_weights([], RATE, 5, Dials())
    (back,) = weights_json.read(weights_json.write({"Pim": weights}, RATE, 101)).values()
    assert np.allclose(back, weights, atol=1e-4)


def test_what_was_set_by_hand_has_all_the_weight_and_changes_no_other_frame():
    parts = [SoundSegment(0, 500_000, "ɑ", 1.0), SoundSegment(500_000, 1_000_000, "p", 3.0)]
    plain = viseme_weights(parts, RATE, 24, Dials())
    weights = viseme_weights(parts, RATE, 24, Dials(), [(2, 5, "lateral"), (16, 24, "rest")])
    assert [VISEMES[column] for column in weights[[2, 4, 16, 23]].argmax(axis=1)] == [
        "lateral",
        "lateral",
        "rest",
        "rest",
    ]
    assert (weights[[2, 3, 4, 16, 23]].max(axis=1) == 1).all()
    assert np.allclose(weights.sum(axis=1), 1)
    left = [*range(2), *range(5, 16)]
    assert (weights[left] == plain[left]).all()


def test_a_closure_comes_and_goes_within_a_frame_of_its_middle():
    # A p of 40 ms between open vowels; its middle is in frame 12.
    parts = [
        SoundSegment(0, 500_000, "ɑ", 1.0),
        SoundSegment(500_000, 540_000, "p", 3.0),
        SoundSegment(540_000, 1_000_000, "ɑ", 1.0),
    ]
    closed = viseme_weights(parts, RATE, 24, Dials(lead=0))[:, VISEMES.index("bilabial")]
    assert closed[12] == 1
    assert (closed[[11, 13]] >= 0.5).all() and (closed[[11, 13]] < 1).all()
    assert (closed[[9, 10, 14, 15]] < 0.1).all()


def test_weights_of_another_version_or_of_other_classes_are_refused():
    good = json.loads(weights_json.write({"Pim": viseme_weights([], RATE, 5, Dials())}, RATE, 101))
    assert list(weights_json.read(json.dumps(good).encode())) == ["Pim"]
    for wrong in ({"version": 99}, {"visemes": good["visemes"][::-1]}, {"visemes": good["visemes"][:3]}):
        with pytest.raises(FormatError, match="version"):
            weights_json.read(json.dumps(good | wrong).encode())
