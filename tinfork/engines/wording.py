"""From lines of text to what is spoken: words with their pronunciations, made ready for the recogniser and the ear."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import groupby

from tinfork.core.errors import WordsError
from tinfork.core.speech.arpabet import VOWELS, ipa_from_phones, phones_from_ipa
from tinfork.core.speech.lexicon import Lexicon, base_language, parse_pronunciation
from tinfork.core.speech.visemes import is_vowel
from tinfork.engines import limits, recogniser
from tinfork.engines.recogniser import Aligner
from tinfork.engines.spelling import WrittenWord, split_words
from tinfork.engines.synthesiser import pronounce, pronounce_words
from tinfork.engines.writing import reader_of

#: The languages that sound as the recogniser's dictionary has them; it is American.
_OF_DICTIONARY = ("en", "en-us")
#: Three states of 10 ms each: nothing shorter can be aligned.
_SHORTEST_PHONE_S = 0.03


@dataclass(frozen=True, slots=True)
class LineText:
    """A line to be read: who says it, what, and in which language."""

    text: str
    speaker: str = ""
    language: str = "en-us"


@dataclass(frozen=True, slots=True)
class Pronunciation:
    """How one spoken word sounds: the aligner's name for it, its IPA symbols, and the phones of each.

    `is_usual`: it is the dictionary's, of which the aligner may find another one.
    """

    key: str
    ipa: tuple[str, ...]
    phones: tuple[tuple[str, ...], ...]
    stressed: tuple[bool, ...] = ()
    is_usual: bool = False


@dataclass(frozen=True, slots=True)
class Spoken:
    """A spoken word, its line, and the written word it belongs to."""

    word: Pronunciation
    line: int
    written: int

    @property
    def key(self) -> str:
        """The aligner's name for it."""
        return self.word.key


def lines_from_text(text: str, *, speaker: str = "", language: str = "en-us") -> list[LineText]:
    """A line per line of text that has something to say."""
    if len(text) > limits.MAX_TEXT_CHARACTERS:
        raise WordsError(f"The words are longer than {limits.MAX_TEXT_CHARACTERS:,} characters. Cut them into parts.")
    rows = [row.strip() for row in text.replace("\0", "").splitlines()]
    return [LineText(row, speaker, language) for row in rows if split_words(row, language)]


@dataclass(frozen=True)
class Wording:
    """The written words of each line, the spoken ones of all, and an aligner that can pronounce them."""

    written: list[list[WrittenWord]]
    spoken: list[Spoken]
    aligner: Aligner

    def by_line(self) -> list[list[Spoken]]:
        """The spoken words of each line that has any, in order."""
        return [list(run) for _, run in groupby(self.spoken, key=lambda s: s.line)]


def spell(lines: Sequence[LineText], lexicon: Lexicon | None = None) -> Wording:
    """Make lines ready; raises `WordsError` where there is nothing, too much, or a language nobody here speaks.

    A pronunciation of the lexicon goes before the dictionary's; what no dictionary has is spelled to sounds at once.
    """
    written = [split_words(line.text, line.language) for line in lines]
    if not any(word.spoken for words in written for word in words):
        raise WordsError("There are no words. Type what is said in the sound, a line for each phrase.")
    speller = Speller(lexicon or Lexicon())
    spoken: list[Spoken] = []
    number = 0
    for line_number, (line, words) in enumerate(zip(lines, written, strict=True)):
        for said_for_word in speller.line(words, line.language):
            spoken += [Spoken(said, line_number, number) for said in said_for_word]
            number += 1
            if len(spoken) > limits.MAX_WORDS:
                raise WordsError(f"There are more than {limits.MAX_WORDS:,} words. Cut the shot into parts.")
    if not spoken:
        raise WordsError("None of the words can be spoken. Type what is said in the sound.")
    return Wording(written, spoken, Aligner(speller.extra))


def sounds_of(text: str, language: str, lexicon: Lexicon | None = None) -> tuple[str, ...]:
    """The sounds of some written words in IPA; raises `WordsError` where nothing of them can be said."""
    speller = Speller(lexicon or Lexicon())
    said = [one for word in speller.line(split_words(text, language), language) for one in word]
    if not said:
        raise WordsError(f"“{text}” cannot be spoken. Write it as it is said, or its sounds between slashes.")
    return tuple(symbol for one in said for symbol in one.ipa)


@dataclass
class Speller:
    """Finds the pronunciation of words, each only once."""

    lexicon: Lexicon
    #: Phones of the words that the aligner's dictionary does not have, by the aligner's name for them.
    extra: dict[str, tuple[str, ...]] = field(default_factory=dict)
    _known: dict[tuple[str, str], Pronunciation | None] = field(default_factory=dict)

    def line(self, words: Sequence[WrittenWord], language: str) -> list[list[Pronunciation]]:
        """The pronunciations of each written word's spoken words; those without sound are left out.

        American words sound as the dictionary has them, all others as they do among each other.
        """
        has_dictionary = language in _OF_DICTIONARY
        keys = [key for word in words for key in word.spoken if not key.startswith("/")]
        heard = iter(() if has_dictionary else pronounce_words(keys, reader_of(language)))
        out: list[list[Pronunciation]] = []
        for word in words:
            said = [None if has_dictionary or key.startswith("/") else next(heard) for key in word.spoken]
            if given := self.lexicon.find(word.text, language):
                found = [self._made_up(word.text, language, given)] if word.spoken else []
            else:
                found = [self._spoken(key, language, ipa) for key, ipa in zip(word.spoken, said, strict=True)]
            out.append([each for each in found if each])
        return out

    def _spoken(self, key: str, language: str, heard: tuple[str, ...] | None) -> Pronunciation | None:
        if heard is not None and not self.lexicon.find(key, language):
            return self._made_up(key, language, heard)
        if (key, language) not in self._known:
            self._known[key, language] = self._find(key, language)
        return self._known[key, language]

    def _find(self, key: str, language: str) -> Pronunciation | None:
        if key.startswith("/"):
            return self._made_up(key, language, parse_pronunciation(key))
        if given := self.lexicon.find(key, language):
            return self._made_up(key, language, given)
        ipa = pronounce(key, language)
        phones = recogniser.dictionary_phones(key) if language in _OF_DICTIONARY else None
        if phones:
            stressed = tuple(s.startswith(("ˈ", "ˌ")) for s in ipa if is_vowel(s.lstrip("ˈˌ")))
            vowels = sum(name in VOWELS for name in phones)
            symbols = ipa_from_phones(phones, stressed if len(stressed) == vowels else ())
            return Pronunciation(key, symbols, tuple((name,) for name in phones), stressed, is_usual=True)
        return self._made_up(key, language, ipa)

    def _made_up(self, key: str, language: str, ipa: Sequence[str]) -> Pronunciation | None:
        pairs = [(symbol, phones) for symbol in ipa if (phones := phones_from_ipa(symbol))]
        if not pairs:
            return None
        symbols = tuple(symbol for symbol, _ in pairs)
        # A name that no dictionary word has, so that odd spellings cannot collide with markup.
        name = f"tf_{language}_{(key + '/' + ' '.join(symbols)).encode('utf-8').hex()}"
        self.extra[name] = tuple(phone for _, phones in pairs for phone in phones)
        return Pronunciation(name, symbols, tuple(phones for _, phones in pairs))


def is_unknown(word: str, language: str) -> bool:
    """Whether a spoken word's sounds are spelled by rule, in English: no dictionary has it."""
    return base_language(language) == "en" and not word.startswith("/") and recogniser.dictionary_phones(word) is None


def check_fit(spoken: list[Spoken], seconds: float) -> None:
    """Refuse words that could not be said in the time there is."""
    phones = sum(len(group) for s in spoken for group in s.word.phones)
    if phones * _SHORTEST_PHONE_S > seconds:
        raise WordsError(
            f"{len(spoken)} words do not fit into {seconds:.1f} s of sound. "
            "Check that the words belong to this recording."
        )
