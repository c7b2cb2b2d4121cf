"""Which words of a line stay when it is read again: pinned ones, and unchanged ones.

A word keeps its times if its text and sounds are the same and those of its neighbours are, too; a pinned word keeps
them in any case. Other words take their new times, in the room between those that stay.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from tinfork.core.messages import Message, joined
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

#: The least length of a sound when words that stay leave little room.
_LEAST_US = 10_000
#: The least shift that counts as a move.
_STILL_US = 1_000


def keep_words(old: Line, new: Line, *, is_free: Callable[[Word], bool] | None = None) -> Line:
    """The new line with the words of the old one that stay.

    `is_free` marks old words that are to be read anew; without it, words stay unless they or their neighbours changed.
    Pinned words are never free.
    """
    stays: dict[int, Word] = {}
    matched = _matched(old, new)
    for at, word in enumerate(new.words):
        before = matched.get(at)
        if before is None:
            continue
        neighbours = [matched.get(n) for n in (at - 1, at + 1) if 0 <= n < len(new.words)]
        is_settled = _sounds(before) == _sounds(word) and all(
            n is not None and _sounds(n) == _sounds(new.words[m])
            for n, m in zip(neighbours, [m for m in (at - 1, at + 1) if 0 <= m < len(new.words)], strict=True)
        )
        free = is_free(before) if is_free else not is_settled
        if before.is_pinned or not free:
            stays[at] = before
    return replace(new, words=_fitted(new.words, stays))


def _sounds(word: Word) -> list[str]:
    return [p.ipa.lstrip("ˈˌ") for p in word.phonemes]


def _matched(old: Line, new: Line) -> dict[int, Word]:
    """The old word of each new word, by index."""
    keys = [[word.text.casefold() for word in line.words] for line in (old, new)]
    blocks = SequenceMatcher(a=keys[0], b=keys[1], autojunk=False).get_matching_blocks()
    return {b.b + step: old.words[b.a + step] for b in blocks for step in range(b.size)}


def _fitted(words: tuple[Word, ...], stays: dict[int, Word]) -> tuple[Word, ...]:
    """The words in order: those that stay are unchanged, the others are squeezed between them if they overlap."""
    out: list[Word] = []
    for at, word in enumerate(words):
        if at in stays:
            out.append(stays[at])
            continue
        floor = out[-1].end_us if out else 0
        ceiling = next((stays[later].start_us for later in range(at + 1, len(words)) if later in stays), None)
        if (fitted := _pressed(word, floor, ceiling)) is not None:
            out.append(fitted)
    return tuple(_in_order(out))


def _in_order(words: list[Word]) -> list[Word]:
    """Drop words that are before one that stays; only pinned ones can conflict."""
    out: list[Word] = []
    for word in words:
        if not out or word.start_us >= out[-1].end_us:
            out.append(word)
    return out


def _pressed(word: Word, floor_us: int, ceiling_us: int | None) -> Word | None:
    """A word squeezed between two times, its sounds in proportion; None if there is no room."""
    start = max(word.start_us, floor_us)
    end = word.end_us if ceiling_us is None else min(word.end_us, ceiling_us)
    if (start, end) == (word.start_us, word.end_us):
        return word
    if ceiling_us is not None and end - start < _LEAST_US * len(word.phonemes):
        # It is wholly past them: it gets the room before the one that stays.
        start, end = max(floor_us, min(start, ceiling_us - _LEAST_US * len(word.phonemes))), ceiling_us
    elif end <= start:
        end = start + word.end_us - word.start_us
    if end - start < len(word.phonemes) or end <= start:
        return None
    scale = (end - start) / (word.end_us - word.start_us)

    def moved(time_us: int) -> int:
        return start + round((time_us - word.start_us) * scale)

    sounds = [
        Phoneme(p.ipa, a, b, p.confidence) for p in word.phonemes if (a := moved(p.start_us)) < (b := moved(p.end_us))
    ]
    return replace(word, start_us=start, end_us=end, phonemes=tuple(sounds))


@dataclass(frozen=True, slots=True)
class Difference:
    """How many words of a new reading moved, are new, or are gone."""

    moved: int
    new: int
    gone: int

    @property
    def text(self) -> str:
        """As text; "" if nothing changed."""
        parts: list[str] = []
        if self.moved:
            parts.append(Message("reading.words_moved", count=self.moved))
        if self.new:
            parts.append(Message("reading.words_new", count=self.new))
        if self.gone:
            parts.append(Message("reading.words_gone", count=self.gone))
        return joined(parts, ", ")


def difference(old: Reading, new: Reading) -> Difference:
    """What a new reading changed."""
    olds, news = list(old.words()), list(new.words())
    keys = [[word.text.casefold() for word in words] for words in (olds, news)]
    same = moved = 0
    for block in SequenceMatcher(a=keys[0], b=keys[1], autojunk=False).get_matching_blocks():
        for step in range(block.size):
            a, b = olds[block.a + step], news[block.b + step]
            same += 1
            edges = abs(a.start_us - b.start_us), abs(a.end_us - b.end_us)
            moved += max(edges) > _STILL_US or _sounds(a) != _sounds(b)
    return Difference(moved, len(news) - same, len(olds) - same)
