"""Columns of a character that follow a face in a film: its measures (`faces.FaceTrack`) as poses on frames."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.motion.acting import SHUT
from tinfork.core.motion.faces import FaceTrack
from tinfork.core.motion.pose import FIELDS, LIMITS

#: The kinds of columns that can follow a face.
Kind = Literal["head", "face", "mouth", "eyes", "brows", "pupils"]

#: The height of a face as a share of its picture's, as people draw them.
_FACE = 0.6
#: How far features slide on a head that turns or nods by a right angle, in hundredths of the picture's height.
_SLIDE = 14.0
#: How each signal changes the pose of a column, per unit of the signal (`faces.SIGNALS`): per degree, per height of the
#: face or per width of an eye, in hundredths of the picture's height.
_GAINS: Mapping[Kind, Mapping[str, Mapping[str, float]]] = {
    "head": {"tilt": {"turn": 1.0}, "across": {"x": 100 * _FACE}, "down": {"y": 100 * _FACE}},
    "face": {"turn": {"x": _SLIDE}, "nod": {"y": _SLIDE}},
    "pupils": {"gaze_across": {"x": 15.0}, "gaze_down": {"y": 15.0}, "shut": SHUT},
    "eyes": {"shut": SHUT},
    "brows": {"brows": {"y": -200 * _FACE}},
    "mouth": {"mouth": {"stretch": 150.0}},
}
#: Signals whose sign a mirror changes.
_SIDED = {"turn", "tilt", "across", "gaze_across"}
#: Thresholds for showing another drawing: how far the lids are shut; how far brows are up, in heights of the face.
SHOWN: Mapping[Kind, tuple[str, float]] = {"eyes": ("shut", 0.5), "brows": ("brows", 0.018)}


@dataclass(frozen=True)
class FaceColumns:
    """The columns of a character that can follow a face, by their parts; whether the figure is seen mirrored."""

    kinds: Mapping[str, Kind]
    is_mirrored: bool = False


@dataclass(frozen=True, slots=True)
class Follow:
    """How a column follows: what it is, how strongly (1 as measured), how many frames later.

    `is_mirrored`: as in a mirror. The film begins at `begins_us` of the shot, which has so many frames.
    """

    kind: Kind
    rate: FrameRate
    frames: int
    begins_us: int = 0
    strength: float = 1.0
    later: int = 0
    is_mirrored: bool = False


def path_after(track: FaceTrack, follow: Follow) -> tuple[int, NDArray[np.float64]]:
    """The first frame on which a column follows, and its poses from there on.

    Poses have the shape (frames, 6), in the order of `pose.FIELDS`; there are none where the film lies outside of the
    shot.
    """
    first, at_us = _frames_of(track, follow)
    path = np.zeros((len(at_us), len(FIELDS)))
    for signal, gains in _GAINS[follow.kind].items():
        values = _on_frames(track, signal, at_us, follow.rate)
        # An eye that shuts does so fully, however strong the acting is.
        by = 1.0 if signal == "shut" else follow.strength
        side = -1.0 if follow.is_mirrored and signal in _SIDED else 1.0
        for name, gain in gains.items():
            path[:, FIELDS.index(name)] += by * side * gain * values
    low, high = np.array(list(LIMITS.values())).T
    return first, np.clip(path, low, high)


def shown_after(track: FaceTrack, follow: Follow) -> list[tuple[int, int]]:
    """The frames `[first, end)` that show another drawing: that of shut eyes or raised brows."""
    if follow.kind not in SHOWN:
        return []
    signal, limit = SHOWN[follow.kind]
    first, at_us = _frames_of(track, follow)
    by = 1.0 if signal == "shut" else follow.strength
    is_on = by * _on_frames(track, signal, at_us, follow.rate) > limit
    edges = first + np.flatnonzero(np.diff(np.concatenate([[0], is_on.astype(int), [0]])))
    return [(int(start), int(end)) for start, end in zip(edges[::2], edges[1::2], strict=True)]


def _on_frames(track: FaceTrack, signal: str, at_us: NDArray[np.float64], rate: FrameRate) -> NDArray[np.float64]:
    """A signal at the times of the film at which frames begin; angles as the sideways shift of what is in front."""
    values = track.signal(signal)
    if signal in ("turn", "nod"):
        values = np.sin(np.radians(values))
    out = np.interp(at_us, track.times_us, values)
    if signal == "shut":
        # A blink may be shorter than a frame: an eye that is shut at any time of the frame counts as shut.
        until = np.append(at_us[1:], at_us[-1:] + rate.first_us(1))
        for n, (start, end) in enumerate(zip(at_us, until, strict=True)):
            inside = values[np.searchsorted(track.times_us, start) : np.searchsorted(track.times_us, end)]
            out[n] = max(out[n], inside.max(initial=0.0))
    return out


def _frames_of(track: FaceTrack, follow: Follow) -> tuple[int, NDArray[np.float64]]:
    """The first frame that the film covers, and the film's time for each frame from there on (microseconds)."""
    rate = follow.rate
    begin_us, end_us = (follow.begins_us + int(track.times_us[n]) for n in (0, -1))
    first = max(0, rate.frame_at(begin_us) + follow.later)
    last = min(follow.frames - 1, rate.frame_at(end_us) + follow.later)
    at = [rate.first_us(frame - follow.later) for frame in range(first, last + 1)]
    return first, np.array(at, dtype=np.float64) - follow.begins_us
