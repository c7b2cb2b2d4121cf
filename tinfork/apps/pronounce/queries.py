"""Queries of a production's words: how each is pronounced, and how often it occurs."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.casting import people_of, script_of
from tinfork.core.errors import TinForkError
from tinfork.core.speech.lexicon import Lexicon, base_language, fold_word, lexicon
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import Speller, is_unknown

#: The most rows that are shown; others can be found by search.
MOST_ROWS = 300


@dataclass(frozen=True, slots=True)
class WordRow:
    """A word of the production: its language, its spelling, how often it occurs and in how many shots.

    `usual` is its default pronunciation, `own` the one set by hand. `is_unknown`: the default comes from spelling
    rules.
    """

    language: str
    word: str
    written: str
    uses: int
    shots: int
    usual: tuple[str, ...]
    own: tuple[str, ...]
    is_unknown: bool

    @property
    def key(self) -> str:
        """The id of its row on the page."""
        return f"{base_language(self.language)}-{self.word.encode().hex()}"


def lexicon_of(production: Production) -> Lexicon:
    """The production's own pronunciations."""
    return lexicon((p.language, p.word, p.symbols) for p in production.pronunciations.all())


def said_in(shot: Shot) -> Iterator[tuple[str, str, tuple[str, ...]]]:
    """The words of a shot's script: language, written form, and spoken words."""
    try:
        lines = script_of(shot.words, people_of(shot.production.studio))
    except TinForkError:
        # A script that is too long is reported when it is read.
        return
    for line in lines:
        language = line.language or shot.language
        for word in split_words(line.text, language):
            if word.spoken:
                yield language, word.text, word.spoken


def words_of(production: Production, wanted: str = "") -> list[WordRow]:
    """Words in no dictionary and words with their own pronunciation, the most frequent first.

    With `wanted`, instead all words that start with it.
    """
    uses: Counter[tuple[str, str]] = Counter()
    shots: dict[tuple[str, str], set[int]] = {}
    first: dict[tuple[str, str], tuple[str, str, tuple[str, ...]]] = {}
    for shot in production.shots.select_related("production__studio"):
        for language, written, spoken in said_in(shot):
            key = (base_language(language), fold_word(written))
            uses[key] += 1
            shots.setdefault(key, set()).add(shot.pk)
            first.setdefault(key, (language, written, spoken))
    given = {(p.language, p.word): p.symbols for p in production.pronunciations.all()}
    for key in given:
        first.setdefault(key, (key[0], key[1], (key[1],)))
    speller = Speller(Lexicon())
    begins = fold_word(wanted)
    rows: list[WordRow] = []
    for key in sorted(first, key=lambda k: (-uses[k], k[1])):
        language, written, spoken = first[key]
        unknown = any(is_unknown(each, language) for each in spoken)
        if len(rows) >= MOST_ROWS or not (key[1].startswith(begins) if begins else unknown or key in given):
            continue
        usual = usual_sounds(speller, language, written)
        rows.append(
            WordRow(language, key[1], written, uses[key], len(shots.get(key, ())), usual, given.get(key, ()), unknown)
        )
    return rows


def usual_sounds(speller: Speller, language: str, written: str) -> tuple[str, ...]:
    """The default sounds of a written word; empty for an unknown language."""
    try:
        words = speller.line(split_words(written, language)[:1], language)
        return tuple(s for word in words for _, ways, _ in word for s in ways[0].ipa)
    except TinForkError:
        return ()


def shots_saying(production: Production, language: str, word: str) -> list[Shot]:
    """The shots whose scripts have a word."""
    key = (base_language(language), fold_word(word))
    return [
        shot
        for shot in production.shots.select_related("production__studio")
        if any((base_language(lang), fold_word(written)) == key for lang, written, _ in said_in(shot))
    ]
