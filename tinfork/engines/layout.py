"""Laying lines along a long recording, window by window, so that time and memory grow with its length and no faster.

Each window of sound is matched with the next lines of the script, any of which may be missing, the last broken off at
the window's end. What lies safely inside the window is kept, and the next window begins behind it.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.engines.limits import READING_HZ
from tinfork.engines.recogniser import Aligner

#: A sound up to this long is laid out in one go.
WHOLE_S = 75.0
_WINDOW_S = 30.0
#: Words this near the end of a window wait for the next one.
_UNSURE_S = 3.0
#: Nobody says more words a second than this; so many, and some more lines, are looked for in a window.
_WORDS_PER_S = 5.0
_MORE_LINES = 8
#: Where nothing fits in a window, it is moved on by this much.
_STEP_S = 20.0


@dataclass(frozen=True)
class Laid:
    """Words found in a window: (line, word in the line, start, end) in seconds; the sound is laid out up to
    `upto_s`.
    """

    words: list[tuple[int, int, float, float]]
    upto_s: float


class LineLayout:
    """Goes through a recording once: `find` looks at the window in hand, `accept` goes on behind what was found
    there.
    """

    def __init__(self, aligner: Aligner, samples: NDArray[np.float32], lines: Sequence[Sequence[str]]) -> None:
        self._aligner = aligner
        self._samples = samples
        self._lines = [list(line) for line in lines]
        self._total_s = len(samples) / READING_HZ
        self._at_s = 0.0
        self.line, self.word = 0, 0

    @property
    def is_done(self) -> bool:
        """Whether the sound or the lines are at their end."""
        return self._at_s >= self._total_s - 0.1 or self.line >= len(self._lines)

    @property
    def done(self) -> float:
        """The share of the sound that is behind."""
        return min(1.0, self._at_s / self._total_s)

    def accept(self, laid: Laid) -> None:
        """Go on behind these words; lines that were left out are taken for not said."""
        if laid.words:
            self.line, self.word = laid.words[-1][0], laid.words[-1][1] + 1
            if self.word == len(self._lines[self.line]):
                self.line, self.word = self.line + 1, 0
        self._at_s = laid.upto_s

    def find(self, *, past_others: bool = False) -> Laid:
        """The words of the window in hand."""
        at_s, line, word = self._at_s, self.line, self.word
        end_s = min(self._total_s, at_s + _WINDOW_S)
        is_last = end_s >= self._total_s
        part = self._samples[round(at_s * READING_HZ) : round(end_s * READING_HZ)]
        ahead = self._ahead(line, word, (end_s - at_s) * _WORDS_PER_S)
        found = self._aligner.find_lines(part, ahead, past_others=past_others) or []
        words = [(line + n, w + (word if n == 0 else 0), a + at_s, b + at_s) for n, w, a, b in found]
        if is_last:
            return Laid(words, self._total_s)
        sure = self._sure(words, end_s)
        if not sure:
            return Laid([], at_s + _STEP_S)
        return Laid(sure, max(sure[-1][3] - 0.02, at_s + 0.5))

    def _ahead(self, line: int, word: int, words: float) -> list[list[str]]:
        out = [self._lines[line][word:]]
        for more in self._lines[line + 1 : line + 400]:
            if sum(map(len, out)) > words and len(out) > _MORE_LINES:
                break
            out.append(more)
        # A line that is longer than the window can hold is broken off anyway.
        return [each[: round(words) + 60] for each in out]

    def _sure(self, words: list[tuple[int, int, float, float]], end_s: float) -> list[tuple[int, int, float, float]]:
        """The words safely before the window's end: up to the last line that ends there, else the last pause."""
        sure = [w for w in words if w[3] <= end_s - _UNSURE_S]
        for kept in range(len(sure), len(sure) // 2, -1):
            line, word = sure[kept - 1][:2]
            if word == len(self._lines[line]) - 1:
                return sure[:kept]
        pauses = [at for at in range(len(sure) // 2, len(sure) - 1) if sure[at + 1][2] - sure[at][3] > 0.15]
        return sure[: pauses[-1] + 1] if pauses else sure
