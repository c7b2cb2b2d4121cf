"""Columns that follow a face in a film: poses on frames, keys, drawings, and what stays as it was."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext, FollowedFilm
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.motion.curve import pose_on
from tinfork.core.motion.faces import SIGNALS, FaceTrack
from tinfork.core.motion.following import FaceColumns, Follow, path_after, shown_after
from tinfork.core.motion.pose import FIELDS
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, frame_keys
from tinfork.core.soundtrack.model import Clip, Soundtrack
from tinfork.core.soundtrack.model import Track as SoundTrackRow
from tinfork.core.soundtrack.pinning import mouth_pins

S = 1_000_000
RATE = FrameRate.parse("24")
CLIP = Clip(1, 1, 1, 10 * S, 0, 0, 10 * S)
SHOT = Soundtrack((SoundTrackRow(1, "Voice", "effects"),), (CLIP,))
KINDS = {"head": "head", "face": "face", "mouth": "mouth", "-5": "eyes", "-6": "brows", "-7": "pupils"}


def film(rate=30, seconds=4.0, **signals):
    """A film on which signals go as some functions of seconds say."""
    at = np.arange(round(seconds * rate)) / rate
    values = np.zeros((len(at), len(SIGNALS)))
    for name, function in signals.items():
        values[:, SIGNALS.index(name)] = [function(one) for one in at]
    return FaceTrack(np.round(at * S).astype(np.int64), values)


def context(track, begins_us=0, **more):
    return EditContext(
        RATE, {}, frozenset({"1", "2", "-5", "-6", "-7"}),
        face=lambda who: FaceColumns(KINDS, **more), films={7: FollowedFilm(track, begins_us)},
    )  # fmt: skip


def lay(track, *columns, begins_us=0, shot=SHOT, mirrored=False, **more):
    values = {"speaker": "1", "film": 7, "columns": list(columns), "mirrored": mirrored}
    return parse_command("follow_film", values).apply(shot, context(track, begins_us, **more))


def keys(shot, part):
    return frame_keys(column_keys(shot, MotionColumn("1", part)), RATE)


def x_of(path):
    return path[:, FIELDS.index("x")]


def swing(at):
    return 20 * np.sin(2 * np.pi * at / 2)


@given(st.sampled_from(["tilt", "across", "gaze_across", "turn"]), st.sampled_from(list(KINDS.values())))
def test_in_a_mirror_everything_goes_to_the_other_side_and_nothing_up_or_down(signal, kind):
    track = film(**{signal: swing, "down": swing, "nod": swing, "gaze_down": swing, "brows": swing})
    (first, path), (_, seen) = (path_after(track, Follow(kind, RATE, 240, is_mirrored=m)) for m in (False, True))
    sided = [FIELDS.index(name) for name in ("x", "turn")]
    others = [n for n in range(len(FIELDS)) if n not in sided]
    assert np.allclose(seen[:, sided], -path[:, sided])
    assert np.allclose(seen[:, others], path[:, others])
    assert first == 0


@given(st.floats(-3, 3), st.integers(-40, 40), st.integers(-3, 3))
def test_strength_makes_it_larger_and_later_frames_only_move_it(strength, later, seconds):
    track = film(gaze_across=lambda at: 0.05 * np.sin(3 * at))
    usual = Follow("pupils", RATE, 10_000, begins_us=3600 * S)
    first, path = path_after(track, usual)
    moved, stronger = path_after(track, replace(usual, strength=strength, later=later, begins_us=(3600 + seconds) * S))
    assert moved - first == later + 24 * seconds
    assert np.allclose(x_of(stronger), strength * x_of(path))


def test_a_film_follows_only_where_it_lies_on_the_shot():
    track = film(seconds=4, tilt=swing)
    begun_before, path = path_after(track, Follow("head", RATE, 240, begins_us=-1 * S))
    assert (begun_before, len(path)) == (0, 72)
    late, path = path_after(track, Follow("head", RATE, 240, begins_us=9 * S))
    assert (late, late + len(path)) == (216, 240)
    for outside in (-5 * S, 11 * S):
        with pytest.raises(TimingError, match="outside the shot"):
            lay(track, {"part": "head"}, begins_us=outside)


def test_a_head_tilts_as_the_face_does_and_a_face_that_turns_slides():
    track = film(tilt=lambda at: 12.0, turn=lambda at: 30.0, across=lambda at: 0.1)
    shot = lay(track, {"part": "head"}, {"part": "face", "strength": 50})
    head, face = pose_on(keys(shot, "head"), 40), pose_on(keys(shot, "face"), 40)
    assert (head.turn, head.x) == (12, pytest.approx(6, abs=0.01))
    # Sideways by half of what a right angle would do, at half strength.
    assert (face.turn, face.x) == (0, pytest.approx(14 * 0.5 * 0.5, abs=0.01))


@given(st.integers(5, 100), st.sampled_from(["12", "23.976", "24", "25", "30", "60"]))
def test_an_eye_is_shut_on_a_frame_however_short_the_blink_and_slow_the_rate(at, rate):
    blink = film(rate=60, shut=lambda now: 1.0 if round(now * 60) == at else 0.0)
    first, path = path_after(blink, Follow("eyes", FrameRate.parse(rate), 1000, strength=0.2))
    size = path[:, FIELDS.index("size")]
    assert size.min() == -150
    assert 1 <= np.count_nonzero(size == -150) <= 1 + FrameRate.parse(rate).value // 60
    seconds = (first + int(size.argmin())) / float(FrameRate.parse(rate).value)
    assert abs(seconds - at / 60) <= 1 / float(FrameRate.parse(rate).value) + 1e-5


def test_another_drawing_is_shown_while_lids_are_shut_and_nothing_is_squashed_then():
    track = film(shut=lambda at: 1.0 if 1 <= at < 1.2 else 0.0, brows=lambda at: 0.04 if 2 <= at < 3 else 0.0)
    shot = lay(track, {"part": "-5", "drawing": 3}, {"part": "-6", "drawing": 2})
    pins = [(p.mouth.character, p.mouth.drawing, p.start_us, p.end_us) for p in mouth_pins(shot)]
    assert [pin[:2] for pin in pins] == [("-5", 3), ("-6", 2)]
    spans = [(RATE.frame_at(start), RATE.frame_at(end)) for _, _, start, end in pins]
    assert spans[0] == (24, 29)
    assert spans[1] == pytest.approx((48, 72), abs=1)
    assert shot.keys == ()
    assert shown_after(track, Follow("head", RATE, 240)) == []
    with pytest.raises(TimingError, match="Only eyes and brows"):
        lay(track, {"part": "-7", "drawing": 3})


def test_what_does_not_follow_stays_and_what_does_gives_way_only_while_the_film_lasts():
    shot = SHOT
    for part in ("head", "face"):
        for frame in (30, 200):
            values = {"speaker": "1", "part": part, "frame": frame, "x": 50.0}
            shot = parse_command("key_set", values).apply(shot, context(film()))
    after = lay(film(seconds=4, tilt=swing), {"part": "head"}, shot=shot)
    assert column_keys(after, MotionColumn("1", "face")) == column_keys(shot, MotionColumn("1", "face"))
    assert [k.frame for k in keys(after, "head") if k.pose.x == 50] == [200]
    assert len(keys(after, "head")) < 20
    assert after.pins == shot.pins


def test_a_mirrored_figure_is_seen_to_do_what_the_film_shows():
    track = film(tilt=lambda at: 9.0)
    turned = [pose_on(keys(lay(track, {"part": "head"}, **more), "head"), 9).turn for more in (
        {}, {"is_mirrored": True}, {"mirrored": True}, {"mirrored": True, "is_mirrored": True}
    )]  # fmt: skip
    assert turned == [9, -9, -9, 9]


@pytest.mark.parametrize(
    ("values", "error", "says"),
    [
        ({"film": 8}, TimingError, "That film was removed, or its face has not been"),
        ({"columns": [{"part": "-9"}]}, TimingError, "cannot follow"),
        ({"speaker": "3"}, TimingError, "not in this shot"),
        ({"columns": []}, FormatError, "columns"),
        ({"columns": [{"part": "head", "strength": 1e9}]}, FormatError, "strength"),
        ({"columns": [{"part": "head", "later": float("nan")}]}, FormatError, "later"),
        ({"film": "7"}, FormatError, "film"),
    ],
)
def test_what_cannot_follow_is_refused_in_words(values, error, says):
    usual = {"speaker": "1", "film": 7, "columns": [{"part": "head"}]}
    with pytest.raises(error, match=says):
        parse_command("follow_film", usual | values).apply(SHOT, context(film(tilt=swing)))
