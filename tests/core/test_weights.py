"""Weights of rigged faces, and numbers of holds."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats import weights_json
from tinfork.core.solver.costs import heard_parts
from tinfork.core.solver.numbers import numbers_of
from tinfork.core.solver.problem import Dials, Hold
from tinfork.core.solver.weights import viseme_weights
from tinfork.core.speech.visemes import CLOSURES, VISEMES

RATE = FrameRate.parse("24")


@settings(max_examples=60)
@given(readings(), st.integers(0, 3))
def test_weights_sum_to_one_and_closures_reach_all_of_it(reading, lead):
    dials = Dials(lead=lead)
    parts = heard_parts(tuple(reading.phonemes()), reading.duration_us, dials)
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
    from tinfork.core.solver.costs import Heard

    parts = [Heard(0, 500_000, "ɑ", 1.0), Heard(500_000, 1_000_000, "i", 1.0)]
    weights = viseme_weights(parts, RATE, 24, Dials(lead=0))
    opened = weights[:, VISEMES.index("open")]
    assert opened[5] > 0.9
    assert opened[18] < 0.1
    assert np.abs(np.diff(opened)).max() < 0.35


def test_the_numbers_of_holds():
    holds = (Hold(0, 2, 1, "rest"), Hold(2, 3, 2, "open"), Hold(3, 5, 1, "rest"), Hold(5, 24, 3, "mid", "sad"))
    numbers = numbers_of(holds, RATE)
    assert [(u.drawing, u.set, u.holds, u.frames, u.pieces) for u in numbers.uses] == [
        (3, "sad", 1, 19, 1),
        (1, "", 2, 4, 2),
        (2, "", 1, 1, 1),
    ]
    assert (numbers.changes_per_second, numbers.shortest, numbers.pieces) == (3.0, 1, 4)
    assert numbers.on == (1 / 24, 4 / 24, 0.0, 19 / 24)
    assert numbers_of((), RATE).uses == ()
    # Three changes in two seconds, at 24 frames a second.
    two_seconds = tuple(Hold(12 * n, 12 * n + 12, 1 + n % 2, "open") for n in range(4))
    assert numbers_of(two_seconds, RATE).changes_per_second == 1.5


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
    from tinfork.core.solver.costs import Heard

    parts = [Heard(0, 500_000, "ɑ", 1.0), Heard(500_000, 1_000_000, "p", 3.0)]
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
