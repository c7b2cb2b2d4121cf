"""Drawings bent by a cage: where points go and came from, what folds, and what is refused."""

import json

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from tests.golden.make_poses import FILE
from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict, soundtrack_to_dict
from tinfork.core.motion.bend import bend_of, bent, folds, mirrored, mixed, straightened
from tinfork.core.motion.pose import Pose, in_words
from tinfork.core.soundtrack.model import Clip, Soundtrack, Track

S = 1_000_000
BENDS = json.loads(FILE.read_text(encoding="utf-8"))["bends"]
SHOT = Soundtrack((Track(1, "Voice", "effects"),), (Clip(1, 1, 1, 4 * S, 0, 0, 4 * S),))
CONTEXT = EditContext(FrameRate.parse("24"), {}, frozenset({"1", "-5"}))

cages = st.lists(st.floats(-25, 25).map(lambda pull: round(pull, 2)), min_size=18, max_size=18).map(tuple)
shares = st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=1, max_size=20)


def test_points_go_where_the_surface_through_the_cage_goes():
    for case in BENDS:
        x, y, to_x, to_y = np.array(case["points"]).T
        found = bent(tuple(case["bend"]), x, y)
        assert found[0] == pytest.approx(to_x, abs=1e-8)
        assert found[1] == pytest.approx(to_y, abs=1e-8)
        if case["folds"] is not None:
            assert folds(tuple(case["bend"])) == case["folds"]


@given(cages)
def test_every_point_of_the_cage_goes_where_it_is_pulled(cage):
    x, y = (np.array([n % 3 / 2 for n in range(9)]), np.array([n // 3 / 2 for n in range(9)]))
    to_x, to_y = bent(cage, x, y)
    assert to_x - x == pytest.approx(np.array(cage[::2]) / 100)
    assert to_y - y == pytest.approx(np.array(cage[1::2]) / 100)


@given(cages, shares)
@example((0.0,) * 6 + (2.0, 5.0, 0.0, -14.0, 0.0, 2.0, -12.0, -25.0, -6.0, -7.0, 0.0, 0.0), [(0.0, 1.0)])
def test_what_is_seen_at_a_place_is_what_went_there(cage, points):
    cage = bend_of(cage)
    assume(not folds(cage))
    x, y = np.array(points).T
    back_x, back_y = straightened(cage, *bent(cage, x, y))
    # A drawing that folds nowhere on the grid may yet lie over itself in a corner: another point is seen there then.
    again = bent(cage, back_x, back_y)
    there = bent(cage, x, y)
    assert again[0] == pytest.approx(there[0], abs=2e-4)
    assert again[1] == pytest.approx(there[1], abs=2e-4)


def test_nothing_is_seen_outside_of_a_bent_drawing():
    cage = (0.0, 30.0) * 9
    places = [(0.5, 0.2), (0.5, 1.1), (-0.2, 0.6), (0.5, 1.4), (0.5, 1.33), (1.04, 0.6), (0.5, 0.27)]
    x, y = straightened(cage, *np.array(places).T)
    assert np.isnan(x).tolist() == [True, False, True, True, True, True, True]
    assert (x[1], y[1]) == pytest.approx((0.5, 0.8))


@given(cages, cages, st.floats(0, 1))
def test_between_two_bends_points_go_straight(a, b, share):
    x, y = np.array([0.2, 0.9]), np.array([0.4, 0.1])
    ends = [np.array(bent(one, x, y)) for one in (a, b)]
    assert np.array(bent(mixed(a, b, share), x, y)) == pytest.approx(ends[0] + share * (ends[1] - ends[0]))
    assert mixed((), (), share) == ()
    assert mirrored(mirrored(a)) == pytest.approx(a)


def key(**more):
    return {"speaker": "1", "part": "mouth", "frame": 12, **more}


WOW = [0.0, -6.0, 0, -12, 0, -6, 10, 0, 0, 0, -10, 0, 0, 6, 0, 30, 0, 6]


def test_a_bent_mouth_is_kept_written_and_read_again():
    shot = parse_command("key_set", key(bend=WOW, size=20)).apply(SHOT, CONTEXT)
    assert shot.keys[0].pose == Pose(size=20, bend=tuple(map(float, WOW)))
    assert in_words(shot.keys[0].pose) == "size 20, bent"
    again = soundtrack_from_dict(json.loads(json.dumps(soundtrack_to_dict(shot))))
    assert again == shot
    straight = parse_command("key_set", key(bend=[0] * 18)).apply(shot, CONTEXT)
    assert straight.keys[0].pose == Pose()
    pasted = {"speaker": "1", "part": "-5", "at": 3, "keys": [{"frame": 0, "bend": WOW}]}
    assert parse_command("key_paste", pasted).apply(SHOT, CONTEXT).keys[0].pose.bend == tuple(map(float, WOW))


FOLDED = [0.0] * 6 + [70.0, 0.0] + [0.0] * 10


@pytest.mark.parametrize(
    ("values", "error", "says"),
    [
        (key(bend=WOW, part="head"), TimingError, "not a whole head"),
        (key(bend=WOW, part="face"), TimingError, "not a whole head"),
        (key(bend=FOLDED), TimingError, "fold over itself"),
        (key(bend=WOW[:6]), FormatError, "18 numbers"),
        (key(bend=[*WOW[:17], 81]), FormatError, "bend"),
        (key(bend=[*WOW[:17], float("inf")]), FormatError, "bend"),
        (key(bend="wow"), FormatError, "bend"),
        (key(bend=[0] * 19), FormatError, "bend"),
    ],
)
def test_what_cannot_be_bent_is_refused_in_words(values, error, says):
    with pytest.raises(error, match=says):
        parse_command("key_set", values).apply(SHOT, CONTEXT)
    pasted = {"speaker": "1", "part": "head", "at": 3, "keys": [{"frame": 0, "bend": WOW}]}
    with pytest.raises(TimingError, match="not a whole head"):
        parse_command("key_paste", pasted).apply(SHOT, CONTEXT)
    with pytest.raises(TimingError, match="pulled by up to"):
        Pose(bend=(99.0,) * 18)
    with pytest.raises(ValueError, match="18 numbers"):
        bend_of([1.0])
