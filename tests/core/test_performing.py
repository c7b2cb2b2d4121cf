"""What a hand performed while it played: few keys, near the path, where it was, and nothing else is touched."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.motion.curve import FrameKey, pose_on
from tinfork.core.motion.performing import LAG_US, TOLERANCE, Sample, blended, path_of, reduced
from tinfork.core.motion.pose import Pose
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, key_frame
from tinfork.core.soundtrack.model import Clip, Soundtrack, Track

RATE = FrameRate.parse("24")
S = 1_000_000


def swing(seconds, hertz, *, noise=0.0, every_us=8_000, turn=20.0):
    """The pointer to and fro, asked for every few milliseconds, late by the hand's lag."""
    dice = np.random.default_rng(7)
    out = []
    for at in range(0, int(seconds * S), every_us):
        value = turn * math.sin(2 * math.pi * hertz * at / S)
        out.append(Sample(at + LAG_US, Pose(turn=value + noise * dice.standard_normal())))
    return out


@pytest.mark.parametrize(("hertz", "most"), [(0.5, 9), (1, 14), (2, 26)])
def test_a_swing_is_laid_down_where_it_was_meant_with_few_keys(hertz, most):
    first, path = path_of(swing(4, hertz), RATE, 200, 1)
    keys = reduced(first, path)
    assert len(keys) <= most
    meant = [20 * math.sin(2 * math.pi * hertz * frame / 24) for frame in range(96)]
    shown = [pose_on(keys, frame).turn for frame in range(96)]
    # Smoothing takes off the peaks of fast swings a little.
    assert max(abs(a - b) for a, b in zip(meant, shown, strict=True)) < 1.2 * (1 + hertz)


def test_a_trembling_hand_is_steadied():
    plain = reduced(*path_of(swing(4, 0.5), RATE, 200, 1))
    shaky = reduced(*path_of(swing(4, 0.5, noise=0.6), RATE, 200, 1))
    away = [abs(pose_on(plain, f).turn - pose_on(shaky, f).turn) for f in range(96)]
    assert np.mean(away) < 0.6
    assert len(shaky) < 40


def test_the_lag_is_shorter_in_the_sound_when_it_plays_slower():
    slow = [Sample(one.at_us, one.pose) for one in swing(4, 0.5)]
    full, _ = path_of(slow, RATE, 200, 1)
    half, _ = path_of(slow, RATE, 200, 0.5)
    assert (full, half) == (0, 1)


POSES = st.builds(Pose, st.floats(-50, 50), st.floats(-50, 50), st.floats(-90, 90), st.floats(-50, 50))


@given(st.lists(st.tuples(st.integers(0, 12 * S), POSES), min_size=2, max_size=40), st.sampled_from([0.25, 0.5, 1.0]))
def test_the_curve_is_near_the_path_everywhere_and_keeps_to_the_shot(rows, speed):
    first, path = path_of([Sample(at, pose) for at, pose in rows], RATE, 240, speed)
    keys = reduced(first, path)
    assert all(0 <= key.frame < 240 for key in keys)
    for at, wanted in enumerate(path):
        away = np.abs(np.array(pose_on(keys, first + at).values) - wanted)
        assert (away <= TOLERANCE + 0.01).all()
    if len(path):
        assert (keys[0].frame, keys[-1].frame) == (first, first + len(path) - 1)


CLIP = Clip(1, 1, 1, 10 * S, 0, 0, 10 * S)
CONTEXT = EditContext(RATE, {}, frozenset({"1", "2"}))


def perform(soundtrack, samples, **more):
    path = [{"at_us": one.at_us, "turn": one.pose.turn} for one in samples]
    command = parse_command("key_perform", {"speaker": "1", "part": "head", "path": path, **more})
    return command.apply(soundtrack, CONTEXT)


def test_performing_is_an_edit_that_takes_the_place_of_the_keys_of_its_time():
    shot = Soundtrack((Track(1, "Voice", "effects"),), (CLIP,))
    for frame in (10, 60, 200):
        for part in ("head", "face"):
            values = {"speaker": "1", "part": part, "frame": frame, "x": 3}
            shot = parse_command("key_set", values).apply(shot, CONTEXT)
    after = perform(shot, swing(4, 0.5))
    face = MotionColumn("1", "face")
    assert column_keys(after, face) == column_keys(shot, face)
    head = column_keys(after, MotionColumn("1", "head"))
    assert [key_frame(k, RATE) for k in head if k.pose.x == 3] == [200]
    assert not any(k.made_by for k in head)


def test_what_was_performed_outside_of_the_shot_is_refused():
    shot = Soundtrack((Track(1, "Voice", "effects"),), (CLIP,))
    late = [Sample(one.at_us + 20 * S, one.pose) for one in swing(1, 1)]
    with pytest.raises(TimingError, match="The performance is outside the shot"):
        perform(shot, late)
    with pytest.raises(FormatError, match="“path” must be"):
        perform(shot, late[:1])


def keyed(*rows, part="head"):
    """A shot with keys on frames: (frame, x)."""
    shot = Soundtrack((Track(1, "Voice", "effects"),), (CLIP,))
    for frame, x in rows:
        shot = parse_command("key_set", {"speaker": "1", "part": part, "frame": frame, "x": x}).apply(shot, CONTEXT)
    return shot


def head_of(soundtrack):
    return [(key_frame(k, RATE), k.pose, k.made_by) for k in column_keys(soundtrack, MotionColumn("1", "head"))]


@given(st.lists(POSES, min_size=2, max_size=30), POSES, st.floats(0, 1))
def test_a_blend_lies_between_what_was_there_and_what_was_performed(poses, before, share):
    path = np.array([pose.values for pose in poses])
    mixed = blended(40, path, [FrameKey(0, before)], share)
    was = np.array(before.values)
    assert np.allclose(mixed, (1 - share) * was + share * path)


def test_blended_by_half_a_performance_is_half_as_large_on_a_head_at_rest():
    whole, half, none = (perform(keyed((0, 0)), swing(4, 0.5), blend=blend) for blend in (100, 50, 0))
    at = [[pose_on([FrameKey(f, p) for f, p, _ in head_of(one)], 12).turn for one in (whole, half, none)]][0]
    assert at[0] == pytest.approx(20, abs=1.5)
    assert at[1] == pytest.approx(10, abs=1.5)
    assert at[2] == 0


def test_another_take_comes_in_the_place_of_the_first_one_and_nothing_of_it_is_left():
    shot = keyed((20, 3), (30, 4), (200, 5))
    short, long = swing(1, 1), swing(4, 0.5)
    first = perform(shot, long)
    assert next(row[0] for row in head_of(first)) == 0
    over = {
        "first": 0,
        "last": 100,
        "keys": [{"frame": 20, "x": 3.0}, {"frame": 30, "x": 4.0}],
    }
    assert head_of(perform(first, short, over=over)) == head_of(perform(shot, short))


def test_what_was_proposed_is_proposed_again_where_a_take_is_replaced_by_a_shorter_one():
    over = {"first": 0, "last": 100, "keys": [{"frame": 60, "turn": 2.0, "by": "nods: “tram”"}]}
    over["keys"] += [{"frame": 150, "x": 9.0}, {"frame": 200, "x": 9.0}]
    after = perform(perform(keyed((200, 5)), swing(4, 0.5)), swing(1, 1), over=over)
    assert (60, Pose(turn=2), "nods: “tram”") in head_of(after)
    # Outside of the frames of earlier takes nothing is put back.
    assert [(frame, pose.x) for frame, pose, _ in head_of(after) if frame > 100] == [(200, 5)]


@pytest.mark.parametrize(
    "more",
    [{"blend": 101}, {"blend": -1}, {"over": {"first": 0, "last": 3}}, {"over": {"first": 0, "last": 3, "keys": [{}]}},
     {"over": {"first": 9, "last": 3, "keys": []}}],
)  # fmt: skip
def test_what_is_no_blend_and_no_take_is_refused(more):
    with pytest.raises(FormatError):
        perform(keyed((0, 0)), swing(1, 1), **more)
