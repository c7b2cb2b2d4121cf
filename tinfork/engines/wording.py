"""From lines of text to spoken words with pronunciations, for the recogniser and the ear."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cache
from itertools import groupby

from tinfork.core.ear.path import Variants
from tinfork.core.ear.phones import heard_as
from tinfork.core.errors import WordsError
from tinfork.core.speech.arpabet import VOWELS, ipa_from_phones, phones_from_ipa
from tinfork.core.speech.lexicon import Lexicon, base_language, parse_pronunciation
from tinfork.core.speech.variants import other_ways
from tinfork.core.speech.visemes import is_vowel
from tinfork.engines import limits, recogniser
from tinfork.engines.spelling import WrittenWord, split_words
from tinfork.engines.synthesiser import pronounce, pronounce_words
from tinfork.engines.writing import reader_of

#: The languages whose words are in the recogniser's dictionary, which is American.
_OF_DICTIONARY = ("en", "en-us")
#: Other accents that people may speak when a line names one.
_ACCENTS = {
    "en": ("en-us", "en-gb"),
    "es": ("es", "es-419"),
    "fr": ("fr-fr", "fr-be", "fr-ch"),
    "pt": ("pt", "pt-br"),
}
#: Languages in which a word alone sounds different from the word in connected speech.
_SAID_OTHERWISE_ALONE = frozenset({"fr", "pt", "ca", "da"})
#: The costs of another dictionary entry, of another accent, and of one that is not the speaker's (log probability).
_OTHER_ENTRY, _OTHER_ACCENT, _FOREIGN = 0.3, 1.5, 6.0
#: A pronunciation: its sounds, cost and accent.
_Way = tuple[tuple[str, ...], float, str]
#: The shortest sound that can be aligned: three states of 10 ms.
_SHORTEST_PHONE_S = 0.03


@dataclass(frozen=True, slots=True)
class LineText:
    """A line to be read: its speaker, words and language."""

    text: str
    speaker: str = ""
    language: str = "en-us"


@dataclass(frozen=True, slots=True)
class Pronounced:
    """A pronunciation of a word: its IPA symbols, and the recogniser's phones for each.

    `accent`: the synthesiser's language that pronounces it this way, if others of the same language do not.
    """

    ipa: tuple[str, ...]
    phones: tuple[tuple[str, ...], ...]
    accent: str = ""

    @property
    def phone_names(self) -> tuple[str, ...]:
        """All phones in order."""
        return tuple(name for group in self.phones for name in group)


@dataclass(frozen=True, slots=True)
class SpokenWord:
    """A spoken word: its pronunciations, the usual one first, with the cost of each.

    Its line, and the written word it belongs to.
    """

    key: str
    ways: tuple[Pronounced, ...]
    costs: tuple[float, ...]
    line: int
    written: int

    @property
    def word(self) -> Pronounced:
        """Its usual pronunciation."""
        return self.ways[0]

    @property
    def accents(self) -> frozenset[str]:
        """The accents that say it each in a way of their own."""
        return frozenset(way.accent for way in self.ways if way.accent)

    def variants(self, accent: str = "") -> Variants:
        """Its pronunciations for a search; if the speaker's accent is known, those of other accents get costly."""
        other = [accent and way.accent and way.accent != accent for way in self.ways]
        costs = [_FOREIGN if is_other else cost for is_other, cost in zip(other, self.costs, strict=True)]
        own = [0.0 if accent and way.accent == accent else cost for way, cost in zip(self.ways, costs, strict=True)]
        return Variants(tuple(way.ipa for way in self.ways), tuple(own))


def lines_from_text(text: str, *, speaker: str = "", language: str = "en-us") -> list[LineText]:
    """A line for each non-empty line of text.

    Raises
    ------
    WordsError
        For a text that is too long.
    """
    if len(text) > limits.MAX_TEXT_CHARACTERS:
        raise WordsError("words.too_long", max_text_characters=limits.MAX_TEXT_CHARACTERS)
    rows = [row.strip() for row in text.replace("\0", "").splitlines()]
    return [LineText(row, speaker, language) for row in rows if split_words(row, language)]


@dataclass(frozen=True)
class Wording:
    """The written words of each line, and the spoken words of all lines."""

    written: list[list[WrittenWord]]
    spoken: list[SpokenWord]

    def by_line(self) -> list[list[SpokenWord]]:
        """The spoken words of each line that has any, in order."""
        return [list(run) for _, run in groupby(self.spoken, key=lambda s: s.line)]


def spell(lines: Sequence[LineText], lexicon: Lexicon | None = None) -> Wording:
    """Find the spoken words and pronunciations of lines.

    The lexicon takes precedence over the dictionary; words in neither are converted by rule.

    Raises
    ------
    WordsError
        Where there is nothing, too much, or a language nobody here speaks.
    """
    written = [split_words(line.text, line.language) for line in lines]
    if not any(word.spoken for words in written for word in words):
        raise WordsError("words.none")
    speller = Speller(lexicon or Lexicon())
    spoken: list[SpokenWord] = []
    number = 0
    for line_number, (line, words) in enumerate(zip(lines, written, strict=True)):
        for said_for_word in speller.line(words, line.language):
            spoken += [SpokenWord(key, ways, costs, line_number, number) for key, ways, costs in said_for_word]
            number += 1
            if len(spoken) > limits.MAX_WORDS:
                raise WordsError("words.too_many", max_words=limits.MAX_WORDS)
    if not spoken:
        raise WordsError("words.none_sayable")
    return Wording(written, spoken)


def sounds_of(text: str, language: str, lexicon: Lexicon | None = None) -> tuple[str, ...]:
    """The sounds of some written words in IPA.

    Raises
    ------
    WordsError
        Where nothing of them can be said.
    """
    speller = Speller(lexicon or Lexicon())
    said = [ways for word in speller.line(split_words(text, language), language) for _, ways, _ in word]
    if not said:
        raise WordsError("words.not_sayable", text=text)
    return tuple(symbol for ways in said for symbol in ways[0].ipa)


#: A spoken word, its pronunciations, and the cost of each.
Said = tuple[str, tuple[Pronounced, ...], tuple[float, ...]]


@dataclass
class Speller:
    """Finds the pronunciations of words."""

    lexicon: Lexicon
    _known: dict[tuple[str, str], tuple[str, ...]] = field(default_factory=dict)

    def line(self, words: Sequence[WrittenWord], language: str) -> list[list[Said]]:
        """The spoken words of each written word, with their pronunciations; words without sound are left out.

        American words are taken from the dictionary, all others are pronounced in connected speech.
        """
        keys = [key for word in words for key in word.spoken if not key.startswith("/")]
        accents = _accents(language)
        among = {accent: iter(self._among_others(keys, accent)) for accent in accents}
        out: list[list[Said]] = []
        for word in words:
            given = self.lexicon.find(word.text, language)
            found: list[Said] = []
            for key in word.spoken:
                heard = {accent: () if key.startswith("/") else next(among[accent]) for accent in accents}
                own = parse_pronunciation(key) if key.startswith("/") else self.lexicon.find(key, language)
                if not given and (said := _said(key, [(own, 0.0, "")] if own else self._ways(key, language, heard))):
                    found.append(said)
            if given and word.spoken and (said := _said(word.text, [(given, 0.0, "")])):
                found = [said]
            out.append(found)
        return out

    def _among_others(self, keys: Sequence[str], accent: str) -> list[tuple[str, ...]]:
        if accent in _OF_DICTIONARY:
            return [next(iter(dictionary_sounds(key)), ()) or self._alone(key, accent) for key in keys]
        return pronounce_words(keys, reader_of(accent))

    def _alone(self, key: str, language: str) -> tuple[str, ...]:
        if (key, language) not in self._known:
            self._known[key, language] = pronounce(key, language)
        return self._known[key, language]

    def _ways(self, key: str, language: str, heard: dict[str, tuple[str, ...]]) -> list[_Way]:
        """The pronunciations of a word: the usual one, others of the dictionary, weak forms, other accents."""
        usual, *others = heard
        ways: list[_Way] = [(heard[usual], 0.0, usual if others else "")]
        if usual in _OF_DICTIONARY:
            ways += [(sounds, _OTHER_ENTRY, usual if others else "") for sounds in dictionary_sounds(key)[1:]]
        elif base_language(language) in _SAID_OTHERWISE_ALONE:
            ways.append((self._alone(key, reader_of(language)), _OTHER_ENTRY, ""))
        ways += [(sounds, cost, "") for sounds, cost in other_ways(key, heard[usual], language)]
        return ways + [(heard[accent], _OTHER_ACCENT, accent) for accent in others]


@cache
def dictionary_sounds(key: str) -> tuple[tuple[str, ...], ...]:
    """The pronunciations of an English word in the recogniser's dictionary, in IPA with stress; may be empty."""
    found = recogniser.dictionary_phones(key)
    if not found:
        return ()
    stressed = tuple(s.startswith(("ˈ", "ˌ")) for s in pronounce(key, "en-us") if is_vowel(s.lstrip("ˈˌ")))
    out = []
    for phones in found:
        vowels = sum(name in VOWELS for name in phones)
        out.append(ipa_from_phones(phones, stressed if len(stressed) == vowels else ()))
    return tuple(out)


def _accents(language: str) -> tuple[str, ...]:
    """The possible accents of a line in a language, its own first."""
    own = "en-us" if language in _OF_DICTIONARY else language
    return (own, *(accent for accent in _ACCENTS.get(base_language(language), ()) if accent != own))


def _said(key: str, ways: Sequence[_Way]) -> Said | None:
    """The distinct pronunciations, the first of equal ones; None if all are without sound."""
    out: list[Pronounced] = []
    costs: list[float] = []
    heard: dict[tuple[int, ...], int] = {}
    for ipa, cost, accent in ways:
        pairs = [(symbol, phones) for symbol in ipa if (phones := phones_from_ipa(symbol))]
        sound = tuple(part for symbol, _ in pairs for part in heard_as(symbol))
        if not pairs or not sound:
            continue
        if sound in heard:
            # A pronunciation shared by two accents tells nothing about the accent.
            at = heard[sound]
            if out[at].accent != accent:
                out[at] = replace(out[at], accent="")
            continue
        heard[sound] = len(out)
        out.append(Pronounced(tuple(s for s, _ in pairs), tuple(phones for _, phones in pairs), accent))
        costs.append(cost)
    return (key, tuple(out), tuple(costs)) if out else None


def is_unknown(word: str, language: str) -> bool:
    """Whether an English word is in no dictionary, so that its sounds come from spelling rules."""
    return base_language(language) == "en" and not word.startswith("/") and not recogniser.dictionary_phones(word)


def check_fit(spoken: list[SpokenWord], seconds: float) -> None:
    """Refuse words that cannot be said in the given time.

    Raises
    ------
    WordsError
        For such words.
    """
    phones = sum(len(group) for s in spoken for group in s.word.phones)
    if phones * _SHORTEST_PHONE_S > seconds:
        raise WordsError("words.do_not_fit", count=len(spoken), seconds=seconds)
