"""What the letters of a broad transcription mean in a language, if that differs from the IPA chart.

The synthesiser writes some vowels with the letter that is easiest to type. What the mouth shows depends on the sound:
Czech "e" is open-mid, Russian "ы" is not rounded, the first vowel of English "about" is not open. From the
Illustrations of the IPA: Czech (Dankovičová 1999), Slovak (Hanulíková and Hamann 2010), Bulgarian (Ternes and
Vladimirova-Buhtz 1999), Ukrainian (Pompino-Marschall et al. 2017), Russian (Yanushevskaya and Bunčić 2015), Estonian
(Asu and Teras 2009), Polish (Jassem 2003), English (Roach 2004); for Romanian, Chitoran 2001.
"""

from tinfork.core.speech.lexicon import base_language

_OPEN_MID = {"e": "ɛ", "eː": "ɛː"}
_VALUES: dict[str, dict[str, str]] = {
    "en": {"ɐ": "ə"},
    "cs": _OPEN_MID | {"i": "ɪ"},
    "sk": _OPEN_MID,
    "bg": _OPEN_MID,
    "uk": _OPEN_MID,
    "ru": {"y": "ɨ", "ɭ": "l", "ɭʲ": "lʲ"},
    "ro": {"y": "ɨ"},
    "et": {"ɵ": "ɤ", "ɵː": "ɤː"},
}
#: Small words that are pronounced with another sound: the Polish preposition is labiodental before voiced sounds too.
_WORDS: dict[tuple[str, str], dict[tuple[str, ...], tuple[str, ...]]] = {("pl", "w"): {("w",): ("v",)}}
#: Vowels that are reduced if unstressed.
_WEAK: dict[str, dict[str, str]] = {"ru": {"a": "ə"}}


def value_of(symbol: str, language: str) -> str:
    """The IPA of a symbol from the synthesiser, with its stress mark; unchanged if nothing else is known."""
    bare = symbol.lstrip("ˈˌ")
    mark = symbol[: len(symbol) - len(bare)]
    return mark + _VALUES.get(base_language(language), {}).get(bare, bare)


def reduced(symbol: str, language: str) -> str:
    """The IPA of a symbol in natural speech: without a stress mark, some vowels are weak."""
    return _WEAK.get(base_language(language), {}).get(symbol, symbol)


def word_value(word: str, sounds: tuple[str, ...], language: str) -> tuple[str, ...]:
    """The IPA of a word in connected speech; unchanged if nothing else is known."""
    return _WORDS.get((base_language(language), word.casefold()), {}).get(sounds, sounds)
