"""Waveform peaks as a pyramid, for drawing at any zoom without the samples.

Level 0 has one (lowest, highest) pair a millisecond; each level above covers four times
as much. Values are int8, 127 for full scale.
"""

import numpy as np
from numpy.typing import NDArray

PER_SECOND = 1000
FACTOR = 4
LEVELS = 5


def peak_pyramid(samples: NDArray[np.float32], rate_hz: int) -> list[NDArray[np.int8]]:
    """`LEVELS` arrays of shape (bins, 2), finest first.

    `samples`: mono, shape (n,), -1 to 1. A sound without samples has one silent bin a level.
    """
    bins = max(1, -(-len(samples) * PER_SECOND // rate_hz))
    starts = np.arange(bins) * rate_hz // PER_SECOND
    if len(samples) == 0:
        low = high = np.zeros(1)
    else:
        starts = np.minimum(starts, len(samples) - 1)
        low = np.minimum.reduceat(samples, starts)
        high = np.maximum.reduceat(samples, starts)
    return pyramid_of(low, high)


def pyramid_of(low: NDArray[np.floating], high: NDArray[np.floating]) -> list[NDArray[np.int8]]:
    """The same from the lowest and highest value a millisecond, each of shape (bins,)."""
    levels = [_pack(low, high)]
    for _ in range(LEVELS - 1):
        starts = np.arange(0, len(low), FACTOR)
        low, high = np.minimum.reduceat(low, starts), np.maximum.reduceat(high, starts)
        levels.append(_pack(low, high))
    return levels


def _pack(low: NDArray[np.floating], high: NDArray[np.floating]) -> NDArray[np.int8]:
    pairs = np.stack([low, high], axis=1)
    packed: NDArray[np.int8] = np.rint(np.clip(pairs, -1, 1) * 127).astype(np.int8)
    return packed
