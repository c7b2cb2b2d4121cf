"""What the landmarks of a face in a film tell: turn, nod, tilt, gaze, lids, brows, mouth.

Landmarks are the 468 points of the mesh of Kartynnik and others 2019 (arXiv 1907.06724), in its order. The rotation of
a head is the one that best maps its rigid points to those of the neutral face (Kabsch 1976, "A solution for the best
rotation to relate two sets of vectors", Acta Crystallographica A32; the scale as in Umeyama 1991).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SoundError

Points = NDArray[np.float64]

#: The outer and the inner corner of each eye, the left one in the picture first.
EYES = ((33, 133), (263, 362))
#: The rim of an eye in the order of the iris model: points of its lower lid, and those above them of the upper one.
_LOWER_LID, _UPPER_LID = (3, 4, 5), (11, 12, 13)
#: Rigid points, which no expression moves: forehead, bridge and sides of the nose, temples, corners of the eyes.
_STIFF = (10, 109, 338, 151, 9, 8, 168, 6, 197, 195, 5, 54, 284, 127, 356, 234, 454, 133, 362, 33, 263, 21, 251)
#: Each brow from the outside to the inside, along its upper edge.
_BROWS = ((70, 63, 105, 66, 107), (300, 293, 334, 296, 336))
#: How far the axis that a head turns about is behind its face, in heights of the face.
_BEHIND = 0.5
_TOP, _CHIN, _LIP_ABOVE, _LIP_BELOW = 10, 152, 13, 14

#: What is measured, in the order of the columns of `Track.values`, with its unit.
SIGNALS = (
    "turn",  # degrees, to the right of the picture
    "nod",  # degrees, down
    "tilt",  # degrees, clockwise
    "across",  # heights of the face, to the right
    "down",  # heights of the face
    "gaze_across",  # widths of an eye, to the right
    "gaze_down",  # widths of an eye
    "shut",  # of the lids: 0 as usual, 1 shut
    "brows",  # heights of the face, up
    "mouth",  # between the lips, heights of the face
)
#: How long the face counts as neutral, from its first picture on (microseconds).
_NEUTRAL_US = 1_000_000
#: The mesh is found anew in each picture and trembles; the standard deviation of its smoothing (microseconds).
_SMOOTH_US = 33_000
#: Lids count as wide open at this quantile of the pictures within so many microseconds: nodding lowers them, too.
_OPEN_SHARE, _OPEN_OVER_US = 0.8, 4_000_000
#: They close where they are nearer by this share of wide open, and by so many times their tremble.
_CLOSING, _TREMBLES = 0.15, 4.0
#: A blink is shorter than this (microseconds); the mesh never quite shuts an eye. The share of closing that counts as
#: shut in longer ones.
_BLINK_US, _SHUT_AT = 600_000, 0.6
#: The least share of the pictures that must show the face for it to be followed.
_LEAST = 0.2


@dataclass(frozen=True)
class FaceMeasures:
    """A face in a picture: landmarks (468, 3) in pixels, z the same towards the back; the middles of the irises (2, 2).

    The rims of the eyes (2, 15 or more, 2), in the order of the iris model; how sure it is, of 1.
    """

    points: Points
    irises: Points
    rims: Points
    confidence: float = 1.0


@dataclass(frozen=True)
class FaceTrack:
    """How a face is held, relative to the neutral face at its start.

    `values` has a row for each of `times_us`, in the order of `SIGNALS`; `found` says on which share of the pictures
    there was a face.
    """

    times_us: NDArray[np.int64]
    values: NDArray[np.float64]
    found: float = 1.0

    def signal(self, name: str) -> NDArray[np.float64]:
        """One of `SIGNALS`, shape (times,)."""
        column: NDArray[np.float64] = self.values[:, SIGNALS.index(name)]
        return column


def track_of(faces: Sequence[FaceMeasures | None], times_us: Sequence[int]) -> FaceTrack:
    """Measure the faces in pictures at some times. Where none was found, values are interpolated.

    Raises
    ------
    SoundError
        Where there is hardly any face.
    """
    there = [n for n, face in enumerate(faces) if face is not None]
    if not there or len(there) < _LEAST * len(faces):
        raise SoundError("film.no_face")
    seen = [face for face in faces if face is not None]
    begin = times_us[there[0]]
    first = [n for n in range(len(seen)) if times_us[there[n]] - begin <= _NEUTRAL_US]
    still = _shape([seen[n].points for n in first])
    raw = np.array([_measure(face, still) for face in seen])
    usual = np.median(raw[first], axis=0)
    lids = raw[:, SIGNALS.index("shut")]
    raw = raw - usual
    times = np.asarray(times_us, np.int64)
    raw[:, SIGNALS.index("shut")] = _shut(lids, times[there])
    whole = np.stack([np.interp(times, times[there], raw[:, n]) for n in range(len(SIGNALS))], axis=1)
    smooth = _smoothed(whole, times)
    # Lids are fast: outliers are real, and kept.
    smooth[:, SIGNALS.index("shut")] = whole[:, SIGNALS.index("shut")]
    return FaceTrack(times, smooth, len(there) / len(faces))


def blinks(track: FaceTrack) -> list[tuple[int, int]]:
    """When the lids were shut, `[start, end)` in microseconds: from before they close to when they are open again."""
    shut = track.signal("shut")
    out: list[tuple[int, int]] = []
    n = 0
    while n < len(shut):
        if not shut[n]:
            n += 1
            continue
        end = n
        while end < len(shut) and shut[end]:
            end += 1
        span = int(track.times_us[max(0, n - 1)]), int(track.times_us[min(end, len(shut) - 1)])
        if shut[n:end].max() == 1:
            out.append(span)
        n = end
    return out


def _shape(shapes: Sequence[Points]) -> Points:
    """The mean of some faces, each aligned to the first."""
    first = shapes[0]
    laid = [first]
    for points in shapes[1:]:
        turn, scale, move = _laid_over(points[list(_STIFF)], first[list(_STIFF)])
        laid.append(scale * points @ turn.T + move)
    mean: Points = np.mean(laid, axis=0)
    return mean


def _laid_over(points: Points, goal: Points) -> tuple[Points, float, Points]:
    """The rotation (3, 3), scale and shift that best align points to others (least squares)."""
    middle, aim = points.mean(axis=0), goal.mean(axis=0)
    a, b = points - middle, goal - aim
    u, s, vt = np.linalg.svd(b.T @ a)
    right = np.array([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    turn: Points = u @ np.diag(right) @ vt
    scale = float((s * right).sum() / max(1e-12, (a * a).sum()))
    return turn, scale, aim - scale * turn @ middle


def _measure(face: FaceMeasures, still: Points) -> NDArray[np.float64]:
    """A row of signals in the order of `SIGNALS`, not yet relative to the neutral ones."""
    stiff = list(_STIFF)
    turn, scale, move = _laid_over(still[stiff], face.points[stiff])
    # R = Rz(tilt) Ry Rx, the nose being in front: to the right is a negative turn about y, which points down.
    angles = np.degrees(
        [
            np.arcsin(np.clip(turn[2, 0], -1, 1)),
            np.arctan2(turn[2, 1], turn[2, 2]),
            np.arctan2(turn[1, 0], turn[0, 0]),
        ]
    )
    height = float(np.linalg.norm(still[_CHIN] - still[_TOP]))
    # The middle of the head, between the ears, does not move when the head turns or nods.
    middle = still[stiff].mean(axis=0) + np.array([0.0, 0.0, _BEHIND * height])
    moved = (scale * turn @ middle + move - middle)[:2] / height
    gaze = np.mean([_gaze(face, eye) for eye in (0, 1)], axis=0)
    lids = float(np.mean([_between_lids(face, eye) for eye in (0, 1)]))
    # With the head's rotation undone: nodding must not count as raising the brows.
    upright = face.points @ turn / scale / height
    eyes = np.mean([upright[corner, 1] for eye in EYES for corner in eye])
    brows = eyes - np.mean([upright[list(brow), 1].mean() for brow in _BROWS])
    mouth = float(np.linalg.norm(upright[_LIP_BELOW] - upright[_LIP_ABOVE]))
    return np.array([*angles, *moved, *gaze, lids, brows, mouth])


def _gaze(face: FaceMeasures, eye: int) -> NDArray[np.float64]:
    """Where an iris is, from the middle of its eye: along it to the right of the picture, and across it down."""
    rim = face.rims[eye]
    left, right = (rim[0], rim[8]) if eye == 0 else (rim[8], rim[0])
    along = (right - left) / np.linalg.norm(right - left)
    away = face.irises[eye] - (left + right) / 2
    width = float(np.linalg.norm(right - left))
    return np.array([away @ along, away @ np.array([-along[1], along[0]])]) / width


def _between_lids(face: FaceMeasures, eye: int) -> float:
    """How far the lids are apart, in widths of the eye."""
    rim = face.rims[eye]
    apart = [np.linalg.norm(rim[a] - rim[b]) for a, b in zip(_LOWER_LID, _UPPER_LID, strict=True)]
    return float(np.mean(apart) / np.linalg.norm(rim[8] - rim[0]))


def _shut(apart: NDArray[np.float64], times_us: NDArray[np.int64]) -> NDArray[np.float64]:
    """How far lids are shut, 0 to 1, from their distance: 0 except where they close."""
    reach = max(1, round(_OPEN_OVER_US / 2 / _step_us(times_us)))
    around = np.lib.stride_tricks.sliding_window_view(np.pad(apart, reach, mode="symmetric"), 2 * reach + 1)
    nearer = 1 - apart / np.maximum(1e-6, np.quantile(around, _OPEN_SHARE, axis=1))
    middle = float(np.median(nearer))
    trembles = 1.4826 * float(np.median(np.abs(nearer - middle)))
    closing = nearer > max(_CLOSING, middle + _TREMBLES * trembles)
    shut = np.zeros(len(apart))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], closing.astype(int), [0]])))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        is_blink = times_us[end - 1] - times_us[first] < _BLINK_US
        whole = nearer[first:end].max() if is_blink else _SHUT_AT
        shut[first:end] = np.clip(nearer[first:end] / whole, 0, 1)
    return shut


def _step_us(times_us: NDArray[np.int64]) -> float:
    """From one picture to the next, in microseconds."""
    return max(1.0, float(np.median(np.diff(times_us)))) if len(times_us) > 1 else 1e6


def _smoothed(values: NDArray[np.float64], times_us: NDArray[np.int64]) -> NDArray[np.float64]:
    """Rows smoothed in time with a Gaussian of `_SMOOTH_US`; the ends are extended by their values."""
    if len(values) < 3:
        return values
    step_us = _step_us(times_us)
    reach = max(1, round(3 * _SMOOTH_US / step_us))
    at = np.arange(-reach, reach + 1) * step_us
    bell = np.exp(-0.5 * (at / _SMOOTH_US) ** 2)
    bell /= bell.sum()
    padded = np.pad(values, ((reach, reach), (0, 0)), mode="edge")
    return np.stack([np.convolve(padded[:, n], bell, "valid") for n in range(values.shape[1])], axis=1)
