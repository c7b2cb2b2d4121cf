"""Blend weights for rigged faces: the share of each viseme class on each frame.

Each sound dominates the mouth around its middle, and less further away; sounds overlap and share each frame: the
dominance functions of Cohen & Massaro (1993), "Modeling coarticulation in synthetic visual speech", after Löfqvist
(1990). On the frame at the middle of a closure (p b m, f v) its class has all the weight.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.segments import SoundSegment
from tinfork.core.speech.visemes import CLOSURES, REST, VISEMES

#: How fast dominance falls, in half lengths of the sound, and how it bends (1 is a peak, 2 a bell).
_FALL, _BEND = 1.1, 1.6
#: A sound reaches this many of its half lengths, and at least this many seconds.
_REACH, _LEAST_S = 4.0, 0.06
#: The weight of rest in silence.
_REST = 1e-3
#: Frames before and after a closure's middle in which its weight rises and falls.
_EASE = 1

_COLUMN = {viseme: column for column, viseme in enumerate(VISEMES)}


def viseme_weights(
    parts: Sequence[SoundSegment],
    rate: FrameRate,
    frames: int,
    dials: Dials,
    by_hand: Sequence[tuple[int, int, str]] = (),
) -> NDArray[np.float64]:
    """Shares of each class of `VISEMES` on each frame, shape (frames, 15); each row sums to 1.

    `parts` are the segments (`segments.segments_of`) in time order; the mouth leads them by `dials.lead` frames. On
    frames `[first, end)` that are set `by_hand` their class has all the weight.
    """
    dominance = np.zeros((frames, len(VISEMES)))
    dominance[:, _COLUMN[REST]] = _REST
    if frames == 0:
        return dominance
    edges = rate.starts_us(frames + dials.lead) / 1e6
    moments = (edges[:-1] + edges[1:])[dials.lead :] / 2
    for part in parts:
        half = max((part.end_us - part.start_us) / 2e6, 0.01)
        middle = (part.start_us + part.end_us) / 2e6
        reach = max(_REACH * half, _LEAST_S)
        first, last = np.searchsorted(moments, (middle - reach, middle + reach))
        away = np.abs(moments[first:last] - middle) / half
        dominance[first:last, _COLUMN[part.viseme]] += part.salience * np.exp(-_FALL * away**_BEND)
    weights: NDArray[np.float64] = dominance / dominance.sum(axis=1, keepdims=True)
    _close(weights, parts, rate, dials.lead)
    for first, end, viseme in by_hand:
        weights[first:end] = 0.0
        weights[first:end, _COLUMN[viseme]] = 1.0
    return weights


def _close(weights: NDArray[np.float64], parts: Sequence[SoundSegment], rate: FrameRate, lead: int) -> None:
    """Give closures all the weight on the frames of their middles, eased in and out beside them, in place."""
    frames = len(weights)
    share = np.zeros((frames, len(VISEMES)))
    for part in parts:
        if part.viseme not in CLOSURES:
            continue
        middle = min(max(rate.frame_at((part.start_us + part.end_us) // 2) - lead, 0), frames - 1)
        for frame in range(max(0, middle - _EASE), min(frames, middle + _EASE + 1)):
            full = 1.0 if frame == middle else 0.5
            share[frame, _COLUMN[part.viseme]] = max(share[frame, _COLUMN[part.viseme]], full)
    # If two closures share a frame, the one nearer to its middle has it.
    total = share.sum(axis=1, keepdims=True)
    taken = np.where(total > 1, share / np.maximum(total, 1e-9), share)
    peak = (share == 1.0).any(axis=1)
    taken[peak] = (share[peak] == 1.0) / (share[peak] == 1.0).sum(axis=1, keepdims=True)
    weights *= 1 - taken.sum(axis=1, keepdims=True)
    weights += taken
