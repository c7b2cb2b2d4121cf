"""Stage 1, hear: the ear's evidence in a piece of sound, computed once for each requested size of speaker."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.hearing import HOP, RATE_HZ, log_mels, normalised
from tinfork.core.ear.network import Evidence
from tinfork.core.sound.silence import is_loud, rests
from tinfork.core.sound.voice import level_db
from tinfork.engines.ear import network

FRAME_S = HOP / RATE_HZ


class SoundEvidence:
    """Samples (16 kHz, mono, -1 to 1), their levels, and the ear's evidence; parts share what was computed."""

    def __init__(self, samples: NDArray[np.float32], whole: "SoundEvidence | None" = None, first: int = 0) -> None:
        self.samples = samples
        self._whole, self._first = whole, first
        self._evidence: dict[float, Evidence] = {}

    @cached_property
    def levels(self) -> NDArray[np.float64]:
        """DB of full scale per 10 ms, shape (hops,)."""
        return level_db(self.samples, RATE_HZ)

    @property
    def seconds(self) -> float:
        """Its length."""
        return len(self.samples) / RATE_HZ

    def part(self, from_s: float, to_s: float) -> "SoundEvidence":
        """The part between two times, both rounded down to a frame. Its times begin at 0."""
        first, last = round(from_s / FRAME_S), round(to_s / FRAME_S)
        return SoundEvidence(self.samples[first * HOP : last * HOP], self, first)

    def as_sizes(self, ratios: Sequence[float]) -> list[Evidence]:
        """The evidence for several sizes of speaker: as if the voice were that many times as high as usual."""
        missing = [ratio for ratio in dict.fromkeys(ratios) if ratio not in self._evidence]
        if missing and self._whole:
            last = self._first + max(1, len(self.samples) // HOP)
            for ratio, evidence in zip(missing, self._whole.as_sizes(missing), strict=True):
                self._evidence[ratio] = evidence.part(self._first, last)
        elif missing:
            frames = max(1, len(self.samples) // HOP)
            known = [np.resize(mark(self.levels), frames) for mark in (rests, is_loud)]
            for ratio, bands in zip(missing, log_mels(self.samples, missing), strict=True):
                self._evidence[ratio] = network().listen_to_bands(normalised(bands)).with_levels(*known)
        return [self._evidence[ratio] for ratio in ratios]

    def as_size(self, ratio: float) -> Evidence:
        """The evidence for one size."""
        return self.as_sizes([ratio])[0]


def hear(samples: NDArray[np.float32]) -> SoundEvidence:
    """Listen to samples at 16 kHz."""
    return SoundEvidence(samples)
