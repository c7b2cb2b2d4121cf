"""Where the typed words and those that the listener heard disagree, compared by their sounds.

Both are aligned sound by sound (weighted edit distance: Wagner and Fischer 1974; the cost of two sounds is their
articulatory distance), so that words that are only spelled or split in another way agree.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.features import differ

Sounds = tuple[str, ...]

#: The extra cost of opening a gap, besides that of each sound in it.
_OPEN, _MORE = 0.4, 0.5
#: A typed word that differs by more than this share is another word; a heard word of which more than this share has no
#: counterpart is an additional one.
_OTHER_WORD, _ONE_MORE = 0.45, 0.6


@dataclass(frozen=True, slots=True)
class Doubt:
    """Typed words `[first, last)` in whose place words `[heard_first, heard_last)` were heard; either may be empty."""

    first: int
    last: int
    heard_first: int
    heard_last: int


def doubts(typed: Sequence[Sequence[Sounds]], heard: Sequence[Sounds]) -> list[Doubt]:
    """The places where other words were heard than typed, in order; `typed`: the pronunciations of each word."""
    usual = [ways[0] for ways in typed]
    counterpart = _aligned(usual, heard)
    costs = _costs_of_typed(typed, heard, counterpart)
    wrong = [cost > _OTHER_WORD for cost in costs]
    claimed = _claimed(usual, heard, counterpart)
    return [doubt for doubt in _grouped(wrong, claimed, len(heard)) if not _is_the_same(doubt, usual, heard)]


def without_same_words(doubt: Doubt, typed: Sequence[str], heard: Sequence[str]) -> Doubt | None:
    """A doubt without the words at its ends that are written the same in both; None if no other words are left.

    A word's sounds depend on its neighbours (*un* before *g* has an *ŋ*): by them, the same word may be a doubt.
    """
    first, last, heard_first, heard_last = doubt.first, doubt.last, doubt.heard_first, doubt.heard_last
    while first < last and heard_first < heard_last and typed[first] == heard[heard_first]:
        first, heard_first = first + 1, heard_first + 1
    while first < last and heard_first < heard_last and typed[last - 1] == heard[heard_last - 1]:
        last, heard_last = last - 1, heard_last - 1
    if first == last and heard_first == heard_last:
        return None
    return Doubt(first, last, heard_first, heard_last)


def _is_the_same(doubt: Doubt, typed: Sequence[Sounds], heard: Sequence[Sounds]) -> bool:
    """Whether the words heard there are the typed ones after all: a short word may be aligned next to itself."""
    own = [sound for word in typed[doubt.first : doubt.last] for sound in word]
    other = [sound for word in heard[doubt.heard_first : doubt.heard_last] for sound in word]
    return bool(own) and _distance(tuple(own), tuple(other)) / len(own) <= _OTHER_WORD


def _aligned(typed: Sequence[Sounds], heard: Sequence[Sounds]) -> list[tuple[int, int]]:
    """Aligned pairs (typed sound, heard sound), numbered through all words.

    With affine gaps (Gotoh 1982), so that a word's sounds stay together.
    """
    a = [sound for word in typed for sound in word]
    b = [sound for word in heard for sound in word]
    # The least costs of alignments that end in a pair, in a typed sound alone, in a heard sound alone.
    paired = np.full((len(a) + 1, len(b) + 1), np.inf)
    alone_a, alone_b = paired.copy(), paired.copy()
    paired[0, 0] = 0.0
    alone_a[1:, 0] = _OPEN + _MORE * np.arange(1, len(a) + 1)
    alone_b[0, 1:] = _OPEN + _MORE * np.arange(1, len(b) + 1)
    for i, x in enumerate(a, 1):
        above = np.minimum(np.minimum(paired[i - 1], alone_b[i - 1]) + _OPEN, alone_a[i - 1]) + _MORE
        alone_a[i, 1:] = above[1:]
        before = np.minimum(np.minimum(paired[i - 1], alone_a[i - 1]), alone_b[i - 1])[:-1]
        paired[i, 1:] = before + [differ(x, y) for y in b]
        opened = np.minimum(paired[i], alone_a[i]) + _OPEN
        last = np.inf
        for j in range(1, len(b) + 1):
            last = min(opened[j - 1], last) + _MORE
            alone_b[i, j] = last
    return _retraced(a, b, (paired, alone_a, alone_b))


def _retraced(
    a: Sequence[str], b: Sequence[str], costs: tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]
) -> list[tuple[int, int]]:
    pairs = []
    i, j = len(a), len(b)
    at = int(np.argmin([cost[i, j] for cost in costs]))
    while i or j:
        opens = [_OPEN if kind != at else 0.0 for kind in range(3)]
        if at == 0:
            i, j, opens = i - 1, j - 1, [0.0] * 3
            pairs.append((i, j))
        elif at == 1:
            i -= 1
        else:
            j -= 1
        at = int(np.argmin([cost[i, j] + more for cost, more in zip(costs, opens, strict=True)]))
    return pairs[::-1]


def _numbers(words: Sequence[Sounds]) -> list[int]:
    """The word number of each sound."""
    return [at for at, word in enumerate(words) for _ in word]


def _costs_of_typed(
    typed: Sequence[Sequence[Sounds]], heard: Sequence[Sounds], pairs: Sequence[tuple[int, int]]
) -> list[float]:
    """How much of each typed word differs from what was heard in its place, 0 to 1.

    This is for its most similar pronunciation.
    """
    word_of = _numbers([ways[0] for ways in typed])
    flat = [sound for word in heard for sound in word]
    places: dict[int, list[int]] = {}
    for i, j in pairs:
        places.setdefault(word_of[i], []).append(j)
    out = []
    for number, ways in enumerate(typed):
        js = places.get(number, [])
        said = tuple(flat[min(js) : max(js) + 1]) if js else ()
        out.append(min(_distance(way, said) / max(len(way), 1) for way in ways))
    return out


def _distance(a: Sounds, b: Sounds) -> float:
    row = [_MORE * j for j in range(len(b) + 1)]
    for i, x in enumerate(a, 1):
        before, row = row, [_MORE * i]
        for j, y in enumerate(b, 1):
            row.append(min(before[j - 1] + differ(x, y), before[j] + _MORE, row[j - 1] + _MORE))
    return row[-1]


def _claimed(
    typed: Sequence[Sounds], heard: Sequence[Sounds], pairs: Sequence[tuple[int, int]]
) -> list[tuple[int, float]]:
    """For each heard word, the typed word to which most of its sounds are aligned (-1: none), and their share."""
    typed_of, heard_of = _numbers(typed), _numbers(heard)
    counts: list[dict[int, int]] = [{} for _ in heard]
    for i, j in pairs:
        own = counts[heard_of[j]]
        own[typed_of[i]] = own.get(typed_of[i], 0) + 1
    out = []
    for word, own in zip(heard, counts, strict=True):
        share = sum(own.values()) / max(len(word), 1)
        out.append((max(own, key=lambda at: own[at]) if own else -1, share))
    return out


def _grouped(wrong: Sequence[bool], claimed: Sequence[tuple[int, float]], heard_count: int) -> list[Doubt]:
    """Group neighbouring wrong typed words and additional heard words into one place each."""
    # Each heard word's position among the typed ones: that of its counterpart, or between those of its neighbours.
    places: list[tuple[int, bool]] = []
    last = -1
    for word, share in claimed:
        is_more = word < 0 or share < 1 - _ONE_MORE
        last = last if is_more else max(last, word)
        places.append((last, is_more))
    out: list[Doubt] = []
    at = 0
    for number in range(len(wrong) + 1):
        if number < at:
            continue
        more_before = [j for j, (place, is_more) in enumerate(places) if is_more and place == number - 1]
        if number == len(wrong) or not wrong[number]:
            if more_before:
                out.append(Doubt(number, number, more_before[0], more_before[-1] + 1))
            continue
        at = number
        while at < len(wrong) and wrong[at]:
            at += 1
        inside = [j for j, (place, _) in enumerate(places) if number <= place < at] + more_before
        first = min(inside) if inside else sum(place < number for place, _ in places)
        out.append(Doubt(number, at, first, (max(inside) if inside else first - 1) + 1))
    return [d for d in out if d.first < d.last or d.heard_first < d.heard_last][: heard_count + len(wrong)]
