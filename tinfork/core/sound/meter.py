"""Measures of a sound that arrives in blocks: waveform peaks, level per 10 ms, a histogram of its samples.

Only these are stored, so that an hour of sound takes a few megabytes.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.peaks import PER_SECOND, pyramid_of

_BINS = 2000
_MS_PER_HOP = 10


@dataclass(frozen=True)
class Measured:
    """The measures of a sound.

    `frames`: samples a channel; `peaks` as `peak_pyramid` returns; `levels_db` per 10 ms; `spread`: a histogram of
    |sample|, 0 to 1; `channel_power`: by channel.
    """

    frames: int
    peaks: list[NDArray[np.int8]]
    levels_db: NDArray[np.float64]
    spread: NDArray[np.int64]
    channel_power: NDArray[np.float64]

    @property
    def peak(self) -> float:
        """The largest sample, 0 to 1."""
        found = np.flatnonzero(self.spread)
        return float((found[-1] + 1) / _BINS) if len(found) else 0.0


class Meter:
    """Measures blocks of shape (n, channels), at a rate with a whole number of samples a millisecond."""

    def __init__(self, rate_hz: int) -> None:
        if rate_hz % PER_SECOND:
            raise ValueError("The rate must be a whole number of samples a millisecond.")
        self._bin = rate_hz // PER_SECOND
        self._rest = np.zeros((0, 1), dtype=np.float32)
        self._low: list[NDArray[np.float32]] = []
        self._high: list[NDArray[np.float32]] = []
        self._power: list[NDArray[np.float64]] = []
        self._spread = np.zeros(_BINS, dtype=np.int64)
        self._channels = np.zeros(1)
        self._frames = 0

    def feed(self, block: NDArray[np.float32]) -> None:
        """Measure a block, -1 to 1."""
        self._frames += len(block)
        if not self._low and not len(self._rest):
            self._rest = block[:0]
            self._channels = np.zeros(block.shape[1])
        self._channels += (block.astype(np.float64) ** 2).sum(axis=0)
        sizes = np.minimum((np.abs(block) * _BINS).astype(np.int64), _BINS - 1)
        self._spread += np.bincount(sizes.ravel(), minlength=_BINS)
        block = np.concatenate([self._rest, block])
        whole = len(block) // self._bin * self._bin
        self._take(block[:whole])
        self._rest = block[whole:]

    def _take(self, block: NDArray[np.float32]) -> None:
        if not len(block):
            return
        mono = block.mean(axis=1).reshape(-1, self._bin)
        self._low.append(mono.min(axis=1))
        self._high.append(mono.max(axis=1))
        self._power.append((mono.astype(np.float64) ** 2).mean(axis=1))

    def finish(self) -> Measured:
        """The measures of all blocks."""
        if len(self._rest):
            rest = self._rest.mean(axis=1)
            self._low.append(rest.min(keepdims=True))
            self._high.append(rest.max(keepdims=True))
            self._power.append((rest.astype(np.float64) ** 2).mean(keepdims=True))
        none = np.zeros(1)
        low = np.concatenate(self._low) if self._low else none
        high = np.concatenate(self._high) if self._high else none
        power = np.concatenate(self._power) if self._power else none
        hops = max(1, len(power) // _MS_PER_HOP)
        means = (
            np.array([power.mean()])
            if len(power) < _MS_PER_HOP
            else power[: hops * _MS_PER_HOP].reshape(hops, -1).mean(axis=1)
        )
        levels = 10 * np.log10(np.maximum(means, 1e-12))
        share = self._channels / max(self._frames, 1)
        return Measured(self._frames, pyramid_of(low, high), levels, self._spread, share)
