"""The other places of a word, for correcting it everywhere."""

from collections.abc import Callable

from tinfork.core.speech import handwork
from tinfork.core.speech.handwork import WordPlace
from tinfork.core.speech.lexicon import fold_word
from tinfork.core.speech.reading import Reading


def places_of(reading: Reading, word: str) -> list[WordPlace]:
    """The places of a word in a reading, in any spelling of case and punctuation."""
    folded = fold_word(word)
    return [
        WordPlace(number, at)
        for number, line in enumerate(reading.lines)
        for at, one in enumerate(line.words)
        if folded and fold_word(one.text) == folded
    ]


def retyped(reading: Reading, was: str, now: str, sounds_in: Callable[[str, str], tuple[str, ...]]) -> Reading:
    """Replace a word in each place by another one, at the same times.

    `sounds_in(text, language)` returns its phonemes in IPA. Punctuation stays.
    """
    for where in places_of(reading, was):
        line = reading.lines[where.line]
        sounds = sounds_in(now, line.language)
        reading = handwork.retype(reading, where, keep_punctuation(line.words[where.word].text, now), sounds)
    return reading


def keep_punctuation(old: str, new: str) -> str:
    """A new word with the punctuation of the old one before and after it."""
    letters = [at for at, letter in enumerate(old) if letter.isalnum()]
    return f"{old[: letters[0]]}{new}{old[letters[-1] + 1 :]}" if letters else new
