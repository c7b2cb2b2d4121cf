"""Mouths fixed by hand: spans in the shot's time, and everything else solved around them."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import charts, readings
from tests.core.test_solver import RATE, spoken
from tinfork.core.clock import FrameRate
from tinfork.core.errors import TimingError
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict, soundtrack_to_dict
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.explain import explain
from tinfork.core.solver.problem import NO_MOUTH, FramePin
from tinfork.core.solver.solve import in_order, solve_incrementally
from tinfork.core.soundtrack.model import Pin, PinnedMouth, Soundtrack
from tinfork.core.soundtrack.pinning import mouth_pins, pin_mouth, unpin

S = 1_000_000
SHOT = Soundtrack(length_us=20 * S)
ODALYS, PIM = PinnedMouth("1", 3), PinnedMouth("2", 4)


def spans(shot, who="1"):
    return [(p.start_us, p.end_us, p.mouth.drawing) for p in mouth_pins(shot, who)]


def test_a_later_pin_goes_over_an_earlier_one_and_leaves_its_ends():
    shot = pin_mouth(pin_mouth(SHOT, 0, 10 * S, ODALYS), 4 * S, 6 * S, PinnedMouth("1", NO_MOUTH))
    assert spans(shot) == [(0, 4 * S, 3), (4 * S, 6 * S, NO_MOUTH), (6 * S, 10 * S, 3)]
    assert len({p.key for p in shot.pins}) == 3


def test_others_pins_and_stretches_of_sets_stay():
    shot = Soundtrack(pins=(Pin(7, 0, 5 * S),), length_us=20 * S)
    shot = pin_mouth(pin_mouth(shot, 0, 3 * S, PIM), 0, 9 * S, ODALYS)
    assert spans(shot, "2") == [(0, 3 * S, 4)]
    assert Pin(7, 0, 5 * S) in shot.pins


def test_pins_are_let_go():
    shot = pin_mouth(SHOT, S, 2 * S, ODALYS)
    key = shot.pins[0].key
    assert unpin(shot, key).pins == ()
    with pytest.raises(TimingError, match="was removed"):
        unpin(shot, 99)
    with pytest.raises(TimingError, match="A pin must be in the shot and last at least"):
        pin_mouth(shot, 3 * S, 3 * S, ODALYS)


def test_pins_survive_being_stored():
    shot = pin_mouth(pin_mouth(SHOT, 0, S, PinnedMouth("1", None)), 2 * S, 3 * S, PinnedMouth("1", 5, "sad", False))
    assert soundtrack_from_dict(soundtrack_to_dict(shot)) == shot


@given(st.lists(st.tuples(st.integers(0, 19), st.integers(1, 8), st.sampled_from(["1", "2"])), max_size=12))
def test_pins_of_one_character_never_overlap_and_the_last_one_stands(pins):
    shot = SHOT
    for start, length, who in pins:
        shot = pin_mouth(shot, start * S, min(20, start + length) * S, PinnedMouth(who, start))
    for who in ("1", "2"):
        own = mouth_pins(shot, who)
        assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(own))
    if pins:
        start, length, who = pins[-1]
        assert (start * S, min(20, start + length) * S, start) in spans(shot, who)


@settings(max_examples=80, deadline=None)
@given(
    readings(),
    charts(),
    st.lists(
        st.tuples(st.integers(0, 60), st.integers(1, 9), st.sampled_from([None, NO_MOUTH, 1, 77]), st.booleans()),
        max_size=4,
    ),
    st.sampled_from(["12", "24", "30"]),
)
def test_pins_stand_and_the_rest_partitions_the_frames(reading, chart, wanted, rate):
    rate = FrameRate.parse(rate)
    pins = [FramePin(a, a + n, d, "", exact) for a, n, d, exact in wanted]
    solution = solve_incrementally(reading, chart, rate, pins=pins)
    frames = rate.frames_in(reading.duration_us)
    holds = solution.holds
    assert holds[0].start == 0
    assert holds[-1].end == frames
    assert all(a.end == b.start for a, b in itertools.pairwise(holds))
    for pin in solution.pins:
        shown = {h.drawing for h in holds if h.start < pin.end and pin.start < h.end}
        if pin.is_exact and pin.drawing is not None:
            assert shown == {pin.drawing}
        elif pin.drawing is None:
            assert len(shown) == 1
    free = [h for h in holds if not any(h.start < p.end + 1 and p.start - 1 < h.end for p in solution.pins)]
    assert all(h.end - h.start >= Dials().shortest for h in free) or len(holds) == 1
    for at in range(len(holds)):
        assert explain(solution, at).text


def test_a_drawing_that_is_not_exact_is_shown_for_as_long_as_is_best():
    reading = spoken(("ɑ", 12))
    solution = solve_incrementally(reading, STARTER, RATE, pins=[FramePin(16, 18, 7, is_exact=False)])
    (hold,) = [h for h in solution.holds if h.drawing == 7]
    assert hold.start <= 16 < hold.end
    assert hold.end - hold.start >= 2


def test_pins_that_meet_at_a_lower_rate_give_way_to_the_earlier_one():
    assert in_order([FramePin(3, 5), FramePin(4, 6), FramePin(4, 5), FramePin(9, 20)], 12) == (
        FramePin(3, 5),
        FramePin(5, 6),
        FramePin(9, 12),
    )
