"""How loud a sound is over time, from its waveform peaks."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import US_PER_S
from tinfork.core.sound.voice import HOP_US

#: What silence counts as.
FLOOR_DB = -60.0


@dataclass(frozen=True)
class Loudness:
    """`peaks`: int8 pairs (lowest, highest), 127 for full scale, shape (bins, 2), `per_second` of them a second."""

    peaks: NDArray[np.int8]
    per_second: float

    def level_db(self, start_us: int, end_us: int) -> float:
        """The level of a stretch in dB below full scale: the root mean square of its bins' largest swings."""
        first = int(start_us * self.per_second // US_PER_S)
        last = max(first + 1, int(-(-end_us * self.per_second // US_PER_S)))
        swings = np.abs(self.peaks[first:last].astype(np.float64)).max(axis=1, initial=0.0)
        power = float((swings**2).mean()) / 127**2 if len(swings) else 0.0
        return max(FLOOR_DB, 10 * float(np.log10(power))) if power > 0 else FLOOR_DB

    def levels(self, duration_us: int) -> NDArray[np.float64]:
        """The level of every 10 ms, in dB below full scale, shape (hops,)."""
        middles = np.arange(HOP_US // 2, max(duration_us, HOP_US), HOP_US)
        bins = (middles * self.per_second / US_PER_S).astype(np.int64)
        swings = np.abs(self.peaks.astype(np.float64)).max(axis=1, initial=0.0) / 127
        own = (
            np.where(bins < len(swings), swings[np.minimum(bins, len(swings) - 1)], 0.0) if len(swings) else bins * 0.0
        )
        out: NDArray[np.float64] = np.maximum(20 * np.log10(np.maximum(own, 1e-9)), FLOOR_DB)
        return out


#: What takes are brought to for listening (LUFS), and the peak they stay under (dB).
LISTENING_LUFS, LISTENING_PEAK_DB = -18.0, -1.0
_MOST_GAIN_DB = 30.0


def listening_gain_db(loudness_lufs: float | None, true_peak_db: float) -> float:
    """How much louder (or softer) a take is played, so that all sound alike; never into clipping by being raised.

    `loudness_lufs` is integrated after EBU R 128; None, for what is too soft to say, changes nothing.
    """
    if loudness_lufs is None:
        return 0.0
    wanted = LISTENING_LUFS - loudness_lufs
    room = max(0.0, LISTENING_PEAK_DB - true_peak_db)
    return round(max(-_MOST_GAIN_DB, min(wanted, room, _MOST_GAIN_DB)), 1)
