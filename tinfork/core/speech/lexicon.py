"""A production's own pronunciations of words, typed in IPA or ARPABET, stored as IPA symbols.

A symbol is one speech sound, with diphthongs and affricates as one; ˈ or ˌ stands before a stressed vowel.
"""

import re
import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from tinfork.core.errors import WordsError
from tinfork.core.speech.arpabet import IPA_OF
from tinfork.core.speech.features import FEATURES
from tinfork.core.speech.reading import Line
from tinfork.core.speech.visemes import is_vowel

#: The most symbols in a pronunciation.
MOST_SYMBOLS = 60
_PAIRS = ("aɪ", "aʊ", "ɔɪ", "eɪ", "oʊ", "əʊ", "ɪə", "eə", "ʊə", "tʃ", "dʒ", "tɕ", "dʑ", "ts", "dz")
_TIES = "͜͡"
_AFTER = frozenset("ːˑʰʲˠˤʷˡⁿ")
_STRESS = {"ˈ": "ˈ", "'": "ˈ", "ˌ": "ˌ"}
_IGNORED = frozenset(" .-‿/[]|")
_ARPABET = re.compile(r"[A-Z]{1,3}[0-2]?(?:[\s-]+[A-Z]{1,3}[0-2]?)*")
_REDUCED = {
    "AH0": "ə",
    "ER0": "ɚ",
    "AX": "ə",
    "AXR": "ɚ",
    "IX": "ɨ",
    "DX": "ɾ",
    "Q": "ʔ",
    "EL": "əl",
    "EM": "m",
    "EN": "n",
}


def fold_word(word: str) -> str:
    """A word folded for look-up: case and punctuation do not matter."""
    return unicodedata.normalize("NFC", word).replace("’", "'").casefold().strip(".,;:!?…\"“”«»'()[]")


def parse_pronunciation(text: str) -> tuple[str, ...]:
    """The symbols of a pronunciation typed in IPA ("/həˈloʊ/") or ARPABET ("HH AH0 L OW1").

    Raises
    ------
    WordsError
        It names what is not a speech sound.
    """
    text = unicodedata.normalize("NFC", text.strip())
    symbols = _from_arpabet(text) if _ARPABET.fullmatch(text) else _from_ipa(text)
    if not symbols:
        raise WordsError("pronunciation.empty")
    if len(symbols) > MOST_SYMBOLS:
        raise WordsError("pronunciation.too_long", most_symbols=MOST_SYMBOLS)
    return tuple(symbols)


def _from_arpabet(text: str) -> list[str]:
    out: list[str] = []
    for name in re.split(r"[\s-]+", text):
        bare, stress = name.rstrip("012"), name[-1] if name[-1] in "012" else ""
        ipa = _REDUCED.get(name) or _REDUCED.get(bare) or IPA_OF.get(bare)
        if ipa is None:
            raise WordsError("pronunciation.not_arpabet", name=name, ipa_of=", ".join(sorted(IPA_OF)))
        out.append({"1": "ˈ", "2": "ˌ"}.get(stress, "") + ipa if is_vowel(ipa) else ipa)
    return out


def _from_ipa(text: str) -> list[str]:
    out: list[str] = []
    stress = ""
    letters = unicodedata.normalize("NFD", text)
    at = 0
    while at < len(letters):
        letter = letters[at]
        if letter in _STRESS:
            stress = _STRESS[letter]
        elif unicodedata.combining(letter) or letter in _AFTER:
            if not out:
                raise WordsError("pronunciation.mark_alone", letter=letter)
            out[-1] += letter
        elif letter not in _IGNORED:
            symbol = _symbol_at(letters, at)
            if symbol is None:
                raise WordsError("pronunciation.not_ipa", letter=letter)
            at += 2 if letters[at : at + 3] != symbol and letters[at + 1 : at + 2] in set(_TIES) else len(symbol) - 1
            if stress and is_vowel(symbol):
                symbol, stress = stress + symbol, ""
            out.append(symbol)
        at += 1
    return [unicodedata.normalize("NFC", symbol) for symbol in out]


def _symbol_at(letters: str, at: int) -> str | None:
    """The sound that begins at an index, with ties; None if there is none."""
    tied = letters[at : at + 3]
    if len(tied) == 3 and tied[1] in _TIES and tied[0] in FEATURES and tied[2] in FEATURES:
        return tied[0] + tied[2] if tied[0] + tied[2] in _PAIRS else tied
    pair = letters[at : at + 2]
    if pair in _PAIRS:
        return pair
    return letters[at] if letters[at] in FEATURES or letters[at] == "g" else None


@dataclass(frozen=True)
class Lexicon:
    """Pronunciations set by people, by language (without its country) and folded word."""

    entries: Mapping[tuple[str, str], tuple[str, ...]] = field(default_factory=dict)

    def find(self, word: str, language: str) -> tuple[str, ...] | None:
        """The symbols of a word; None if it has no entry."""
        return self.entries.get((base_language(language), fold_word(word)))

    def differs(self, line: Line) -> bool:
        """Whether a line was read with other sounds for a word than those of the lexicon."""
        for word in line.words:
            given = self.find(word.text, line.language)
            if given and _bare(given) != _bare(p.ipa for p in word.phonemes):
                return True
        return False


def _bare(symbols: Iterable[str]) -> list[str]:
    return [symbol.lstrip("ˈˌ") for symbol in symbols]


def base_language(language: str) -> str:
    """A language without its country or dialect: "en-gb" is "en"."""
    return language.split("-")[0].casefold()


def lexicon(rows: Iterable[tuple[str, str, Iterable[str]]]) -> Lexicon:
    """A lexicon from rows of language, word, symbols."""
    return Lexicon({(base_language(lang), fold_word(word)): tuple(symbols) for lang, word, symbols in rows})
