"""The best way through a sound for given words: Viterbi search (Viterbi 1967) over the ear's evidence.

Each phoneme lasts at least `SHORTEST` frames; between words there may be silence of any length and, if `Freedom` allows
it, speech that is not in the text; words may be left out. If a word can be pronounced in several ways, the likeliest is
taken (`Variants`). Where one sound changes to the next, the evidence of an edge counts as well.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.network import Evidence
from tinfork.core.ear.phones import BREATH, HEARD, SILENCE, STANDS_FOR, heard_as

#: Frames of 10 ms that a sound lasts at least; each of two sounds that make one phoneme.
SHORTEST, _SHORTEST_HALF = 3, 2
#: The weight of the evidence of edges; that of sounds has weight 1.
_EDGE_WEIGHT = 0.6
_SILENT = 0
_NEVER = 1e9
_BREATH = HEARD.index(BREATH)
assert HEARD[_SILENT] == SILENCE
assert len(HEARD) - 1 == _BREATH


@dataclass(frozen=True, slots=True)
class Span:
    """Where one phoneme was found: frames `[first, last)`, and the mean log probability of its sounds there."""

    first: int
    last: int
    score: float


@dataclass(frozen=True, slots=True)
class Freedom:
    """What a search may do other than say every word: prices in log probability, infinite for what is forbidden.

    `skip` leaves a word out; `enter_other` begins a stretch of speech that is not in the text, and `other` is the price
    of each frame of it; with `may_break_off` the sound may end before the words do.
    """

    skip: float = np.inf
    enter_other: float = np.inf
    other: float = 1.2
    may_break_off: bool = False


#: Every word, from the start to the end of the sound.
EXACT = Freedom()


@dataclass(frozen=True, slots=True)
class Variants:
    """Ways to pronounce a word, the usual one first, and the price of each (log probability)."""

    ways: tuple[tuple[str, ...], ...]
    costs: tuple[float, ...]

    @property
    def usual(self) -> tuple[str, ...]:
        """The usual way."""
        return self.ways[0]


#: A word as a search is given it: its one pronunciation, or its variants.
Way = Sequence[str] | Variants


def ways_of(word: Way) -> tuple[tuple[str, ...], ...]:
    """All pronunciations of a word."""
    return word.ways if isinstance(word, Variants) else (tuple(word),)


@dataclass(frozen=True)
class Alignment:
    """Spans for each phoneme of each word (None: symbols without sound); empty lists are words that are not said.

    `others`: frames `[first, last)` of speech that is not in the text. `score`: log probability of the whole path.
    `taken`: the number of each word's variant.
    """

    words: list[list[Span | None]]
    others: list[tuple[int, int]]
    score: float
    taken: list[int]

    def word_fits(self) -> list[float]:
        """How well each spoken word fits where it was found: mean log probability per frame."""
        said = ([s for s in word if s] for word in self.words)
        return [float(np.average([s.score for s in w], weights=[s.last - s.first for s in w])) for w in said if w]


def emissions(evidence: Evidence) -> NDArray[np.float32]:
    """Log likelihood of each sound in each frame, with the sounds it is often mistaken for, shape (frames, sounds)."""
    mixed = np.exp(evidence.heard) @ STANDS_FOR.T.astype(np.float32)
    return np.asarray(np.log(np.maximum(mixed, 1e-6)), dtype=np.float32)


def shares_of(symbol: str, first: int, last: int) -> list[tuple[int, int, int]]:
    """The frames `[first, last)` of a phoneme shared evenly among the sounds it consists of: (sound, first, last)."""
    parts = heard_as(symbol)
    cuts = [round(first + (last - first) * nth / len(parts)) for nth in range(len(parts) + 1)]
    return list(zip(parts, cuts, cuts[1:], strict=False))


def fits(emission: NDArray[np.float32], shares: Sequence[tuple[int, int, int]]) -> NDArray[np.float64]:
    """Mean log probability of each share (sound, first, last) in its frames; shape (shares,)."""
    part, first, last = np.array(shares, dtype=np.int64).reshape(-1, 3).T
    upto = np.zeros((len(emission) + 1, emission.shape[1]))
    np.cumsum(emission, axis=0, out=upto[1:])
    return np.asarray((upto[last, part] - upto[first, part]) / (last - first))


class _States:
    """States of the words one after another, variant by variant, `SHORTEST` for each sound, the last of which may stay.

    `first`, `last`: of each variant; `entered`: the boundary before its word; `groups`: the first variant of each word.
    """

    def __init__(self, words: Sequence[Way]) -> None:
        rows: list[tuple[int, int, int, int, bool, bool]] = []
        self.said: list[int] = []
        firsts: list[int] = []
        lasts: list[int] = []
        entered: list[int] = []
        costs: list[float] = []
        groups: list[int] = []
        for number, word in enumerate(words):
            begin = len(firsts)
            for variant, symbols in enumerate(ways_of(word)):
                before = len(rows)
                for at, symbol in enumerate(symbols):
                    parts = heard_as(symbol)
                    frames = SHORTEST if len(parts) == 1 else _SHORTEST_HALF
                    rows += [
                        (part, number, at, variant, nth == 0, nth == frames - 1)
                        for part in parts
                        for nth in range(frames)
                    ]
                if len(rows) > before:
                    firsts.append(before)
                    lasts.append(len(rows) - 1)
                    entered.append(len(self.said))
                    costs.append(word.costs[variant] if isinstance(word, Variants) else 0.0)
            if len(firsts) > begin:
                self.said.append(number)
                groups.append(begin)
        table = np.array(rows, dtype=np.int64).reshape(-1, 6)
        self.sound, self.word, self.phoneme, self.variant = table[:, 0], table[:, 1], table[:, 2], table[:, 3]
        self.begins, self.stays = table[:, 4].astype(bool), table[:, 5].astype(bool)
        self.first, self.last = np.array(firsts, dtype=np.int64), np.array(lasts, dtype=np.int64)
        self.entered, self.groups = np.array(entered, dtype=np.int64), np.array(groups, dtype=np.int64)
        self.costs = np.array(costs)


def find(evidence: Evidence, words: Sequence[Way], freedom: Freedom = EXACT) -> Alignment | None:
    """Where each phoneme of each word is; None when the sound is too short for the words."""
    states = _States(words)
    if not states.said:
        return None
    emission = emissions(evidence)
    trellis = _Trellis(states, emission, evidence, freedom)
    route, score = trellis.walk()
    if route is None:
        return None
    spans: list[list[Span | None]] = [[] for _ in words]
    count = len(states.sound)
    others: list[tuple[int, int]] = []
    taken = [0] * len(words)
    inside = (route >= 0) & (route < count)
    key = np.where(inside, states.word[np.minimum(np.maximum(route, 0), count - 1)] * 1000, route + 10**8)
    key = key + np.where(inside, states.phoneme[np.minimum(np.maximum(route, 0), count - 1)], 0)
    cuts = [0, *(np.flatnonzero(np.diff(key)) + 1).tolist(), len(route)]
    for first, last in itertools.pairwise(cuts):
        at = int(route[first])
        if 0 <= at < count:
            word, phoneme = int(states.word[at]), int(states.phoneme[at])
            own = emission[np.arange(first, last), states.sound[route[first:last]]]
            taken[word] = int(states.variant[at])
            row = spans[word]
            row += [None] * (phoneme - len(row))
            row.append(Span(first, last, float(own.mean())))
        elif at >= count + trellis.bounds:
            others.append((first, last))
    for number, word_ways in enumerate(map(ways_of, words)):
        if spans[number]:
            spans[number] += [None] * (len(word_ways[taken[number]]) - len(spans[number]))
    return Alignment(spans, others, score, taken)


class _Trellis:
    """The search itself.

    States are numbered: those of words, then a silence and then other speech for each boundary.
    """

    def __init__(self, states: _States, emission: NDArray[np.float32], evidence: Evidence, freedom: Freedom) -> None:
        self.states, self.freedom = states, freedom
        self.bounds = len(states.said) + 1
        self._emission = emission.astype(np.float64)
        self._other = evidence.heard[:, 1:_BREATH].max(axis=1).astype(np.float64) - freedom.other
        self._change = _EDGE_WEIGHT * np.log(np.maximum(evidence.edge, 1e-3)).astype(np.float64)
        self._stay = _EDGE_WEIGHT * np.log(np.maximum(1 - evidence.edge, 1e-3)).astype(np.float64)
        self._skipped = min(freedom.skip, _NEVER) * np.arange(self.bounds)

    def walk(self) -> tuple[NDArray[np.int64] | None, float]:
        """The state of each frame, shape (frames,), and the log probability; None when there is no path.

        Raises
        ------
        AssertionError
            Never: the loop returns at its last step.
        """
        states, frames = self.states, len(self._emission)
        count, bounds = len(states.sound), self.bounds
        enter = min(self.freedom.enter_other, _NEVER)
        can_skip, may_be_other = self.freedom.skip < np.inf, self.freedom.enter_other < np.inf
        can_stay, begins = np.where(states.stays, 0.0, -np.inf), states.begins.astype(np.float64)
        numbers = np.arange(bounds)
        step = np.zeros((frames, count), dtype=bool)
        aside = np.zeros((frames, 2, bounds), dtype=bool)
        origin = np.tile(numbers.astype(np.int32), (frames, 1))
        kind = np.zeros((frames, bounds), dtype=np.int8)
        has_variants = len(states.first) > len(states.said)
        ended = np.tile(states.groups.astype(np.int32), (frames if has_variants else 1, 1))
        best, entering, staying = (np.full(count, -np.inf) for _ in range(3))
        # What each boundary between words can be reached from: the word before it, silence, other speech.
        exits = np.full((3, bounds), -np.inf)
        _, silent, other = exits
        silent[0] = 0.0
        source, now_ended = numbers, states.groups
        for t in range(frames + 1):
            if t and not has_variants:
                best.take(states.last, out=exits[0, 1:])
            elif t:
                at_end = best.take(states.last)
                np.maximum.reduceat(at_end, states.groups, out=exits[0, 1:])
                is_best = at_end == exits[0, 1:].take(states.entered)
                numbered = np.where(is_best, np.arange(len(at_end)), len(at_end))
                now_ended = np.minimum.reduceat(numbered, states.groups)
            which, bound = exits.argmax(axis=0), exits.max(axis=0)
            if can_skip:
                # Words before it may be left out.
                bound += self._skipped
                top = np.maximum.accumulate(bound)
                source = np.maximum.accumulate(np.where(bound >= top, numbers, 0))
                bound = top - self._skipped
            if t == frames:
                return self._end(best, bound, (step, aside, origin, kind, ended), source, which, now_ended)
            origin[t], kind[t] = source, which
            if has_variants:
                ended[t] = now_ended
            # An edge at a frame's start shows in it or in the one before.
            edge = 0.0 if t == 0 else max(self._change[t], self._change[t - 1])
            steady = 0.0 if t == 0 else self._stay[t]
            np.add(best, can_stay, out=staying)
            np.multiply(begins, edge - steady, out=entering)
            entering[1:] += best[:-1]
            entering[states.first] = bound.take(states.entered) + (edge - steady) - states.costs
            np.greater(entering, staying, out=step[t])
            np.maximum(entering, staying, out=best)
            best += self._emission[t].take(states.sound)
            best += steady
            # Silence may follow silence: a noise within silence is not a missed edge.
            bound += edge
            silent += steady
            np.greater(bound, silent, out=aside[t, 0])
            np.maximum(bound, silent, out=silent)
            silent += self._emission[t, _SILENT]
            if may_be_other:
                bound -= enter
                other += steady
                np.greater(bound, other, out=aside[t, 1])
                np.maximum(bound, other, out=other)
                other += self._other[t]
        raise AssertionError("the loop returns at its last step")

    def _end(
        self,
        best: NDArray[np.float64],
        bound: NDArray[np.float64],
        back: tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.int32], NDArray[np.int8], NDArray[np.int32]],
        source: NDArray[np.int64],
        which: NDArray[np.int64],
        now_ended: NDArray[np.int64],
    ) -> tuple[NDArray[np.int64] | None, float]:
        last = int(bound.argmax()) if self.freedom.may_break_off else self.bounds - 1
        score = float(bound[last])
        at = self._before(last, source, which, now_ended)
        if self.freedom.may_break_off and best.max() > score:
            score, at = float(best.max()), int(best.argmax())
        if score < -_NEVER / 2:
            return None, score
        step, aside, origin, kind, ended = back
        count, bounds = len(self.states.sound), self.bounds
        route = np.empty(len(step), dtype=np.int64)
        entered = dict(zip(self.states.first.tolist(), self.states.entered.tolist(), strict=True))
        for t in range(len(step) - 1, -1, -1):
            route[t] = at
            if at < count:
                if not step[t, at]:
                    continue
                if at in entered:
                    at = self._before(entered[at], origin[t], kind[t], ended[t % len(ended)])
                else:
                    at -= 1
            elif aside[t, (at - count) // bounds, (at - count) % bounds]:
                at = self._before((at - count) % bounds, origin[t], kind[t], ended[t % len(ended)])
        return route, score

    def _before(
        self, bound: int, source: NDArray[np.integer], which: NDArray[np.integer], ended: NDArray[np.integer]
    ) -> int:
        """The state from which a boundary was reached; `ended`: the variant with which each word ends there."""
        from_bound = int(source[bound])
        how = int(which[from_bound])
        if how == 0:
            return int(self.states.last[ended[from_bound - 1]])
        count = len(self.states.sound)
        return count + from_bound if how == 1 else count + self.bounds + from_bound
