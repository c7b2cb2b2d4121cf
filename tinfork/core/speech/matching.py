"""Which lines of a script are said in a recording, and where: what was heard, matched against the script by its sounds.

Lines are mostly said in the order of the script, but may be repeated, skipped or broken off, the speaker may go back,
and there may be speech in between that is not in the script. The likeliest path is found by passing tokens (Young,
Russell and Thornton 1989) through an alignment of sounds (weighted edit distance: Wagner and Fischer 1974), with a
price for every jump between lines.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.features import differ

Sounds = tuple[str, ...]
_Costs = NDArray[np.float64]
_Tokens = NDArray[np.int64]

#: The costs of a heard sound that is not in the line, and of a sound of the line that was not heard.
_EXTRA, _MISSING = 0.6, 0.6
#: The costs of a heard sound outside all lines, and of the first of a run of them.
_FREE, _FREE_BEGINS = 0.33, 0.4
#: The costs of repeating a line, of skipping one, and of going back; the next line costs nothing.
_AGAIN, _ONWARD, _BACK = 0.6, 1.2, 2.0
#: The cost of breaking off a line.
_BROKEN_OFF = 1.2
#: A whole line was said to at least the first share; less than the second is a chance likeness. The third is how much
#: of the part that was said may differ.
_WHOLE, _LEAST, _UNLIKE = 0.8, 0.35, 0.45
#: More than the cost of any path; separates the lines in a running minimum.
_NEVER, _APART = 1e6, 1e8


@dataclass(frozen=True, slots=True)
class LineMatch:
    """Heard words `[first, last)` in which a line is said.

    `unlike`: how much of it differs from the script, 0 or more; `is_whole`: false if the line was broken off.
    """

    line: int
    first: int
    last: int
    unlike: float
    is_whole: bool


def match_lines(lines: Sequence[Sounds], words: Sequence[Sounds]) -> list[LineMatch]:
    """Where lines are said, in the order of the recording; lines and heard words are IPA.

    A line may be said several times or never; words outside all matches are not in the script.
    """
    if not any(lines) or not any(words):
        return []
    judged = (_judged(lines[line], words, line, first, last) for line, first, last in _Search(lines).through(words))
    return [place for place in judged if place]


@dataclass(frozen=True)
class _At:
    """The costs of paths so far, and their tokens.

    `inside` the lines, after each of their sounds; `free`, in speech outside the script, after each line (index 0:
    before all).
    """

    inside: _Costs
    inside_tokens: _Tokens
    free: _Costs
    free_tokens: _Tokens


class _Search:
    """The search through one recording. The states of a line: entered, then after each of its sounds.

    A token says which line, or which stretch of free speech, was entered before which word: the word's index times the
    number of things to enter, plus the index of the thing.
    """

    def __init__(self, lines: Sequence[Sounds]) -> None:
        self.count = len(lines)
        lengths = np.array([len(line) + 1 for line in lines])
        self.entries = np.concatenate([[0], np.cumsum(lengths)[:-1]])
        self.ends = self.entries + lengths - 1
        self.is_empty = lengths == 1
        self.is_entry = np.zeros(lengths.sum(), dtype=bool)
        self.is_entry[self.entries] = True
        written = [symbol for line in lines for symbol in ("", *line)]
        self.symbols = sorted(set(written))
        column = {symbol: at for at, symbol in enumerate(self.symbols)}
        self.columns = np.array([column[symbol] for symbol in written])
        # A sound can only be left out within its line.
        numbers = np.arange(len(written))
        self.slope = _MISSING * numbers + _APART * np.repeat(np.arange(self.count), lengths)
        self.numbers = numbers
        #: For each word, the token from which each line or free stretch was entered.
        self.before: list[_Tokens] = []

    def through(self, words: Sequence[Sounds]) -> list[tuple[int, int, int]]:
        """The likeliest path: (line, first word, last word + 1), in order."""
        states = len(self.columns)
        free = np.append(0.0, np.full(self.count, _NEVER))
        at = _At(np.full(states, _NEVER), np.full(states, -1), free, np.full(self.count + 1, -1))
        costs: dict[str, _Costs] = {}
        for number, word in enumerate(words):
            at = self._begun(at, number)
            for sound in word:
                if sound not in costs:
                    costs[sound] = np.array([differ(sound, symbol) for symbol in self.symbols])[self.columns]
                at = self._after(at, costs[sound])
        between, tokens = self._between(at)
        return self._way(int(tokens[int(np.argmin(between))]), len(words))

    def _done(self, at: _At) -> tuple[_Costs, _Tokens]:
        """The cost of having left each line (index 0: none yet), complete or broken off."""
        broken = np.minimum.reduceat(at.inside, self.entries) + _BROKEN_OFF
        # The cheapest state of each line; all states have the same entry.
        is_cheapest = at.inside + _BROKEN_OFF == np.repeat(broken, self.ends - self.entries + 1)
        where = np.maximum.reduceat(np.where(is_cheapest, self.numbers, 0), self.entries)
        is_broken = broken < at.inside[self.ends]
        cost = np.where(is_broken, broken, at.inside[self.ends])
        tokens = at.inside_tokens[np.where(is_broken, where, self.ends)]
        return np.concatenate([[_NEVER], cost]), np.concatenate([[-1], tokens])

    def _between(self, at: _At) -> tuple[_Costs, _Tokens]:
        """The cost of being after each line (index 0: before all), in any way."""
        done, tokens = self._done(at)
        return np.minimum(done, at.free), np.where(done < at.free, tokens, at.free_tokens)

    def _begun(self, at: _At, number: int) -> _At:
        """Enter the lines, and the free speech, that may begin before a word."""
        between, tokens = self._between(at)
        entered, sources = self._entered(between)
        begins = number * (2 * self.count + 1)
        inside, inside_tokens = at.inside.copy(), at.inside_tokens.copy()
        inside[self.entries] = np.where(self.is_empty, _NEVER, entered)
        inside_tokens[self.entries] = begins + np.arange(self.count)
        starts = between + _FREE_BEGINS
        is_new = starts < at.free
        if number == 0:
            is_new = np.arange(self.count + 1) == 0
        free = np.where(is_new, starts, at.free)
        free_tokens = np.where(is_new, begins + self.count + np.arange(self.count + 1), at.free_tokens)
        self.before.append(np.concatenate([tokens[sources], tokens]))
        return _At(*self._left_out(inside, inside_tokens), free, free_tokens)

    def _entered(self, between: _Costs) -> tuple[_Costs, _Tokens]:
        """The cost of beginning each line, and the cheapest line to begin it after (0: none)."""
        lines = np.arange(self.count)
        onward, nearest_on = _running(between)
        back, nearest_back = (part[::-1] for part in _running(between[::-1]))
        ways = np.stack(
            [between[:-1], between[1:] + _AGAIN, onward[:-1] + _ONWARD, np.append(back[2:], _NEVER) + _BACK]
        )
        sources = np.stack([lines, lines + 1, nearest_on[:-1], self.count - np.append(nearest_back[2:], 0)])
        best = np.argmin(ways, axis=0)
        return ways[best, lines], sources[best, lines]

    def _after(self, at: _At, differs: _Costs) -> _At:
        """The costs after one more heard sound."""
        said = np.append(_NEVER, at.inside[:-1]) + differs
        said[self.is_entry] = _NEVER
        more = at.inside + _EXTRA
        # Sounds before a line's first sound are not part of it.
        more[self.is_entry] = _NEVER
        inside = np.minimum(said, more)
        tokens = np.where(said < more, np.append(-1, at.inside_tokens[:-1]), at.inside_tokens)
        return _At(*self._left_out(inside, tokens), at.free + _FREE, at.free_tokens)

    def _left_out(self, inside: _Costs, tokens: _Tokens) -> tuple[_Costs, _Tokens]:
        """Add the paths on which sounds of a line are left out."""
        lowest, source = _running(inside - self.slope)
        return np.minimum(lowest + self.slope, _NEVER), tokens[source]

    def _way(self, token: int, last: int) -> list[tuple[int, int, int]]:
        """The lines on the path of a token, in order."""
        out: list[tuple[int, int, int]] = []
        while token >= 0:
            number, which = divmod(token, 2 * self.count + 1)
            if which < self.count:
                out.append((which, number, last))
            token, last = int(self.before[number][which]), number
        return out[::-1]


def _running(values: _Costs) -> tuple[_Costs, _Tokens]:
    """The running minimum, and its index."""
    lowest = np.minimum.accumulate(values)
    return lowest, np.maximum.accumulate(np.where(values == lowest, np.arange(len(values)), 0))


def _judged(line: Sounds, words: Sequence[Sounds], number: int, first: int, last: int) -> LineMatch | None:
    """A match, with how well its words fit the line or the beginning of it; None if they do not."""
    row = _MISSING * np.arange(len(line) + 1)
    steps = _MISSING * np.arange(len(line) + 1)
    for sound in (sound for word in words[first:last] for sound in word):
        said = np.append(_NEVER, row[:-1] + [differ(sound, symbol) for symbol in line])
        row = np.minimum.accumulate(np.minimum(said, row + _EXTRA) - steps) + steps
    # As if it had been broken off at the place that explains the most.
    until = int(np.argmin(row + _MISSING * (len(line) - np.arange(len(line) + 1)) * 0.999))
    unlike = float(row[until]) / max(until, 1)
    if until < _LEAST * len(line) or unlike > _UNLIKE:
        return None
    return LineMatch(number, first, last, unlike, until >= _WHOLE * len(line))


def by_line(places: Sequence[LineMatch]) -> dict[int, list[LineMatch]]:
    """The matches of each line, in the order of the recording."""
    ordered = sorted(places, key=lambda place: (place.line, place.first))
    return {line: list(own) for line, own in groupby(ordered, key=lambda place: place.line)}
