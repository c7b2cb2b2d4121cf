"""The loudness of a sound over time, from its waveform peaks."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import US_PER_S
from tinfork.core.kept import kept
from tinfork.core.sound.voice import HOP_US

#: The level of silence (dB).
FLOOR_DB = -60.0


@dataclass(frozen=True, eq=False)
class Loudness:
    """The loudness of a sound, from its waveform peaks.

    `peaks` are int8 pairs (lowest, highest), 127 for full scale, shape (bins, 2), `per_second` of them a second.
    """

    peaks: NDArray[np.int8]
    per_second: float

    @cached_property
    def _swings(self) -> NDArray[np.int64]:
        """The largest swing of each bin, shape (bins,)."""
        swings: NDArray[np.int64] = np.abs(self.peaks.astype(np.int64)).max(axis=1, initial=0)
        return swings

    @cached_property
    def _power_before(self) -> NDArray[np.int64]:
        """The sum of all squared swings before each bin, shape (bins + 1,)."""
        return np.concatenate([[0], np.cumsum(self._swings**2)])

    def levels_db(self, starts_us: NDArray[np.int64], ends_us: NDArray[np.int64]) -> NDArray[np.float64]:
        """The level of each stretch in dB below full scale: the root mean square of its bins' largest swings."""
        first = (starts_us * self.per_second // US_PER_S).astype(np.int64)
        last = np.maximum(first + 1, (-(-ends_us * self.per_second // US_PER_S)).astype(np.int64))
        first, last = (np.clip(at, 0, len(self._swings)) for at in (first, last))
        power = (self._power_before[last] - self._power_before[first]) / np.maximum(last - first, 1) / 127**2
        levels: NDArray[np.float64] = np.maximum(10 * np.log10(np.maximum(power, 1e-12)), FLOOR_DB)
        return levels

    @kept
    def levels(self, duration_us: int) -> NDArray[np.float64]:
        """The level of every 10 ms, in dB below full scale, shape (hops,)."""
        middles = np.arange(HOP_US // 2, max(duration_us, HOP_US), HOP_US)
        bins = (middles * self.per_second / US_PER_S).astype(np.int64)
        swings = self._swings / 127
        own = (
            np.where(bins < len(swings), swings[np.minimum(bins, len(swings) - 1)], 0.0) if len(swings) else bins * 0.0
        )
        out: NDArray[np.float64] = np.maximum(20 * np.log10(np.maximum(own, 1e-9)), FLOOR_DB)
        return out


#: The loudness at which takes are played (LUFS), and the peak they stay below (dB).
LISTENING_LUFS, LISTENING_PEAK_DB = -18.0, -1.0
_MOST_GAIN_DB = 30.0


def listening_gain_db(loudness_lufs: float | None, true_peak_db: float) -> float:
    """The gain with which a take is played, so that all takes are equally loud; it never causes clipping.

    `loudness_lufs` is the integrated loudness of EBU R 128; None, for a sound too soft to measure, means no gain.
    """
    if loudness_lufs is None:
        return 0.0
    wanted = LISTENING_LUFS - loudness_lufs
    room = max(0.0, LISTENING_PEAK_DB - true_peak_db)
    return round(max(-_MOST_GAIN_DB, min(wanted, room, _MOST_GAIN_DB)), 1)
