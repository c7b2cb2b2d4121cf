"""Edits of words and sounds by name. A word and a sound are named by their lasting numbers."""

from collections.abc import Callable

from tinfork.core.errors import FormatError
from tinfork.core.soundtrack import said
from tinfork.core.soundtrack.given import Given
from tinfork.core.soundtrack.model import LONGEST_US, MOST_NUMBERS, Soundtrack
from tinfork.core.soundtrack.said import Found
from tinfork.core.speech import handwork
from tinfork.core.speech.lexicon import parse_pronunciation


def _found(st: Soundtrack, given: Given) -> Found:
    clip = given.whole("clip", 0, MOST_NUMBERS) if "clip" in given.values else None
    return said.find(st, given.whole("word", 1, MOST_NUMBERS), clip)


def _sound(found: Found, given: Given) -> int:
    return found.sound(given.whole("sound", 1, MOST_NUMBERS))


def _edge(st: Soundtrack, given: Given) -> Soundtrack:
    found = _found(st, given)
    at = said.take_time(st, found, given.whole("at_us"))
    at_start, gap = given.one_of("edge", ("start", "end")) == "start", given.flag("gap")
    if given.values.get("sound") is None:
        return said.change(
            st, found, lambda r: handwork.move_edge(r, found.where, at, at_start=at_start, leaves_gap=gap)
        )
    sound = _sound(found, given)
    return said.change(
        st, found, lambda r: handwork.move_sound_edge(r, found.where, sound, at, at_start=at_start, leaves_gap=gap)
    )


def _slide(st: Soundtrack, given: Given) -> Soundtrack:
    found, by = _found(st, given), given.whole("by_us", -LONGEST_US, LONGEST_US)
    if given.one_of("what", ("word", "line")) == "line":
        return said.change(st, found, lambda r: handwork.slide_line(r, found.where.line, by))
    return said.change(st, found, lambda r: handwork.slide_word(r, found.where, by))


def _retype(st: Soundtrack, given: Given) -> Soundtrack:
    found, text = _found(st, given), given.text("text", handwork.MAX_LETTERS)
    sounds = given.sounds(text, found.line.language)
    return said.change(st, found, lambda r: handwork.retype(r, found.where, text, sounds))


def _one_sound(given: Given) -> str:
    """A sound in IPA, or in ARPABET."""
    sounds = parse_pronunciation(given.text("ipa", 20))
    if len(sounds) != 1:
        raise FormatError("Give one sound, in IPA or ARPABET.")
    return sounds[0]


def _sound_set(st: Soundtrack, given: Given) -> Soundtrack:
    found, ipa = _found(st, given), _one_sound(given)
    return said.change(st, found, lambda r: handwork.set_sound(r, found.where, _sound(found, given), ipa))


def _sound_insert(st: Soundtrack, given: Given) -> Soundtrack:
    found, ipa = _found(st, given), _one_sound(given)
    at = _sound(found, given) + given.flag("after")
    return said.change(st, found, lambda r: handwork.insert_sound(r, found.where, at, ipa))


def _sound_remove(st: Soundtrack, given: Given) -> Soundtrack:
    found = _found(st, given)
    return said.change(st, found, lambda r: handwork.remove_sound(r, found.where, _sound(found, given)))


def _word_remove(st: Soundtrack, given: Given) -> Soundtrack:
    found = _found(st, given)
    return said.change(st, found, lambda r: handwork.remove_word(r, found.where))


def _word_add(st: Soundtrack, given: Given) -> Soundtrack:
    span = (given.whole("start_us"), given.whole("end_us"))
    if span[1] <= span[0]:
        raise FormatError("A word ends after it starts.")
    return said.add_word(st, given.speaker(), given.text("text", handwork.MAX_LETTERS), span, given.sounds)


WORDS: dict[str, Callable[[Soundtrack, Given], Soundtrack]] = {
    "edge": _edge,
    "slide": _slide,
    "retype": _retype,
    "sound_set": _sound_set,
    "sound_insert": _sound_insert,
    "sound_remove": _sound_remove,
    "word_remove": _word_remove,
    "word_add": _word_add,
}
