"""Edges of aligned sounds moved to where the sound changes."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.edges import MetEdge, edge_bands
from tinfork.core.sound.voice import end_by_level, faded, level_db, risen
from tinfork.core.speech.features import FEATURES, plain_letters
from tinfork.engines.ear import edge_network
from tinfork.engines.limits import READING_HZ

_PAUSE_US = 30_000
#: How long last sounds usually are, with their fade (microseconds), where no noise hides it: medians of people, voices
#: made of recordings and formant synthesisers, each a third.
_LAST_US = {"vowel": 150_000, "stop": 90_000, "fricative": 140_000, "affricate": 140_000}
_LAST_OTHERS_US = 110_000


def _kind(ipa: str) -> str:
    """Vowel, stop, fricative or another manner; of sounds in sequence that of the last."""
    letters = plain_letters(ipa)
    return FEATURES[letters if letters in FEATURES else letters[-1]][0] if letters else ""


class Mender:
    """Moves edges to where the sound changes: by the ear inside speech, by level beside pauses."""

    def __init__(self, samples: NDArray[np.float32]) -> None:
        self._bands = edge_bands(samples)
        self._levels = level_db(samples, READING_HZ)
        self._end_us = len(samples) * 1_000_000 // READING_HZ

    def edges(self, phones: list[tuple[str, int, int]]) -> list[tuple[int, int]]:
        """The spans of sounds (IPA, start, end; microseconds), edges mended, in order, none shorter than 10 ms."""
        out: list[list[int]] = []
        met = self._met(phones)
        for at, (_, start, end) in enumerate(phones):
            after_pause, before_pause = at not in met, at + 1 not in met
            since = phones[at - 1][2] if at else 0
            new_start = risen(start, end, since, self._levels) if after_pause else met[at]
            floor = out[-1][1] if after_pause and out else (out[-1][0] + 10_000 if out else 0)
            new_start = min(max(new_start, floor), max(self._end_us - 10_000, 0))
            if out and not after_pause:
                out[-1][1] = new_start
            new_end = end_by_level(end, self._levels) if before_pause else end
            out.append([new_start, min(max(new_end, new_start + 10_000), self._end_us)])
        for at, (_, end) in enumerate(out):
            until = out[at + 1][0] if at + 1 < len(out) else self._end_us
            if until - end > _PAUSE_US:
                # How loud the sound itself is, is told by where the ear heard it: its first edge may have moved.
                ipa, start, _ = phones[at]
                kind = _kind(ipa)
                usual_us = _LAST_US.get(kind, _LAST_OTHERS_US)
                out[at][1] = faded(start, end, until, self._levels, usual_us=usual_us, is_stop=kind == "stop")
        return [(a, b) for a, b in out]

    def _met(self, phones: list[tuple[str, int, int]]) -> dict[int, int]:
        """Where each sound that follows another without a pause begins, in microseconds."""
        sounds = [(ipa, start / 1e6, end / 1e6) for ipa, start, end in phones]
        met = [
            (at, MetEdge.between(*sounds[at - 1 : at + 1]))
            for at, (before, now) in enumerate(pairwise(phones), 1)
            if now[1] - before[2] <= _PAUSE_US
        ]
        moved = edge_network().moved(self._bands, [edge for _, edge in met])
        return {at: round(at_s * 1e6) for (at, _), at_s in zip(met, moved, strict=True)}
