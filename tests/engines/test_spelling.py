import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.engines.spelling import split_words
from tinfork.engines.synthesiser import pronounce


@pytest.mark.parametrize(
    ("text", "spoken"),
    [
        ("1923", "nineteen twenty three"),
        ("2026", "twenty twenty six"),
        ("14", "fourteen"),
        ("1,250", "one thousand two hundred and fifty"),
        ("3.5", "three point five"),
        ("3rd", "third"),
        ("$5", "five dollars"),
        ("£1.50", "one pound fifty pence"),
        ("50%", "fifty percent"),
        ("half-past", "half past"),
        ("don't", "don't"),
        ("don’t", "don't"),
        ("R2", "r two"),
        ("&", "and"),
        ("tram,", "tram"),
        ("“Odalys!”", "odalys"),
        ("1920s", "nineteen twenties"),
    ],
)
def test_a_written_word_and_what_is_spoken_for_it(text, spoken):
    (word,) = split_words(text)
    assert " ".join(word.spoken) == spoken


def test_stage_directions_and_bare_marks_are_not_spoken():
    assert [w.text for w in split_words("[sigh] Well — (beat) no... – !")] == ["Well", "no"]


@given(st.text(max_size=60))
def test_any_text_splits_into_words_with_something_to_say(text):
    for word in split_words(text):
        assert word.text
        assert all(part and part == part.lower() for part in word.spoken)


def test_the_synthesiser_pronounces_what_no_dictionary_knows():
    assert pronounce("Zorbelquint")
    assert pronounce("tram") == ("t", "ɹ", "ˈæ", "m")
