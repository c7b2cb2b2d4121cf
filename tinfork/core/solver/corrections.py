"""Likely corrections of a second look: edits that can be sent at once, and places where a person types or draws."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import accumulate, chain
from typing import Any

from tinfork.core.clock import FrameRate
from tinfork.core.kept import common_ends, kept
from tinfork.core.messages import Message
from tinfork.core.solver.looks import Look
from tinfork.core.speech.reading import Line, Reading, Word

#: A word within this distance of speech without words may be longer.
_NEAR_US = 1_200_000
MOST = 4


@dataclass(frozen=True, slots=True)
class Correction:
    """A likely correction, in words.

    An edit with its parameters, or, if a person must decide, the place to which it `goes`: "word" (retype it), "add"
    (type a word for the stretch), "pronounce", "chart", "turns", "words".
    """

    text: str
    edit: str = ""
    parameters: Mapping[str, Any] = field(default_factory=dict)
    goes: str = ""


class Corrections:
    """Finds the corrections of a shot's second looks; `clip_of` returns the clip that plays a word of its reading."""

    def __init__(self, reading: Reading, rate: FrameRate, clip_of: Callable[[Word], int]) -> None:
        self._reading = reading
        self._rate = rate
        self._clip_of = clip_of

    def _near(self, look: Look) -> tuple[list[Word], int]:
        """The words near a look in order, and the index of the first that does not start before it."""
        lines, starts, latest = _lines_in_order(self._reading)
        end = bisect_right(starts, look.end_us + _NEAR_US)
        near = lines[bisect_left(latest, look.start_us - _NEAR_US, hi=end) : end]
        words = sorted(chain.from_iterable(line.words for line in near), key=lambda word: word.start_us)
        return words, bisect_left(words, look.start_us, key=lambda word: word.start_us)

    def for_look(self, look: Look) -> tuple[Correction, ...]:
        """Up to `MOST` corrections, the likeliest first."""
        return tuple(self._likely(look))[:MOST]

    def _likely(self, look: Look) -> Iterator[Correction]:
        match look.kind:
            case "doubt" | "unknown" | "silence":
                yield from self._of_word(look)
            case "bare":
                yield from self._of_bare(look)
            case "pin" | "short":
                yield Correction(Message("correction.automatic"), "clear", self._frames(look))
            case "flicker":
                yield Correction(Message("correction.join"), "give_to_before", self._frames(look))
            case "stand-in" | "closure":
                yield Correction(Message("correction.chart"), goes="chart")
            case "overlap":
                yield Correction(Message("correction.turns"), goes="turns")
            case "by ear" | "unsaid":
                yield Correction(Message("correction.words"), goes="words")

    def _frames(self, look: Look) -> dict[str, Any]:
        first, end = self._rate.nearest_span(look.start_us, look.end_us)
        return {"speaker": look.who, "first": first, "last": max(first, end - 1)}

    def _named(self, word: Word) -> dict[str, Any]:
        return {"word": word.id, "clip": self._clip_of(word)}

    def _of_word(self, look: Look) -> Iterator[Correction]:
        words, at = self._near(look)
        word = next((word for word in words[at : at + 8] if word.end_us == look.end_us), None)
        if word is None:
            return
        for text in look.answers:
            yield Correction(text, "retype", {**self._named(word), "text": text})
        if look.kind == "silence":
            yield Correction(Message("correction.remove", word=word.text), "word_remove", self._named(word))
            return
        if look.kind == "doubt":
            yield Correction(Message("correction.type"), goes="word")
        yield Correction(Message("correction.pronounce"), goes="pronounce")

    def _of_bare(self, look: Look) -> Iterator[Correction]:
        words, at = self._near(look)
        for word in words[max(0, at - 1) : at]:
            if look.start_us - _NEAR_US <= word.end_us < look.end_us:
                longer = {**self._named(word), "at_us": look.end_us, "edge": "end"}
                yield Correction(Message("correction.longer", word=word.text), "edge", longer)
        for word in words[at : at + 1]:
            if look.start_us < word.start_us <= look.end_us + _NEAR_US:
                earlier = {**self._named(word), "at_us": look.start_us, "edge": "start"}
                yield Correction(Message("correction.earlier", word=word.text), "edge", earlier)
        yield Correction(Message("correction.add"), goes="add")


def reached_us(before: Reading, after: Reading) -> tuple[int, int]:
    """From when to when looks may have other corrections in one reading than in another; (0, 0) for nowhere.

    That is near lines that only one of the two has.
    """
    first, last = common_ends(before.lines, after.lines)
    apart = [
        line for reading in (before, after) for line in reading.lines[first : len(reading.lines) - last] if line.words
    ]
    if not apart:
        return 0, 0
    return min(line.start_us for line in apart) - _NEAR_US, max(line.end_us for line in apart) + _NEAR_US


@kept
def _lines_in_order(reading: Reading) -> tuple[list[Line], list[int], list[int]]:
    """The lines with words by start, their starts, and the latest end up to each."""
    lines = sorted((line for line in reading.lines if line.words), key=lambda line: line.start_us)
    return lines, [line.start_us for line in lines], list(accumulate((line.end_us for line in lines), max))
