"""The reading: which line, word and speech sound falls when.

Values are frozen and compared exactly. Times are integer microseconds from the
start of the sound; spans are half-open `[start_us, end_us)`. Confidence runs
from 0 (surely wrong) to 1 (surely right).
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

from tinfork.core.errors import TimingError
from tinfork.core.kept import kept, of_each
from tinfork.core.messages import Message
from tinfork.core.speech.visemes import viseme_of

#: A word below this confidence is worth a second look.
DOUBTFUL = 0.5
#: The method of a line with missing words, or with speech that is not in its text.
WORDS_AMISS = "words amiss"


def _check_span(start_us: int, end_us: int, code: str, **values: str) -> None:
    if start_us < 0 or end_us <= start_us:
        raise TimingError("reading.reversed", what=Message(code, **values))


@dataclass(frozen=True, slots=True)
class Phoneme:
    """One speech sound in the language's own IPA; ˈ before it marks stress."""

    ipa: str
    start_us: int
    end_us: int
    confidence: float = 1.0
    #: Its lasting number in its word; 0: none yet. Numbers do not count in comparisons.
    id: int = field(default=0, compare=False)

    def __post_init__(self) -> None:
        _check_span(self.start_us, self.end_us, "reading.this_sound", sound=self.ipa)

    @property
    def viseme(self) -> str:
        """The viseme class under which it is listed."""
        return viseme_of(self.ipa)

    @property
    def is_stressed(self) -> bool:
        """Whether it carries stress."""
        return self.ipa.startswith(("ˈ", "ˌ"))


@dataclass(frozen=True, slots=True)
class Word:
    """A word as it is written, with its spoken sounds.

    A pinned word was placed by a person; `heard` is what seems to be said instead, if anything; `others` are
    alternatives for a word that nobody typed.
    """

    text: str
    start_us: int
    end_us: int
    phonemes: tuple[Phoneme, ...]
    confidence: float = 1.0
    is_pinned: bool = False
    heard: str = ""
    others: tuple[str, ...] = ()
    #: Its lasting number; 0: it has none. Two are the same whatever their numbers.
    id: int = field(default=0, compare=False)

    def __post_init__(self) -> None:
        _check_span(self.start_us, self.end_us, "reading.this_word", word=self.text)
        last = self.start_us
        for phoneme in self.phonemes:
            if phoneme.start_us < last or phoneme.end_us > self.end_us:
                raise TimingError("reading.sound_outside_word", text=self.text)
            last = phoneme.end_us


@dataclass(frozen=True, slots=True)
class Extra:
    """Speech `[start_us, end_us)` in a line that is not in its text, and the words heard there.

    "" if there were none.
    """

    start_us: int
    end_us: int
    heard: str = ""

    def __post_init__(self) -> None:
        _check_span(self.start_us, self.end_us, "reading.this_extra")


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Line:
    """A phrase by one speaker in one language (an espeak-ng language code).

    `co_speakers` are others whose mouths move with it: turns overlap, but only one of them has words. `missing_words`
    are words of its text that were not heard, `extras` speech that is not in its text; `method` says how it was read.
    """

    speaker: str
    text: str
    language: str
    words: tuple[Word, ...]
    co_speakers: tuple[str, ...] = ()
    missing_words: tuple[str, ...] = ()
    method: str = ""
    extras: tuple[Extra, ...] = ()
    #: Its lasting number; 0: it has none. Two are the same whatever their numbers.
    id: int = field(default=0, compare=False)

    @property
    def start_us(self) -> int:
        """The start of its first word; 0 for a line without words."""
        return self.words[0].start_us if self.words else 0

    @property
    def end_us(self) -> int:
        """The end of its last word; 0 for a line without words."""
        return self.words[-1].end_us if self.words else 0


@kept
def _last_end_us(line: Line) -> int:
    """The latest end of a line's words."""
    return max((word.end_us for word in line.words), default=0)


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Turn:
    """A stretch in which one speaker talks; turns set `by_hand` survive a new reading."""

    speaker: str
    start_us: int
    end_us: int
    by_hand: bool = False
    #: Its lasting number; 0: it has none. Two are the same whatever their numbers.
    id: int = field(default=0, compare=False)

    def __post_init__(self) -> None:
        _check_span(self.start_us, self.end_us, "reading.this_turn")


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Reading:
    """All lines of a sound of `duration_us`, in time order.

    If there are `turns`, they decide whose mouth moves (see `core/speech/turns.py`); else the speaker of each line
    does.
    """

    duration_us: int
    lines: tuple[Line, ...] = field(default=())
    turns: tuple[Turn, ...] = field(default=())

    def __post_init__(self) -> None:
        if max(of_each(_last_end_us, self.lines), default=0) > self.duration_us:
            late = next(word for word in self.words() if word.end_us > self.duration_us)
            raise TimingError("reading.word_outside", text=late.text)
        if any(turn.end_us > self.duration_us for turn in self.turns):
            raise TimingError("reading.turn_outside")

    def words(self) -> Iterator[Word]:
        """Every word, line by line."""
        for line in self.lines:
            yield from line.words

    def phonemes(self, speaker: str | None = None) -> Iterator[Phoneme]:
        """All speech sounds in time order, or those of one speaker."""
        said = (
            phoneme
            for line in self.lines
            if speaker is None or line.speaker == speaker or speaker in line.co_speakers
            for word in line.words
            for phoneme in word.phonemes
        )
        yield from sorted(said, key=lambda phoneme: phoneme.start_us)
