"""Lasting numbers for lines, words, sounds, turns and notes.

With them, an edit refers to the same thing when it arrives, whatever moved meanwhile.

A line, a word, a turn and a note have a number that is unique in the soundtrack, a sound one that is unique in its
word. No number is used twice. After a new reading, a word with the same text and speaker takes over the number of the
old one, in order.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from difflib import SequenceMatcher
from typing import Protocol, TypeVar

from tinfork.core.kept import common_ends, kept, of_each
from tinfork.core.soundtrack.model import Note, Soundtrack, Voice
from tinfork.core.speech.reading import Line, Phoneme, Reading, Turn, Word

#: If whole lines changed, at most this many words are compared; with more, only equal lines keep their numbers.
_MOST_WORDS = 1_000
_NOTHING = Reading(1)


class _Numbered(Protocol):
    @property
    def id(self) -> int: ...


_T = TypeVar("_T", bound=_Numbered)


def numbered(before: Soundtrack, after: Soundtrack, next_id: int) -> tuple[Soundtrack, int]:
    """Number everything in a soundtrack; returns it and the next free number.

    `before` is the soundtrack it was made from.
    """
    after, next_id = _with_notes(before, after, next_id)
    if after.voices is before.voices:
        return after, next_id
    work = _Work(next_id)
    was = {voice.id: voice for voice in before.voices}
    voices = tuple(work.voice(was.get(voice.id), voice) for voice in after.voices)
    if all(new is old for new, old in zip(voices, after.voices, strict=True)):
        return after, work.next_id
    return replace(after, voices=voices), work.next_id


def _with_notes(before: Soundtrack, after: Soundtrack, next_id: int) -> tuple[Soundtrack, int]:
    """Number the notes of a soundtrack; returns it and the next free number."""
    if after.notes is before.notes and all(note.id for note in after.notes):
        return after, next_id
    used: set[int] = set()
    notes: list[Note] = []
    for note in after.notes:
        if not note.id or note.id >= next_id or note.id in used:
            note = replace(note, id=next_id)
            next_id += 1
        used.add(note.id)
        notes.append(note)
    return replace(after, notes=tuple(notes)), next_id


@dataclass
class _Work:
    """The numbers given so far."""

    next_id: int
    _limit: int = field(init=False)
    _used: set[int] = field(default_factory=set)

    def __post_init__(self) -> None:
        self._limit = self.next_id

    def voice(self, was: Voice | None, now: Voice) -> Voice:
        if was is now:
            self._used.update(_numbers(now.reading))
            return now
        old, new = was.reading if was else _NOTHING, now.reading
        # Unchanged lines keep their numbers: only the lines between them are compared.
        first, last = common_ends(old.lines, new.lines)
        numbers = of_each(_line_numbers, new.lines)
        del numbers[first : len(numbers) - last]
        if not all(numbers):
            first, last, numbers = 0, 0, []
        self._used.update(*numbers)
        old = replace(old, lines=old.lines[first : len(old.lines) - last])
        between = new.lines[first : len(new.lines) - last]
        lines = self._lines(old, [self._own_line(line) for line in between])
        turns = self._turns(old, [self._own(turn) for turn in new.turns])
        if all(a is b for a, b in zip((*lines, *turns), (*between, *new.turns), strict=True)):
            return now
        all_lines = (*new.lines[:first], *lines, *new.lines[len(new.lines) - last :])
        return replace(now, reading=replace(new, lines=all_lines, turns=tuple(turns)))

    def _own(self, one: _T) -> _T:
        """The item with its number if that is unique and from this soundtrack; else without a number."""
        if one.id and one.id < self._limit and one.id not in self._used:
            self._used.add(one.id)
            return one
        return replace(one, id=0) if one.id else one  # type: ignore[type-var]

    def _own_line(self, line: Line) -> Line:
        own = self._own(line)
        words = tuple(map(self._own, line.words))
        return own if all(a is b for a, b in zip(words, line.words, strict=True)) else replace(own, words=words)

    def _new(self) -> int:
        self.next_id += 1
        return self.next_id - 1

    def _take(self, one: _T, id_: int) -> _T:
        self._used.add(id_)
        return replace(one, id=id_)  # type: ignore[type-var]

    # lines and words -------------------------------------------------------------------------------------------------

    def _lines(self, old: Reading, lines: list[Line]) -> list[Line]:
        if all(line.id and _is_numbered(line) for line in lines):
            return lines
        free = defaultdict(list)
        for line in reversed(old.lines):
            if line.id not in self._used:
                free[line.speaker, line.text].append(line.id)
        for at, line in enumerate(lines):
            if not line.id and free[line.speaker, line.text]:
                lines[at] = self._take(line, free[line.speaker, line.text].pop())
        by_id = {line.id: line for line in old.lines}
        lines = [self._words(line, by_id[line.id].words) if line.id in by_id else line for line in lines]
        lines = self._words_elsewhere(old, lines)
        was = {word.id: word for word in old.words()}
        return [self._finished(line, was) for line in lines]

    def _words(self, line: Line, old: Sequence[Word]) -> Line:
        """A line whose words take over the numbers of the old line's."""
        if all(word.id for word in line.words):
            return line
        words = list(line.words)
        open_at = [at for at, word in enumerate(words) if not word.id]
        free = [word for word in old if word.id not in self._used]
        for one, other in _same([words[at].text for at in open_at], [word.text for word in free]):
            words[open_at[one]] = self._take(words[open_at[one]], free[other].id)
        return replace(line, words=tuple(words))

    def _words_elsewhere(self, old: Reading, lines: list[Line]) -> list[Line]:
        """Match words that moved to another line: lines were joined, split or rewritten."""
        free = [(line.speaker, word) for line in old.lines for word in line.words if word.id not in self._used]
        places = [(at, n) for at, line in enumerate(lines) for n, word in enumerate(line.words) if not word.id]
        if not free or not places or max(len(free), len(places)) > _MOST_WORDS:
            return lines
        texts = [(lines[at].speaker, lines[at].words[n].text) for at, n in places]
        given = {
            places[one]: free[other][1].id
            for one, other in _same(texts, [(speaker, word.text) for speaker, word in free])
        }
        return [
            replace(
                line,
                words=tuple(
                    self._take(word, given[at, n]) if (at, n) in given else word for n, word in enumerate(line.words)
                ),
            )
            if any(place[0] == at for place in given)
            else line
            for at, line in enumerate(lines)
        ]

    def _finished(self, line: Line, was: dict[int, Word]) -> Line:
        """Give new numbers to whatever has none yet."""
        if not line.id:
            line = self._take(line, self._new())
        if _is_numbered(line):
            return line
        words = [word if word.id else self._take(word, self._new()) for word in line.words]
        return replace(line, words=tuple(_with_sounds(word, was.get(word.id)) for word in words))

    # turns -----------------------------------------------------------------------------------------------------------

    def _turns(self, old: Reading, turns: list[Turn]) -> list[Turn]:
        free = [turn for turn in old.turns if turn.id not in self._used]
        for at, turn in enumerate(turns):
            if turn.id:
                continue
            kin = [t for t in free if t.speaker == turn.speaker and _meet(t, turn)]
            if kin:
                free.remove(kin[0])
            turns[at] = self._take(turn, kin[0].id if kin else self._new())
        return turns


def _with_sounds(word: Word, was: Word | None) -> Word:
    """A word with all its sounds numbered."""
    sounds = list(word.phonemes)
    used: set[int] = set()
    for at, sound in enumerate(sounds):
        if sound.id in used:
            sounds[at] = replace(sound, id=0)
        used.add(sound.id)
    if all(sound.id for sound in sounds):
        return (
            word if tuple(map(_id, sounds)) == tuple(map(_id, word.phonemes)) else replace(word, phonemes=tuple(sounds))
        )
    old = was.phonemes if was else ()
    next_id = max((sound.id for sound in (*old, *sounds)), default=0) + 1
    open_at = [at for at, sound in enumerate(sounds) if not sound.id]
    free = [sound for sound in old if sound.id not in used]
    for one, other in _same([sounds[at].ipa for at in open_at], [sound.ipa for sound in free]):
        sounds[open_at[one]] = replace(sounds[open_at[one]], id=free[other].id)
    for at, sound in enumerate(sounds):
        if not sound.id:
            sounds[at] = replace(sound, id=next_id)
            next_id += 1
    return replace(word, phonemes=tuple(sounds))


def _id(sound: Phoneme) -> int:
    return sound.id


def _same(new: Sequence[object], old: Sequence[object]) -> Iterator[tuple[int, int]]:
    """The indices of matching items in two sequences, in order."""
    for block in SequenceMatcher(None, new, old, autojunk=False).get_matching_blocks():
        yield from ((block.a + n, block.b + n) for n in range(block.size))


def _meet(one: Turn, other: Turn) -> bool:
    return one.start_us < other.end_us and other.start_us < one.end_us


def _is_numbered(line: Line) -> bool:
    return all(word.id and all(sound.id for sound in word.phonemes) for word in line.words)


@kept
def _line_numbers(line: Line) -> frozenset[int]:
    """The numbers of a line and its words; none if one of them, or a sound, has no number."""
    if not line.id or not _is_numbered(line):
        return frozenset()
    return frozenset((line.id, *(word.id for word in line.words)))


def _numbers(reading: Reading) -> Iterable[int]:
    yield from (turn.id for turn in reading.turns)
    for line in reading.lines:
        yield line.id
        yield from (word.id for word in line.words)
