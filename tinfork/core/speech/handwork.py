"""Correcting times, words and sounds of a reading by hand: each edit returns the next reading.

An edited word is pinned, and its sounds get full confidence. When a word gets longer or shorter, its sounds do in
proportion; an adjacent word follows, unless a gap is wanted. No sound gets shorter than `LEAST_US`: an edge that is
dragged further stops there.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain

from tinfork.core.errors import TimingError
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import is_vowel

#: The shortest sound and gap.
LEAST_US = 10_000
#: The length of a vowel relative to a consonant if nothing else is known (Klatt 1976: 1.5 to 2).
_VOWEL = 1.6
#: The most letters and sounds of a word.
MAX_LETTERS = 80
MAX_SOUNDS = 40


@dataclass(frozen=True, slots=True)
class WordPlace:
    """The place of a word: the indices of its line and in the line."""

    line: int
    word: int


def word_at(reading: Reading, where: WordPlace) -> Word:
    """The word.

    Raises
    ------
    TimingError
        When it is gone.
    """
    try:
        return reading.lines[where.line].words[where.word]
    except IndexError:
        raise TimingError("word.removed") from None


def move_edge(reading: Reading, where: WordPlace, at_us: int, *, at_start: bool, leaves_gap: bool = False) -> Reading:
    """Move one end of a word to another time. An adjacent word follows; with `gap`, it stays where it is."""
    word = word_at(reading, where)
    side = -1 if at_start else 1
    other = _neighbour(reading, where, side)
    touches = other is not None and _touch(word, word_at(reading, other), side)
    low, high = 0, reading.duration_us
    if other is not None:
        beside = word_at(reading, other)
        room = _least(beside) if touches and not leaves_gap else 0
        if at_start:
            low = (beside.start_us if room else beside.end_us) + room
        else:
            high = (beside.end_us if room else beside.start_us) - room
    if at_start:
        high = word.end_us - _least(word)
    else:
        low = word.start_us + _least(word)
    at_us = max(low, min(at_us, high))
    span = (at_us, word.end_us) if at_start else (word.start_us, at_us)
    changed = {where: _by_hand(_stretched(word, *span))}
    if other is not None and touches and not leaves_gap:
        beside = word_at(reading, other)
        span = (beside.start_us, at_us) if at_start else (at_us, beside.end_us)
        changed[other] = _stretched(beside, *span)
    return _with_words(reading, changed)


def slide_word(reading: Reading, where: WordPlace, by_us: int) -> Reading:
    """Move a word in time; the near ends of adjacent words follow, and other words stop it."""
    word = word_at(reading, where)
    low, high = 0, reading.duration_us
    changed: dict[WordPlace, Word] = {}
    sides = {side: _neighbour(reading, where, side) for side in (-1, 1)}
    for side, other in sides.items():
        if other is None:
            continue
        beside = word_at(reading, other)
        room = _least(beside) if _touch(word, beside, side) else 0
        if side < 0:
            low = beside.start_us + room if room else beside.end_us
        else:
            high = beside.end_us - room if room else beside.start_us
    by_us = max(low - word.start_us, min(by_us, high - word.end_us))
    new = _moved(word, by_us)
    for side, other in sides.items():
        if other is not None and _touch(word, beside := word_at(reading, other), side):
            span = (beside.start_us, new.start_us) if side < 0 else (new.end_us, beside.end_us)
            changed[other] = _stretched(beside, *span)
    return _with_words(reading, changed | {where: _by_hand(new)})


def slide_line(reading: Reading, line: int, by_us: int) -> Reading:
    """Move a whole line in time, up to the neighbouring lines of the same speaker.

    Raises
    ------
    TimingError
        For a line that is gone.
    """
    if not (0 <= line < len(reading.lines) and reading.lines[line].words):
        raise TimingError("line.removed")
    own = reading.lines[line]
    kin = [o for at, o in enumerate(reading.lines) if at != line and o.words and o.speaker == own.speaker]
    low = max((o.end_us for o in kin if o.end_us <= own.start_us), default=0)
    high = min((o.start_us for o in kin if o.start_us >= own.end_us), default=reading.duration_us)
    by_us = max(low - own.start_us, min(by_us, high - own.end_us))
    words = {WordPlace(line, at): replace(_moved(w, by_us), is_pinned=True) for at, w in enumerate(own.words)}
    return _with_words(reading, words)


def move_sound_edge(
    reading: Reading, where: WordPlace, sound: int, at_us: int, *, at_start: bool, leaves_gap: bool = False
) -> Reading:
    """Move one end of a sound inside its word; at the ends of the word, the word's end."""
    word = word_at(reading, where)
    sounds = list(word.phonemes)
    own = _sound(word, sound)
    beside = sound - 1 if at_start else sound + 1
    if not 0 <= beside < len(sounds):
        # The word's end moves, and of its sounds only this one.
        moved = word_at(move_edge(reading, where, at_us, at_start=at_start, leaves_gap=leaves_gap), where)
        at_us = moved.start_us if at_start else moved.end_us
        at_us = min(at_us, _latest_start(own)) if at_start else max(at_us, _earliest_end(own))
        whole = move_edge(reading, where, at_us, at_start=at_start, leaves_gap=leaves_gap)
        if at_start:
            sounds[sound] = replace(own, start_us=at_us, confidence=1.0)
            new = replace(word, start_us=at_us, phonemes=tuple(sounds))
        else:
            sounds[sound] = replace(own, end_us=at_us, confidence=1.0)
            new = replace(word, end_us=at_us, phonemes=tuple(sounds))
        return _with_words(whole, {where: _by_hand(new)})
    other = sounds[beside]
    touches = other.end_us == own.start_us if at_start else other.start_us == own.end_us
    follows = touches and not leaves_gap
    if at_start:
        wall = min(own.start_us, other.start_us + LEAST_US if follows else other.end_us)
        at_us = max(wall, min(at_us, _latest_start(own)))
        sounds[sound] = replace(own, start_us=at_us, confidence=1.0)
        if follows:
            sounds[beside] = replace(other, end_us=at_us, confidence=1.0)
    else:
        wall = max(own.end_us, other.end_us - LEAST_US if follows else other.start_us)
        at_us = min(wall, max(at_us, _earliest_end(own)))
        sounds[sound] = replace(own, end_us=at_us, confidence=1.0)
        if follows:
            sounds[beside] = replace(other, start_us=at_us, confidence=1.0)
    return _with_words(reading, {where: _by_hand(replace(word, phonemes=tuple(sounds)))})


def set_sound(reading: Reading, where: WordPlace, sound: int, ipa: str) -> Reading:
    """Replace a sound."""
    word = word_at(reading, where)
    sounds = list(word.phonemes)
    sounds[sound] = replace(_sound(word, sound), ipa=ipa, confidence=1.0)
    return _with_words(reading, {where: _by_hand(replace(word, phonemes=tuple(sounds)))})


def insert_sound(reading: Reading, where: WordPlace, sound: int, ipa: str) -> Reading:
    """Insert a sound before the one at an index, or after the last; it takes half of its neighbour's time.

    Raises
    ------
    TimingError
        For more sounds than a word may have, and where there is no room.
    """
    word = word_at(reading, where)
    sounds = list(word.phonemes)
    if len(sounds) >= MAX_SOUNDS:
        raise TimingError("word.most_sounds", max_sounds=MAX_SOUNDS)
    if not sounds:
        new = [Phoneme(ipa, word.start_us, word.end_us)]
        return _with_words(reading, {where: _by_hand(replace(word, phonemes=tuple(new)))})
    beside = _sound(word, min(max(0, sound), len(sounds) - 1))
    if beside.end_us - beside.start_us < 2 * LEAST_US:
        raise TimingError("phoneme.no_room")
    middle = (beside.start_us + beside.end_us) // 2
    at = sounds.index(beside)
    if sound >= len(sounds):
        sounds[at:] = [replace(beside, end_us=middle), Phoneme(ipa, middle, beside.end_us)]
    else:
        sounds[at : at + 1] = [Phoneme(ipa, beside.start_us, middle), replace(beside, start_us=middle)]
    return _with_words(reading, {where: _by_hand(replace(word, phonemes=tuple(sounds)))})


def remove_sound(reading: Reading, where: WordPlace, sound: int) -> Reading:
    """Remove a sound; the one before it gets its time, or, for the first, the one after it.

    Raises
    ------
    TimingError
        For the last sound of a word.
    """
    word = word_at(reading, where)
    gone = _sound(word, sound)
    sounds = [s for at, s in enumerate(word.phonemes) if at != sound]
    if not sounds:
        raise TimingError("word.last_sound")
    if sound:
        sounds[sound - 1] = replace(sounds[sound - 1], end_us=gone.end_us)
    else:
        sounds[0] = replace(sounds[0], start_us=gone.start_us)
    return _with_words(reading, {where: _by_hand(replace(word, phonemes=tuple(sounds)))})


def retype(reading: Reading, where: WordPlace, text: str, sounds: Sequence[str]) -> Reading:
    """Change a word's text and sounds at the same times; the line's text changes with it."""
    word = word_at(reading, where)
    new = replace(_spread(text, word.start_us, word.end_us, sounds), id=word.id)
    line = reading.lines[where.line]
    written = _rewritten(line, where.word, text)
    lines = list(reading.lines)
    words = (*line.words[: where.word], new, *line.words[where.word + 1 :])
    lines[where.line] = replace(line, text=written, words=words)
    return replace(reading, lines=tuple(lines))


def remove_word(reading: Reading, where: WordPlace) -> Reading:
    """Remove a word."""
    word_at(reading, where)
    line = reading.lines[where.line]
    words = line.words[: where.word] + line.words[where.word + 1 :]
    written = _rewritten(line, where.word, "")
    new = [replace(line, text=written, words=words)] if words or line.missing_words else []
    return replace(reading, lines=(*reading.lines[: where.line], *new, *reading.lines[where.line + 1 :]))


def add_word(
    reading: Reading, speaker: str, language: str, text: str, span: tuple[int, int], sounds: Sequence[str]
) -> Reading:
    """Add a word, in the speaker's line around it or in a line of its own.

    Raises
    ------
    TimingError
        Where there is no room for its sounds.
    """
    start, end = max(0, span[0]), min(span[1], reading.duration_us)
    for line in reading.lines:
        if line.speaker != speaker:
            continue
        for word in line.words:
            if word.end_us <= start or word.start_us >= end:
                continue
            # It takes the room between the neighbouring words.
            start, end = (max(start, word.end_us), end) if word.start_us <= start else (start, min(end, word.start_us))
    if end - start < LEAST_US * max(1, len(sounds)):
        raise TimingError("word.no_room")
    new = _spread(text, start, end, sounds)
    lines = list(reading.lines)
    for at, line in enumerate(lines):
        if line.speaker == speaker and line.words and line.start_us < start and end < line.end_us:
            place = sum(word.start_us < start for word in line.words)
            words = (*line.words[:place], new, *line.words[place:])
            lines[at] = replace(line, text=" ".join(w.text for w in words), words=words)
            return replace(reading, lines=tuple(lines))
    place = sum(1 for line in lines if line.start_us <= start)
    lines.insert(place, Line(speaker, text, language, (new,)))
    return replace(reading, lines=tuple(lines))


def _spread(text: str, start_us: int, end_us: int, sounds: Sequence[str]) -> Word:
    """A word whose sounds share its time, with longer vowels.

    Raises
    ------
    TimingError
        For no sounds, and where there is no room for them.
    """
    if not sounds:
        raise TimingError("word.no_sounds", text=text)
    if end_us - start_us < LEAST_US * len(sounds):
        raise TimingError("word.too_short", text=text, count=len(sounds))
    shares = [_VOWEL if is_vowel(s) else 1.0 for s in sounds]
    spare = end_us - start_us - LEAST_US * len(sounds)
    edges, spent = [start_us], 0.0
    for number, share in enumerate(shares, 1):
        spent += share
        edges.append(start_us + LEAST_US * number + round(spare * spent / sum(shares)))
    parts = tuple(Phoneme(s, a, b) for s, a, b in zip(sounds, edges, edges[1:], strict=False))
    return Word(text, start_us, end_us, parts, 1.0, is_pinned=True)


def _rewritten(line: Line, number: int, text: str) -> str:
    """The line's text with one word replaced."""
    at = 0
    for word in line.words[:number]:
        found = line.text.find(word.text, at)
        at = found + len(word.text) if found >= 0 else at
    old = line.words[number].text
    found = line.text.find(old, at)
    if found < 0:
        return " ".join(w for w in (text if n == number else w.text for n, w in enumerate(line.words)) if w)
    return " ".join((line.text[:found] + text + line.text[found + len(old) :]).split())


def _sound(word: Word, sound: int) -> Phoneme:
    if not 0 <= sound < len(word.phonemes):
        raise TimingError("phoneme.removed")
    return word.phonemes[sound]


def _latest_start(sound: Phoneme) -> int:
    """The latest start of a sound; one that is shorter than allowed keeps its length."""
    return max(sound.start_us, sound.end_us - LEAST_US)


def _earliest_end(sound: Phoneme) -> int:
    return min(sound.end_us, sound.start_us + LEAST_US)


def _least(word: Word) -> int:
    return LEAST_US * max(1, len(word.phonemes))


def _touch(word: Word, other: Word, side: int) -> bool:
    return other.end_us == word.start_us if side < 0 else other.start_us == word.end_us


def _neighbour(reading: Reading, where: WordPlace, side: int) -> WordPlace | None:
    """The same speaker's word before or after a word, in time."""
    own = word_at(reading, where)
    speaker = reading.lines[where.line].speaker
    found: tuple[int, WordPlace] | None = None
    # The nearest lines first: of most others the ends suffice, since words are in order.
    for at in chain(range(where.line, -1, -1), range(where.line + 1, len(reading.lines))):
        line = reading.lines[at]
        if line.speaker != speaker or not line.words:
            continue
        first_us, last_us = line.words[0].start_us, line.words[-1].start_us
        if first_us >= own.start_us if side < 0 else last_us < own.end_us:
            continue
        if found and (last_us <= found[0] if side < 0 else first_us >= found[0]):
            continue
        for number, word in enumerate(line.words):
            if word.end_us <= own.start_us if side < 0 else word.start_us >= own.end_us:
                is_nearer = found is None or (word.start_us > found[0] if side < 0 else word.start_us < found[0])
                found = (word.start_us, WordPlace(at, number)) if is_nearer else found
    return found[1] if found else None


def _stretched(word: Word, start_us: int, end_us: int) -> Word:
    """A word stretched to other times, its sounds in proportion."""
    scale = (end_us - start_us) / (word.end_us - word.start_us)

    def moved(time_us: int) -> int:
        return start_us + round((time_us - word.start_us) * scale)

    sounds = [replace(p, start_us=moved(p.start_us), end_us=moved(p.end_us)) for p in word.phonemes]
    return replace(word, start_us=start_us, end_us=end_us, phonemes=tuple(sounds))


def _moved(word: Word, by_us: int) -> Word:
    sounds = tuple(replace(p, start_us=p.start_us + by_us, end_us=p.end_us + by_us) for p in word.phonemes)
    return replace(word, start_us=word.start_us + by_us, end_us=word.end_us + by_us, phonemes=sounds)


def _by_hand(word: Word) -> Word:
    return replace(word, is_pinned=True, confidence=1.0, heard="")


def _with_words(reading: Reading, changed: dict[WordPlace, Word]) -> Reading:
    lines = list(reading.lines)
    for where, word in changed.items():
        line = lines[where.line]
        lines[where.line] = replace(line, words=(*line.words[: where.word], word, *line.words[where.word + 1 :]))
    return replace(reading, lines=tuple(lines))
