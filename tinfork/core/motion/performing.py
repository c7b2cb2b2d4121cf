"""A path that was drawn with the pointer during playback, reduced to few keys.

The lag of the hand is removed and the path smoothed with a binomial window. Keys are set where the path reverses; more
are added where the curve through them is furthest from the path, until it is near everywhere. Then keys that are not
needed are removed, so that few are left to edit. Each key gets the way to the next one that is nearest to the path.
"""

from bisect import bisect_left, insort
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.motion.curve import FrameKey, pose_on
from tinfork.core.motion.pose import FIELDS, Pose

#: How late a hand follows sound and picture, at full speed (microseconds).
LAG_US = 100_000
#: How far the curve may be from the path, in the units of each value of a pose.
TOLERANCE = np.array([0.6, 0.6, 0.8, 1.5, 1.0, 1.5])
_WINDOW = np.array([1.0, 4.0, 6.0, 4.0, 1.0]) / 16


@dataclass(frozen=True, slots=True)
class Sample:
    """Where the pointer was at a time of the sound."""

    at_us: int
    pose: Pose


def path_of(samples: Sequence[Sample], rate: FrameRate, frames: int, speed: float) -> tuple[int, NDArray[np.float64]]:
    """The first frame of a performance, and its path on frames, shape (frames, 6).

    The lag is removed and the path is smoothed between its unchanged ends. The path is empty if it lies outside the
    shot.
    """
    ordered = sorted(samples, key=lambda one: one.at_us)
    times = np.array([one.at_us - LAG_US * speed for one in ordered])
    values = np.array([one.pose.values for one in ordered])
    first = max(0, rate.frame_at(max(0, round(times[0]))))
    last = min(frames - 1, rate.frame_at(max(0, round(times[-1]))))
    if last < first:
        return 0, np.zeros((0, len(FIELDS)))
    at = np.array([rate.first_us(frame) for frame in range(first, last + 1)])
    path = np.stack([np.interp(at, times, values[:, n]) for n in range(len(FIELDS))], axis=1)
    if len(path) > len(_WINDOW):
        # Extended by its point reflection at both ends, the smoothed path keeps its ends.
        before, after = 2 * path[0] - path[2:0:-1], 2 * path[-1] - path[-2:-4:-1]
        padded = np.concatenate([before, path, after])
        path = np.stack([np.convolve(padded[:, n], _WINDOW, "valid") for n in range(len(FIELDS))], axis=1)
    return first, path


def blended(first: int, path: NDArray[np.float64], keys: Sequence[FrameKey], share: float) -> NDArray[np.float64]:
    """A path (`path_of`) mixed with what keys show on its frames: `share` 1 is the path alone, 0 the keys."""
    was = np.array([pose_on(keys, first + at).values for at in range(len(path))]).reshape(path.shape)
    mixed: NDArray[np.float64] = was + share * (path - was)
    return mixed


def reduced(first: int, path: NDArray[np.float64]) -> list[FrameKey]:
    """Few keys whose curve stays within `TOLERANCE` of a path (`path_of`)."""
    if not len(path):
        return []
    work = _Reduction(path)
    work.add()
    work.spare()
    return [replace(key, frame=first + key.frame) for key in work.keys]


class _Reduction:
    """Keys on frames of a path, counted from its first, and how far their curve is from it, in tolerances."""

    def __init__(self, path: NDArray[np.float64]) -> None:
        self.path = path
        last = len(path) - 1
        self.keys = [self._key(at) for at in sorted({0, last, *_turns(path)})]
        self.away = np.zeros(len(path))
        self._look(0, len(self.keys) - 1)

    def add(self) -> None:
        """Keys where the curve is too far away, the worst first."""
        while self.away.max() > 1:
            at = int(self.away.argmax())
            insort(self.keys, self._key(at), key=lambda key: key.frame)
            self._look_around(at)

    def spare(self) -> None:
        """Remove the keys without which the curve is still near enough."""
        for frame in [key.frame for key in self.keys[1:-1]]:
            kept, away = list(self.keys), self.away.copy()
            self.keys = [key for key in self.keys if key.frame != frame]
            self._look_around(frame)
            if self.away.max() > 1:
                self.keys, self.away = kept, away

    def _key(self, at: int) -> FrameKey:
        pose = {name: round(float(value), 2) for name, value in zip(FIELDS, self.path[at], strict=True)}
        return FrameKey(at, Pose.clamped(pose), "smooth")

    def _look_around(self, at: int) -> None:
        """A key changes the curve up to two keys away."""
        here = bisect_left(self.keys, at, key=lambda key: key.frame)
        self._look(max(0, here - 3), min(len(self.keys) - 1, here + 3))

    def _look(self, first: int, last: int) -> None:
        """Choose for each key from one to another the way to the next that is nearest to the path."""
        for n in range(first, last):
            begin, end = self.keys[n].frame, self.keys[n + 1].frame
            wanted = self.path[begin:end]
            tries = []
            for way in ("ease", "smooth", "linear"):
                self.keys[n] = replace(self.keys[n], way=way)
                shown = np.array([pose_on(self.keys, at).values for at in range(begin, end)])
                away = (np.abs(shown - wanted) / TOLERANCE).max(axis=1)
                # The values of a key are rounded when stored: use the rounded ones.
                away[0] = 0
                tries.append((float(away.max()), way, away))
            _, way, self.away[begin:end] = min(tries, key=lambda one: one[0])
            self.keys[n] = replace(self.keys[n], way=way)


def _turns(path: NDArray[np.float64]) -> set[int]:
    """Where a value reverses, if it changes by more than its tolerance."""
    out: set[int] = set()
    for n in range(path.shape[1]):
        values = path[:, n]
        if values.max() - values.min() > TOLERANCE[n]:
            slope = np.sign(np.diff(values))
            out |= set((np.flatnonzero(slope[1:] * slope[:-1] < 0) + 1).tolist())
    return out
