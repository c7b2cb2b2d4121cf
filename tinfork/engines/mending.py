"""Edges of aligned sounds moved to where the sound changes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import end_by_level, faded, level_db, snap_to_flux, spectral_flux
from tinfork.engines.limits import READING_HZ

_PAUSE_US = 30_000


@dataclass(frozen=True, slots=True)
class Beside:
    """What lies around a sound: speech that no word has, directly before or after it, whose edges are the ear's;
    `is_amiss`: what follows it anywhere in its line may be such speech.
    """

    other_before: bool = False
    other_after: bool = False
    is_amiss: bool = False


class Mender:
    """Moves edges to where the sound changes: by flux inside speech, by energy before pauses."""

    def __init__(self, samples: NDArray[np.float32]) -> None:
        self._flux = spectral_flux(samples, READING_HZ)
        self._levels = level_db(samples, READING_HZ)
        self._end_us = len(samples) * 1_000_000 // READING_HZ

    def edges(self, phones: list[tuple[int, int]], beside: Sequence[Beside]) -> list[tuple[int, int]]:
        """The spans, in microseconds, with edges mended, still in order and none shorter than 10 ms; `beside`: what is
        known of the places around each.
        """
        out: list[list[int]] = []
        for at, (start, end) in enumerate(phones):
            after_pause = at == 0 or start - phones[at - 1][1] > _PAUSE_US
            before_pause = at == len(phones) - 1 or phones[at + 1][0] - end > _PAUSE_US
            # After a pause nothing tells better than the ear.
            is_kept = after_pause or beside[at].other_before
            new_start = start if is_kept else snap_to_flux(start, self._flux)
            floor = out[-1][1] if after_pause and out else (out[-1][0] + 10_000 if out else 0)
            new_start = min(max(new_start, floor), max(self._end_us - 10_000, 0))
            if out and not after_pause:
                out[-1][1] = new_start
            is_mended = before_pause and not beside[at].other_after
            new_end = end_by_level(end, self._levels) if is_mended else end
            out.append([new_start, min(max(new_end, new_start + 10_000), self._end_us)])
        for at, (start, end) in enumerate(out):
            until = out[at + 1][0] if at + 1 < len(out) else self._end_us
            if until - end > _PAUSE_US and not beside[at].other_after:
                later, does_fade = faded(start, end, until, self._levels)
                out[at][1] = end if beside[at].is_amiss and not does_fade else later
        return [(a, b) for a, b in out]
