"""Edges of aligned sounds moved to where the sound changes."""

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import end_by_level, faded, level_db, risen, snap_to_flux, spectral_flux
from tinfork.engines.limits import READING_HZ

_PAUSE_US = 30_000


class Mender:
    """Moves edges to where the sound changes: by flux inside speech, by energy before pauses."""

    def __init__(self, samples: NDArray[np.float32]) -> None:
        self._flux = spectral_flux(samples, READING_HZ)
        self._levels = level_db(samples, READING_HZ)
        self._end_us = len(samples) * 1_000_000 // READING_HZ

    def edges(self, phones: list[tuple[int, int]]) -> list[tuple[int, int]]:
        """The spans, in microseconds, with edges mended, still in order and none shorter than 10 ms."""
        out: list[list[int]] = []
        for at, (start, end) in enumerate(phones):
            after_pause = at == 0 or start - phones[at - 1][1] > _PAUSE_US
            before_pause = at == len(phones) - 1 or phones[at + 1][0] - end > _PAUSE_US
            since = phones[at - 1][1] if at else 0
            new_start = risen(start, end, since, self._levels) if after_pause else snap_to_flux(start, self._flux)
            floor = out[-1][1] if after_pause and out else (out[-1][0] + 10_000 if out else 0)
            new_start = min(max(new_start, floor), max(self._end_us - 10_000, 0))
            if out and not after_pause:
                out[-1][1] = new_start
            new_end = end_by_level(end, self._levels) if before_pause else end
            out.append([new_start, min(max(new_end, new_start + 10_000), self._end_us)])
        for at, (start, end) in enumerate(out):
            until = out[at + 1][0] if at + 1 < len(out) else self._end_us
            if until - end > _PAUSE_US:
                out[at][1] = faded(start, end, until, self._levels)
        return [(a, b) for a, b in out]
