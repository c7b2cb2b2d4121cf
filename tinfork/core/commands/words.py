"""Edits of words and sounds.

Words and sounds are identified by their lasting numbers; `clip` says which clip is meant, if two play the same word.
"""

from typing import Annotated, Literal

from msgspec import Meta

from tinfork.core.commands.declared import Command, EditContext, Micros, MicrosShift, Number, Speaker, one_line
from tinfork.core.errors import FormatError
from tinfork.core.soundtrack import said
from tinfork.core.soundtrack.model import MOST_NUMBERS, Soundtrack
from tinfork.core.speech import handwork
from tinfork.core.speech.lexicon import parse_pronunciation

#: A clip's number; 0 for a word that no clip plays.
ClipNumber = Annotated[int, Meta(ge=0, le=MOST_NUMBERS)]
WordText = Annotated[str, Meta(max_length=handwork.MAX_LETTERS, pattern=r"\S")]
Sounds = Annotated[str, Meta(max_length=20, pattern=r"\S")]


class Edge(Command, frozen=True):
    """Move the start or the end of a word, or of one of its sounds; with `gap` the neighbour stays where it is."""

    word: Number
    at_us: Micros
    edge: Literal["start", "end"] = "start"
    sound: Number | None = None
    gap: bool = False
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found = said.find(st, self.word, self.clip)
        at = said.take_time(st, found, self.at_us)
        how = {"at_start": self.edge == "start", "leaves_gap": self.gap}
        if self.sound is None:
            return said.change(st, found, lambda r: handwork.move_edge(r, found.where, at, **how))
        sound = found.sound(self.sound)
        return said.change(st, found, lambda r: handwork.move_sound_edge(r, found.where, sound, at, **how))


class Slide(Command, frozen=True):
    """Move a word, or its whole line, in time."""

    word: Number
    by_us: MicrosShift
    what: Literal["word", "line"] = "word"
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found = said.find(st, self.word, self.clip)
        if self.what == "line":
            return said.change(st, found, lambda r: handwork.slide_line(r, found.where.line, self.by_us))
        return said.change(st, found, lambda r: handwork.slide_word(r, found.where, self.by_us))


class Retype(Command, frozen=True):
    """Change how a word is written."""

    word: Number
    text: WordText
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found, text = said.find(st, self.word, self.clip), one_line(self.text)
        sounds = context.sounds(text, found.line.language)
        return said.change(st, found, lambda r: handwork.retype(r, found.where, text, sounds))


def _one_sound(ipa: str) -> str:
    """A sound in IPA, or in ARPABET.

    Raises
    ------
    FormatError
        For none and for several.
    """
    sounds = parse_pronunciation(one_line(ipa))
    if len(sounds) != 1:
        raise FormatError("words.not_one_sound")
    return sounds[0]


class SoundSet(Command, frozen=True):
    """Replace a sound of a word by another one."""

    word: Number
    sound: Number
    ipa: Sounds
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found, ipa = said.find(st, self.word, self.clip), _one_sound(self.ipa)
        return said.change(st, found, lambda r: handwork.set_sound(r, found.where, found.sound(self.sound), ipa))


class SoundInsert(Command, frozen=True):
    """Insert a sound before another one of its word, or `after` it."""

    word: Number
    sound: Number
    ipa: Sounds
    after: bool = False
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found, ipa = said.find(st, self.word, self.clip), _one_sound(self.ipa)
        at = found.sound(self.sound) + self.after
        return said.change(st, found, lambda r: handwork.insert_sound(r, found.where, at, ipa))


class SoundRemove(Command, frozen=True):
    """Remove a sound from its word."""

    word: Number
    sound: Number
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found = said.find(st, self.word, self.clip)
        return said.change(st, found, lambda r: handwork.remove_sound(r, found.where, found.sound(self.sound)))


class WordRemove(Command, frozen=True):
    """Remove a word."""

    word: Number
    clip: ClipNumber | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        found = said.find(st, self.word, self.clip)
        return said.change(st, found, lambda r: handwork.remove_word(r, found.where))


class WordAdd(Command, frozen=True):
    """Add a word that is said but missing from the text."""

    speaker: Speaker
    text: WordText
    start_us: Micros
    end_us: Micros

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        if self.end_us <= self.start_us:
            raise FormatError("words.reversed")
        span = (self.start_us, self.end_us)
        return said.add_word(st, context.speaker(self.speaker), one_line(self.text), span, context.sounds)


WORDS: dict[str, type[Command]] = {
    "edge": Edge,
    "slide": Slide,
    "retype": Retype,
    "sound_set": SoundSet,
    "sound_insert": SoundInsert,
    "sound_remove": SoundRemove,
    "word_remove": WordRemove,
    "word_add": WordAdd,
}
