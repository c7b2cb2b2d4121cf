"""Laying out lines along a sound by ear, window by window, in time and memory linear in its length.

Each window of sound is searched for the next lines of the script; any of them may be missing, with other speech between
them, and the last may be cut by the window's end. Words safely inside the window are kept, and the next window starts
after them.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.path import Freedom, find
from tinfork.core.ear.speakers import evidence_between_pauses
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.hear import FRAME_S, hear

_WINDOW_S = 30.0
#: Words this near the end of a window are left to the next one.
_UNSURE_S = 3.0
#: The most words a second that anybody says; this many, and a few more lines, are searched for in a window.
_WORDS_PER_S = 5.0
_MORE_LINES = 8
#: A window in which nothing fits is moved on by this much.
_STEP_S = 20.0
#: The costs of leaving out a word, and of speech outside all lines: leaving out a line of eight words costs less than
#: placing it where something else is said.
_LINES = Freedom(skip=6.0, enter_other=8.0, may_break_off=True)

Symbols = tuple[str, ...]


@dataclass(frozen=True)
class LaidOutSounds:
    """Words found in a window: (line, word in it, start, end) in seconds; the layout is complete up to `upto_s`."""

    words: list[tuple[int, int, float, float]]
    upto_s: float


class LineLayout:
    """Goes through a recording once.

    `find` searches the current window, `accept` continues after the words found there. Lines are lists of words, words
    are lists of IPA symbols.
    """

    def __init__(self, samples: NDArray[np.float32], lines: Sequence[Sequence[Symbols]]) -> None:
        self._samples = samples
        self._lines = [list(line) for line in lines]
        self._total_s = len(samples) / READING_HZ
        self._at_s = 0.0
        self.line, self.word = 0, 0

    @property
    def is_done(self) -> bool:
        """Whether the end of the sound or of the lines was reached."""
        return self._at_s >= self._total_s - 0.1 or self.line >= len(self._lines)

    @property
    def done(self) -> float:
        """The share of the sound that is done."""
        return min(1.0, self._at_s / self._total_s)

    def accept(self, laid: LaidOutSounds) -> None:
        """Continue after these words; lines that were skipped count as not said."""
        if laid.words:
            self.line, self.word = laid.words[-1][0], laid.words[-1][1] + 1
            if self.word == len(self._lines[self.line]):
                self.line, self.word = self.line + 1, 0
        self._at_s = laid.upto_s

    def find(self) -> LaidOutSounds:
        """The words in the current window."""
        at_s = self._at_s
        end_s = min(self._total_s, at_s + _WINDOW_S)
        is_last = end_s >= self._total_s
        words = self._heard(at_s, end_s)
        if is_last:
            return LaidOutSounds(words, self._total_s)
        sure = self._sure(words, end_s)
        if not sure:
            return LaidOutSounds([], at_s + _STEP_S)
        return LaidOutSounds(sure, max(sure[-1][3] - 0.02, at_s + 0.5))

    def _heard(self, at_s: float, end_s: float) -> list[tuple[int, int, float, float]]:
        part = hear(self._samples[round(at_s * READING_HZ) : round(end_s * READING_HZ)])
        ahead = self._ahead((end_s - at_s) * _WORDS_PER_S)
        found = find(evidence_between_pauses(part.as_sizes, part.levels), [symbols for *_, symbols in ahead], _LINES)
        if found is None:
            return []
        out = []
        for (line, word, _), spans in zip(ahead, found.words, strict=True):
            said = [s for s in spans if s]
            if said:
                out.append((line, word, at_s + said[0].first * FRAME_S, at_s + said[-1].last * FRAME_S))
        return self._lines_said(out)

    def _lines_said(self, words: list[tuple[int, int, float, float]]) -> list[tuple[int, int, float, float]]:
        """Remove stray words of lines that were mostly not found; the current and the last line may be incomplete."""
        found: dict[int, int] = {}
        for line, *_ in words:
            found[line] = found.get(line, 0) + 1
        last = words[-1][0] if words else -1
        kept = {line for line, n in found.items() if line in (self.line, last) or 2 * n >= len(self._lines[line])}
        return [w for w in words if w[0] in kept]

    def _ahead(self, words: float) -> list[tuple[int, int, Symbols]]:
        """The next words: (line, word in it, symbols)."""
        out = [(self.line, at, w) for at, w in enumerate(self._lines[self.line]) if at >= self.word]
        following = range(self.line + 1, min(len(self._lines), self.line + 400))
        for lines, line in enumerate(following, start=1):
            if len(out) > words and lines > _MORE_LINES:
                break
            out += [(line, at, w) for at, w in enumerate(self._lines[line])]
        # A line too long for the window is cut anyway.
        return out[: round(2 * words) + 120]

    def _sure(self, words: list[tuple[int, int, float, float]], end_s: float) -> list[tuple[int, int, float, float]]:
        """The words safely before the window's end: up to the end of the last complete line, else the last pause."""
        sure = [w for w in words if w[3] <= end_s - _UNSURE_S]
        for kept in range(len(sure), len(sure) // 2, -1):
            line, word = sure[kept - 1][:2]
            if word == len(self._lines[line]) - 1:
                return sure[:kept]
        pauses = [at for at in range(len(sure) // 2, len(sure) - 1) if sure[at + 1][2] - sure[at][3] > 0.15]
        return sure[: pauses[-1] + 1] if pauses else sure
