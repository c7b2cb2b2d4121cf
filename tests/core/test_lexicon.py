"""Pronunciations as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import WordsError
from tinfork.core.speech.lexicon import Lexicon, fold_word, lexicon, parse_pronunciation
from tinfork.core.speech.reading import Line, Phoneme, Word


@pytest.mark.parametrize(
    ("typed", "symbols"),
    [
        ("həˈloʊ", ("h", "ə", "l", "ˈoʊ")),
        ("/həˈloʊ/", ("h", "ə", "l", "ˈoʊ")),
        ("HH AH0 L OW1", ("h", "ə", "l", "ˈoʊ")),
        ("B R IH1 N D AX L", ("b", "ɹ", "ˈɪ", "n", "d", "ə", "l")),
        ("ˈt͡ʃɛɹi", ("tʃ", "ˈɛ", "ɹ", "i")),
        ("bʁø̃ːdl", ("b", "ʁ", "ø̃ː", "d", "l")),
        ("o.da.'lis", ("o", "d", "a", "l", "ˈi", "s")),
        ("ɡaɪt", ("ɡ", "aɪ", "t")),
    ],
)
def test_ipa_and_arpabet_give_symbols(typed, symbols):
    assert parse_pronunciation(typed) == symbols


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("", "Type the pronunciation"),
        ("  ", "Type the pronunciation"),
        ("AA1 XX", "“XX” is not an ARPABET sound"),
        ("Zürich", "“Z” is not an IPA letter"),
        ("a🍞", "Pick sounds from the list, or correct it"),
        ("ːa", "must follow a sound"),
        ("a" * 61, "up to 60"),
    ],
)
def test_what_is_no_pronunciation_is_said_in_words(typed, said):
    with pytest.raises(WordsError, match=said):
        parse_pronunciation(typed)


@given(st.text(max_size=30))
def test_any_text_is_a_pronunciation_or_a_clear_error(text):
    try:
        symbols = parse_pronunciation(text)
    except WordsError:
        return
    assert symbols
    assert all(symbols)


def test_words_are_found_however_they_are_written_and_in_any_dialect():
    book = lexicon([("en-us", "Odalys", ("o", "d")), ("es", "pan", ("p", "a", "n"))])
    assert book.find("ODALYS,", "en-gb") == ("o", "d")
    assert book.find("pan", "es-419") == ("p", "a", "n")
    assert book.find("pan", "en-us") is None
    assert fold_word("“Don’t!”") == "don't"


def test_a_line_that_was_read_with_other_sounds_differs():
    def said(*ipa):
        sounds = tuple(Phoneme(s, at * 100, at * 100 + 100) for at, s in enumerate(ipa))
        return Line("", "Pim", "en-us", (Word("Pim", 0, 100 * len(ipa), sounds),))

    book = lexicon([("en", "pim", ("p", "ˈi", "m"))])
    assert not book.differs(said("p", "i", "m"))
    assert book.differs(said("p", "ɪ", "m"))
    assert not Lexicon().differs(said("p", "ɪ", "m"))
