"""What landmarks say of a face: on faces made of random points, held in known ways."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import SoundError
from tinfork.core.motion.faces import EYES, SIGNALS, FaceMeasures, blinks, track_of

#: The rim of an eye that is so wide open, 1 wide: its corners at 0 and 8, the lower lid to 7, the upper from 9 on.
_ACROSS = np.concatenate([np.linspace(-0.5, 0.5, 9), np.linspace(-0.5, 0.5, 9)[1:-1]])


def shape(seed=5):
    """A neutral face of 468 points, about 200 pixels high: what is measured lies where it does on people."""
    random = np.random.default_rng(seed)
    points = random.uniform([-70, -100, -60], [70, 100, 30], (468, 3))
    points[10], points[152] = (0, -100, 0), (0, 100, 0)
    for (outer, inner), side in zip(EYES, (-1, 1), strict=True):
        points[outer], points[inner] = (side * 55, -30, 5), (side * 20, -30, 0)
    for brow, side in (((70, 63, 105, 66, 107), -1), ((300, 293, 334, 296, 336), 1)):
        for n, one in enumerate(brow):
            points[one] = (side * (55 - 8 * n), -50, -5)
    points[13] = points[14] = (0, 50, -20)
    return points


def rotation(turn, nod, tilt):
    """How a head is turned that turns right, nods down and tilts clockwise, as one looks at it (y points down, z away
    from who looks): the nose is in front, where z is below 0.
    """
    a, b, c = np.radians([-turn, nod, tilt])
    about_y = np.array([[np.cos(a), 0, np.sin(a)], [0, 1, 0], [-np.sin(a), 0, np.cos(a)]])
    about_x = np.array([[1, 0, 0], [0, np.cos(b), -np.sin(b)], [0, np.sin(b), np.cos(b)]])
    about_z = np.array([[np.cos(c), -np.sin(c), 0], [np.sin(c), np.cos(c), 0], [0, 0, 1]])
    return about_z @ about_y @ about_x


def face(turn=0.0, nod=0.0, tilt=0.0, *, move=(0, 0), size=1.0, gaze=(0.0, 0.0), open_=0.5, brows=0.0, mouth=0.0):
    """That face held in a way; `gaze` and `open_` in widths of an eye, `brows` and `mouth` in pixels."""
    points = shape()
    for brow in ((70, 63, 105, 66, 107), (300, 293, 334, 296, 336)):
        points[list(brow), 1] -= brows
    points[14, 1] += mouth
    # It turns about the middle of the head, behind it.
    axis = np.array([0, 0, 100.0])
    held = size * (points - axis) @ rotation(turn, nod, tilt).T + axis + np.array([*move, 0]) + [320, 240, 0]
    rims, irises = [], []
    for n, (outer, inner) in enumerate(EYES):
        left, right = (held[outer, :2], held[inner, :2]) if n == 0 else (held[inner, :2], held[outer, :2])
        along = right - left
        down = np.array([-along[1], along[0]])
        high = open_ / 2 * np.where(np.arange(16) < 9, 1, -1) * np.sqrt(np.clip(1 - (2 * _ACROSS) ** 2, 0, 1))
        at = _ACROSS if n == 0 else -_ACROSS
        rims.append((left + right) / 2 + at[:, None] * along + high[:, None] * down)
        irises.append((left + right) / 2 + gaze[0] * along + gaze[1] * down)
    return FaceMeasures(held, np.array(irises), np.array(rims))


def tracked(faces, rate=30):
    return track_of(faces, [round(n * 1e6 / rate) for n in range(len(faces))])


def held_for(*ways, frames=20):
    """A neutral second, then each way for some pictures; the row of signals in the middle of each."""
    faces = [face() for _ in range(31)] + [one for way in ways for one in [face(**way)] * frames]
    track = tracked(faces)
    return [track.values[31 + frames * n + frames // 2] for n in range(len(ways))]


angles = st.floats(-25, 25)


@given(turn=angles, nod=angles, tilt=angles, size=st.floats(0.6, 1.6))
def test_a_head_is_turned_as_it_was_turned_at_any_size(turn, nod, tilt, size):
    (row,) = held_for({"turn": turn, "nod": nod, "tilt": tilt, "size": size})
    assert row[:3] == pytest.approx([turn, nod, tilt], abs=0.01)


@given(turn=angles, nod=angles, across=st.floats(-60, 60), down=st.floats(-60, 60))
def test_a_head_that_turns_has_not_moved_and_one_that_moves_has_not_turned(turn, nod, across, down):
    turned, moved = held_for({"turn": turn, "nod": nod}, {"move": (across, down)})
    # The axis is half a height of the face behind what does not move of it: behind its middle, about.
    assert turned[3:5] == pytest.approx([0, 0], abs=0.12)
    assert moved[3:5] == pytest.approx([across / 200, down / 200], abs=1e-6)
    assert moved[:3] == pytest.approx([0, 0, 0], abs=1e-6)


@given(st.floats(-0.3, 0.3), st.floats(-0.2, 0.2), angles)
def test_gaze_is_told_in_widths_of_the_eye_whatever_the_tilt(across, down, tilt):
    (row,) = held_for({"gaze": (across, down), "tilt": tilt})
    assert row[5:7] == pytest.approx([across, down], abs=1e-6)


@given(st.floats(0, 15), st.floats(0, 40), st.floats(-20, 20))
def test_brows_and_mouth_are_told_apart_from_nodding(brows, mouth, nod):
    (row,) = held_for({"brows": brows, "mouth": mouth, "nod": nod})
    assert row[8] == pytest.approx(brows / 200, abs=0.002)
    assert row[9] == pytest.approx(mouth / 200, abs=0.002)


@given(st.floats(-60, 60), st.sampled_from([1, -1]))
def test_a_face_that_lies_nearly_in_one_plane_is_not_turned_inside_out(tilt, side):
    # What trembles a little to the front or to the back is no mirrored face.
    flat = [
        FaceMeasures(one.points * [1, 1, by], one.irises, one.rims)
        for one, by in ((face(), 1e-6), (face(tilt=tilt), side * 1e-6))
    ]
    track = tracked([flat[0]] * 31 + [flat[1]] * 20)
    assert track.values[40, :3] == pytest.approx([0, 0, tilt], abs=0.01)


def test_blinks_are_found_though_the_mesh_never_quite_shuts_an_eye_and_nodding_lowers_lids():
    random = np.random.default_rng(2)
    lids = 0.5 + 0.02 * np.sin(np.arange(300) / 40) + random.normal(0, 0.006, 300)
    at = [12, 60, 90, 131, 200, 290]
    for n in at:
        lids[n : n + 4] = [0.38, 0.16, 0.18, 0.4]
    # One that the mesh hardly sees is a blink as well.
    lids[131:135] = [0.41, 0.36, 0.36, 0.42]
    track = tracked([face(open_=one) for one in lids])
    found = blinks(track)
    assert [round(start * 30 / 1e6) for start, _ in found] == [n - 1 for n in at]
    assert all(end - start < 250_000 for start, end in found)
    shut = track.signal("shut")
    assert all(shut[n : n + 4].max() == 1 for n in at)
    assert shut[20:58].max() == 0


def test_eyes_that_stay_shut_are_shut_but_no_blink():
    lids = [0.5] * 60 + [0.18] * 40 + [0.5] * 60
    shut = tracked([face(open_=one) for one in lids]).signal("shut")
    assert shut[62:98].min() > 0.9
    assert shut[:58].max() == shut[102:].max() == 0


def test_where_no_face_is_found_what_is_around_is_joined():
    faces = [face() for _ in range(31)] + [None] * 10 + [face(tilt=10) for _ in range(31)]
    track = tracked(faces)
    tilt = track.signal("tilt")
    assert track.found == pytest.approx(62 / 72)
    assert np.all(np.diff(tilt) >= -1e-9)
    assert tilt[0] == pytest.approx(0, abs=1e-6)
    assert tilt[-1] == pytest.approx(10, abs=1e-6)
    assert track.values.shape == (72, len(SIGNALS))


@pytest.mark.parametrize("faces", [[], [None] * 40, [face()] * 5 + [None] * 60])
def test_a_film_with_hardly_a_face_is_refused_in_words(faces):
    with pytest.raises(SoundError, match="No face could be followed"):
        tracked(faces)
