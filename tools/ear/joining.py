"""Recordings joined in rows: words and short phrases, each recorded by itself, with known gaps between them.

Only recordings are taken whose voice begins and ends sharply, so that its level alone says where: from the room to a
loud voice within 60 ms, and back within 150 ms.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import level_db
from tinfork.engines.decode import Sound
from tools.ear.augmentation import levelled
from tools.ear.people import Recording
from tools.ear.speaking import RATE_HZ

Samples = NDArray[np.float32]

#: A voice is loud so far under its loudest, heard so far over the room, and gone so far under its loudest (dB).
_LOUD_DB, _HEARD_DB, _GONE_DB = 20.0, 8.0, 30.0
#: It begins and ends sharply within so many hops of 10 ms.
_RISES_HOPS, _FALLS_HOPS = 6, 15
#: The room is heard for so many hops before and after it, or where it was cut nothing is louder (dB under the loudest).
_ROOM_HOPS, _CUT_DB = 4, 24.0
_LEAST_S, _LEAST_OVER_ROOM_DB = 0.2, 35.0
#: Phrases in a row, silence between them, and the noise of a room under all.
_PHRASES, _GAP_S, _ROOM = 5, (0.12, 0.6), 3e-4


@dataclass(frozen=True)
class PlacedPhrase:
    """A phrase, and where it begins and ends (seconds)."""

    text: str
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Joined:
    """Phrases of one reader in a row: samples at 16 kHz, the language, and each phrase's place."""

    samples: Samples
    language: str
    phrases: tuple[PlacedPhrase, ...]

    @property
    def text(self) -> str:
        """What is said, as one line."""
        return " ".join(phrase.text for phrase in self.phrases)

    @property
    def sound(self) -> Sound:
        """What the reader is given."""
        return Sound(self.samples[:, None], RATE_HZ)


def sharp_span(samples: Samples) -> tuple[int, int] | None:
    """The samples `[first, last)` of a recording's voice; None where it does not begin and end sharply."""
    levels = level_db(samples, RATE_HZ)
    room, loudest = np.quantile(levels, [0.03, 0.98])
    if loudest - room < _LEAST_OVER_ROOM_DB:
        return None
    heard = np.flatnonzero(levels > max(room + _HEARD_DB, loudest - _GONE_DB))
    loud = np.flatnonzero(levels > loudest - _LOUD_DB)
    first, last = int(heard[0]), int(heard[-1]) + 1
    for at, room_hops in ((first, first), (last - 1, len(levels) - last)):
        if room_hops < _ROOM_HOPS and levels[at] > loudest - _CUT_DB:
            return None
    if loud[0] - first > _RISES_HOPS or last - int(loud[-1]) - 1 > _FALLS_HOPS:
        return None
    hop = RATE_HZ // 100
    return (first * hop, last * hop) if (last - first) / 100 >= _LEAST_S else None


def rows(pool: Sequence[tuple[Recording, Samples]], language: str, pick: np.random.Generator) -> list[Joined]:
    """Rows of a language's recordings in random order, find the number enough for.

    Collections are not mixed: one is one reader, or a few.
    """
    out: list[Joined] = []
    for source in dict.fromkeys(r.source for r, _ in pool):
        own = [(r.text, s[slice(*span)]) for r, s in pool if r.source == source and (span := sharp_span(s))]
        own = [own[at] for at in pick.permutation(len(own))]
        starts = range(0, len(own) - _PHRASES + 1, _PHRASES)
        out += [_row(own[first : first + _PHRASES], language, pick) for first in starts]
    return out


def _row(phrases: Sequence[tuple[str, Samples]], language: str, pick: np.random.Generator) -> Joined:
    parts: list[Samples] = []
    placed = []
    at = 0
    for text, samples in phrases:
        gap = np.zeros(round(pick.uniform(*_GAP_S) * RATE_HZ), dtype=np.float32)
        at += len(gap)
        parts += [gap, levelled(samples)]
        placed.append(PlacedPhrase(text, at / RATE_HZ, (at + len(samples)) / RATE_HZ))
        at += len(samples)
    parts.append(np.zeros(round(pick.uniform(*_GAP_S) * RATE_HZ), dtype=np.float32))
    row = np.concatenate(parts)
    row += pick.normal(scale=_ROOM, size=len(row)).astype(np.float32)
    return Joined(row, language, tuple(placed))
