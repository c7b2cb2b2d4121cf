"""A transcript: the words that the listener heard, with rough times, grouped into lines.

Exact times come from the reading of these lines.
"""

import unicodedata
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

#: The least pause that ends a line, and the least after the end of a sentence.
PAUSE_US, _PAUSE_OF_SENTENCE_US = 500_000, 150_000
#: A line this long ends at the next comma; a line this long ends at any word.
_LONG_US, _MOST_US = 9_000_000, 18_000_000
_ENDS_SENTENCE, _ENDS_CLAUSE = ".?!…。？！", ",;:—–、；："
#: The end of a sentence; quotes and brackets may follow it.
_BEHIND = "\"'”’»)]」』"


@dataclass(frozen=True, slots=True)
class HeardWord:
    """A word with its punctuation, its probability (0 to 1), alternatives (the likeliest first), and its language.

    `is_joined`: no space before it, as in Japanese.
    """

    text: str
    start_us: int
    end_us: int
    sure: float
    others: tuple[str, ...] = ()
    language: str = "en-us"
    is_joined: bool = False


@dataclass(frozen=True)
class HeardLine:
    """Consecutive words as one line; at least one."""

    words: tuple[HeardWord, ...]

    @property
    def text(self) -> str:
        """Its text."""
        return "".join(text for text, _ in self._pieces()).strip()

    @property
    def language(self) -> str:
        """The language of all its words."""
        return self.words[0].language

    @property
    def start_us(self) -> int:
        """Roughly when it starts."""
        return self.words[0].start_us

    @property
    def end_us(self) -> int:
        """Roughly when it ends."""
        return self.words[-1].end_us

    def _pieces(self) -> Iterator[tuple[str, HeardWord]]:
        for at, word in enumerate(self.words):
            yield ("" if word.is_joined or not at else " ") + word.text, word

    def word_of(self, parts: Sequence[str]) -> list[HeardWord | None]:
        """For the words of the line's text, in order, as split for reading, the heard word that each belongs to.

        None for one that is not in the text.
        """
        pieces = [(_folded(piece), word) for piece, word in self._pieces()]
        text = "".join(piece for piece, _ in pieces)
        owners = [word for piece, word in pieces for _ in piece]
        out: list[HeardWord | None] = []
        at = 0
        for part in parts:
            found = text.find(_folded(part), at) if part else -1
            out.append(owners[found] if found >= 0 else None)
            at = found + len(_folded(part)) if found >= 0 else at
        return out


def _folded(text: str) -> str:
    """A word folded for comparison."""
    return unicodedata.normalize("NFC", text).replace("’", "'").replace("‘", "'").casefold()


def lines_heard(words: Sequence[HeardWord]) -> list[HeardLine]:
    """The words as lines, cut at pauses, at the ends of sentences, and where the language changes."""
    lines: list[list[HeardWord]] = []
    for word in words:
        if not lines or _ends(lines[-1], word):
            lines.append([])
        lines[-1].append(word)
    return [HeardLine(tuple(line)) for line in lines]


def _ends(line: Sequence[HeardWord], after: HeardWord) -> bool:
    """Whether a line ends before a word."""
    last = line[-1]
    mark = last.text.rstrip(_BEHIND)[-1:]
    pause_us = after.start_us - last.end_us
    so_far_us = last.end_us - line[0].start_us
    return (
        pause_us >= PAUSE_US
        or after.language != last.language
        or (mark in _ENDS_SENTENCE and mark != "" and pause_us >= _PAUSE_OF_SENTENCE_US)
        or (mark in _ENDS_CLAUSE and mark != "" and so_far_us >= _LONG_US)
        or (not after.is_joined and so_far_us >= _MOST_US)
    )
