"""A voice as the mean and covariance of its cepstra, so that it can be recognised.

The distance of two voices is that of their means, relative to the covariance of both (the first term of the distance of
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

#: The least speech for a voiceprint (seconds); more than the second figure changes little.
_LEAST_S, _MOST_S = 2.0, 120.0
#: With fifteen speakers of about ten seconds each, nine in ten pairs of the same voice were nearer than this, and one
#: in twenty pairs of two voices; the next known voice must be further away by this factor.
_SAME, _CLEARLY = 0.25, 1.5
_FLOOR = 0.05


@dataclass(frozen=True)
class Voiceprint:
    """A voiceprint from `seconds` of speech: the mean of its cepstra, `middle`, shape (19,).

    Their covariance, `spread`, shape (19, 19).
    """

    seconds: float
    middle: NDArray[np.float64]
    spread: NDArray[np.float64]

    def kept(self) -> dict[str, Any]:
        """The voiceprint as JSON."""
        middle, spread = self.middle.round(4).tolist(), self.spread.round(4).tolist()
        return {"seconds": self.seconds, "middle": middle, "spread": spread}

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> "Voiceprint":
        """The voiceprint from stored JSON.

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
        """The voiceprint with more speech of the same voice."""
        own = min(self.seconds, _MOST_S)
        share = other.seconds / (own + other.seconds)
        return Voiceprint(
            own + other.seconds,
            self.middle + share * (other.middle - self.middle),
            self.spread + share * (other.spread - self.spread),
        )

    def distance(self, other: "Voiceprint") -> float:
        """The distance of two voices, 0 or more."""
        away = self.middle - other.middle
        return float(away @ np.linalg.solve((self.spread + other.spread) / 2, away) / 8)


def voiceprints(
    samples: NDArray[np.float32], rate_hz: int, spans: Mapping[str, Iterable[tuple[int, int]]]
) -> dict[str, Voiceprint]:
    """The voiceprints in a sound (mono), by who speaks when (microseconds).

    Voices with too little speech are left out.
    """
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
    """Whether some separated voices are really different ones."""
    return any(one.distance(other) > _SAME for one, other in combinations(voices, 2))


def recognised(voices: Mapping[str, Voiceprint], known: Mapping[str, Voiceprint]) -> dict[str, str]:
    """Match voices to known ones, the surest match first, each known voice once; unknown voices are left out."""
    out: dict[str, str] = {}
    pairs = sorted((voices[who].distance(known[name]), who, name) for who in voices for name in known)
    for distance, who, name in pairs:
        others = [d for d, other, another in pairs if other == who and another != name]
        is_clear = all(d > _CLEARLY * distance for d in others)
        if distance < _SAME and is_clear and who not in out and name not in out.values():
            out[who] = name
    return out
