"""What a voice sounds like as a whole, so that it is known again: the middle of its cepstra, and how they spread.

Two voices are as far apart as their middles are, in the spread of both (the first term of the distance of
Bhattacharyya 1943).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import FormatError
from tinfork.core.sound.silence import speech_level_db
from tinfork.core.sound.timbre import CEPSTRA, cepstra
from tinfork.core.sound.voice import HOP_US, level_db

#: A voice is known from this much speech on (seconds); more than that of it changes little.
_LEAST_S, _MOST_S = 2.0, 120.0
#: Of fifteen actors, about ten seconds each, the same voice was nearer than this in nine of ten pairs, two voices in
#: one of twenty; the next one known is to be so much further away.
_SAME, _CLEARLY = 0.25, 1.5
_FLOOR = 0.05


@dataclass(frozen=True)
class Voiceprint:
    """`seconds` of speech it is made of; `middle` of its cepstra, shape (19,); their `spread`, shape (19, 19)."""

    seconds: float
    middle: NDArray[np.float64]
    spread: NDArray[np.float64]

    def kept(self) -> dict[str, Any]:
        """As JSON."""
        middle, spread = self.middle.round(4).tolist(), self.spread.round(4).tolist()
        return {"seconds": self.seconds, "middle": middle, "spread": spread}

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> "Voiceprint":
        """Of what was kept.

        Raises
        ------
        FormatError
            For what is none.
        """
        try:
            middle, spread = np.array(kept["middle"], dtype=float), np.array(kept["spread"], dtype=float)
            seconds = float(kept["seconds"])
        except (KeyError, TypeError, ValueError) as error:
            raise FormatError("voiceprint.not_a_voice") from error
        if middle.shape != (CEPSTRA,) or spread.shape != (CEPSTRA, CEPSTRA):
            raise FormatError("voiceprint.not_a_voice")
        return cls(seconds, middle, spread)

    def with_more(self, other: "Voiceprint") -> "Voiceprint":
        """The same voice, heard longer."""
        own = min(self.seconds, _MOST_S)
        share = other.seconds / (own + other.seconds)
        return Voiceprint(
            own + other.seconds,
            self.middle + share * (other.middle - self.middle),
            self.spread + share * (other.spread - self.spread),
        )

    def distance(self, other: "Voiceprint") -> float:
        """How far two voices are apart, from 0."""
        away = self.middle - other.middle
        return float(away @ np.linalg.solve((self.spread + other.spread) / 2, away) / 8)


def voiceprints(
    samples: NDArray[np.float32], rate_hz: int, spans: Mapping[str, Iterable[tuple[int, int]]]
) -> dict[str, Voiceprint]:
    """The voices of a sound (mono), by who speaks when (microseconds); without those of whom too little is heard."""
    levels = level_db(samples, rate_hz)
    loud = levels > speech_level_db(levels)
    timbre = cepstra(samples, rate_hz)[: len(levels)].astype(np.float64)
    out = {}
    for who, own in spans.items():
        is_own = np.zeros(len(levels), dtype=bool)
        for start_us, end_us in own:
            is_own[start_us // HOP_US : end_us // HOP_US] = True
        heard = timbre[is_own & loud]
        seconds = len(heard) * HOP_US / 1e6
        if seconds >= _LEAST_S:
            out[who] = Voiceprint(seconds, heard.mean(axis=0), np.cov(heard.T) + _FLOOR * np.eye(CEPSTRA))
    return out


def are_several(voices: Iterable[Voiceprint]) -> bool:
    """Whether some voices that were told apart are not one voice after all."""
    return any(one.distance(other) > _SAME for one, other in combinations(voices, 2))


def recognised(voices: Mapping[str, Voiceprint], known: Mapping[str, Voiceprint]) -> dict[str, str]:
    """Which of some known voices each voice is, the surest first, none twice; those that are nobody's are left out."""
    out: dict[str, str] = {}
    pairs = sorted((voices[who].distance(known[name]), who, name) for who in voices for name in known)
    for distance, who, name in pairs:
        others = [d for d, other, another in pairs if other == who and another != name]
        is_clear = all(d > _CLEARLY * distance for d in others)
        if distance < _SAME and is_clear and who not in out and name not in out.values():
            out[who] = name
    return out
