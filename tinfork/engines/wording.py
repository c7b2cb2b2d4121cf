"""From lines of text to what is spoken: words with their pronunciations, made ready for the aligner."""

from dataclasses import dataclass
from itertools import groupby

from tinfork.core.errors import WordsError
from tinfork.core.speech.arpabet import phones_from_ipa
from tinfork.core.speech.visemes import is_vowel
from tinfork.engines import limits, recogniser
from tinfork.engines.recogniser import Aligner
from tinfork.engines.spelling import WrittenWord, split_words
from tinfork.engines.synthesiser import pronounce

ENGLISH = ("en", "en-us", "en-gb")
#: Three states of 10 ms each: nothing shorter can be aligned.
_SHORTEST_PHONE_S = 0.03


@dataclass(frozen=True, slots=True)
class LineText:
    """A line to be read: who says it, what, and in which language."""

    text: str
    speaker: str = ""
    language: str = "en-us"


@dataclass(frozen=True, slots=True)
class Spoken:
    """A spoken word, its line, the written word it belongs to, and the IPA groups of a made-up pronunciation."""

    key: str
    line: int
    written: int
    stressed: tuple[bool, ...]
    groups: tuple[tuple[str, int], ...] = ()


def lines_from_text(text: str, *, speaker: str = "", language: str = "en-us") -> list[LineText]:
    """A line per line of text that has something to say."""
    if len(text) > limits.MAX_TEXT_CHARACTERS:
        raise WordsError(f"The words are longer than {limits.MAX_TEXT_CHARACTERS:,} characters. Cut them into parts.")
    rows = [row.strip() for row in text.replace("\0", "").splitlines()]
    return [LineText(row, speaker, language) for row in rows if split_words(row)]


@dataclass(frozen=True)
class Wording:
    """The written words of each line, the spoken ones of all, and an aligner that can pronounce them."""

    written: list[list[WrittenWord]]
    spoken: list[Spoken]
    aligner: Aligner

    def keys_by_line(self) -> list[list[str]]:
        """The aligner's words of each line that has any, in order."""
        return [[s.key for s in run] for _, run in groupby(self.spoken, key=lambda s: s.line)]


def spell(lines: list[LineText]) -> Wording:
    """Make lines ready; raises `WordsError` where there is nothing, too much, or a language nobody here speaks.

    English words are looked up; all others are spelled to IPA, of which the nearest English phones are aligned.
    """
    written = [split_words(line.text) for line in lines]
    if not any(written):
        raise WordsError("There are no words. Type what is said in the sound, a line for each phrase.")
    spoken: list[Spoken] = []
    extra: dict[str, tuple[str, ...]] = {}
    known: dict[tuple[str, str], _Spelling | None] = {}
    number = 0
    for line_number, (line, words) in enumerate(zip(lines, written, strict=True)):
        for word in words:
            for key in word.spoken:
                if (key, line.language) not in known:
                    known[key, line.language] = _spell_word(key, line.language, extra)
                if found := known[key, line.language]:
                    name, stressed, groups = found
                    spoken.append(Spoken(name, line_number, number, stressed, groups))
            number += 1
    if len(spoken) > limits.MAX_WORDS:
        raise WordsError(
            f"There are {len(spoken):,} words; {limits.MAX_WORDS:,} is the most at once. Cut the shot into parts."
        )
    if not spoken:
        raise WordsError("None of the words can be spoken. Type what is said in the sound.")
    return Wording(written, spoken, Aligner(extra))


#: The aligner's name for a word, which of its vowels are stressed, and a made-up pronunciation's IPA groups.
_Spelling = tuple[str, tuple[bool, ...], tuple[tuple[str, int], ...]]


def _spell_word(key: str, language: str, extra: dict[str, tuple[str, ...]]) -> _Spelling | None:
    """One spoken word; spelling-to-sound at once for what the dictionary does not know."""
    ipa = pronounce(key, language)
    stressed = tuple(s.startswith(("ˈ", "ˌ")) for s in ipa if is_vowel(s.lstrip("ˈˌ")))
    if language in ENGLISH and recogniser.dictionary_phones(key):
        return key, stressed, ()
    groups = tuple((symbol, len(phones)) for symbol in ipa if (phones := phones_from_ipa(symbol)))
    if not groups:
        return None
    # A name that no dictionary word has, so that odd spellings cannot collide with markup.
    name = f"tf_{language}_{key.encode('utf-8').hex()}"
    extra[name] = tuple(phone for symbol, _ in groups for phone in phones_from_ipa(symbol))
    return name, stressed, groups


def check_fit(spoken: list[Spoken], seconds: float) -> None:
    """Refuse words that could not be said in the time there is."""
    phones = sum(
        sum(n for _, n in s.groups) if s.groups else len(recogniser.dictionary_phones(s.key) or ()) for s in spoken
    )
    if phones * _SHORTEST_PHONE_S > seconds:
        raise WordsError(
            f"{len(spoken)} words do not fit into {seconds:.1f} s of sound. "
            "Check that the words belong to this recording."
        )
