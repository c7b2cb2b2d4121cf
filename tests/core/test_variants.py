"""How else a word may be said."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.features import FEATURES, plain_letters
from tinfork.core.speech.variants import MOST, other_ways


def ways(word, usual, language):
    return {" ".join(sounds) for sounds, _ in other_ways(word, tuple(usual.split()), language)}


@pytest.mark.parametrize(
    ("word", "usual", "language", "other"),
    [
        # Weak forms.
        ("and", "ˈæ n d", "en-us", "ə n"),
        ("to", "t u", "en-gb", "t ə"),
        ("her", "h ɚ", "en-us", "ɚ"),
        # "Gonna" and "next day".
        ("going", "ɡ ˈoʊ ɪ ŋ", "en-us", "ɡ ə n"),
        ("next", "n ˈɛ k s t", "en-us", "n ˈɛ k s"),
        ("sleeping", "s l ˈi p ɪ ŋ", "en-us", "s l ˈi p ɪ n"),
        ("garden", "ɡ ˈɑ ɹ d ə n", "en-us", "ɡ ˈɑ ɹ d n"),
        # The French schwa, and numerals before a consonant.
        ("fenêtre", "f ə n ˈɛ t ʁ ə", "fr-fr", "f n ˈɛ t ʁ"),
        ("fenêtre", "f ə n ˈɛ t ʁ ə", "fr-fr", "f ə n ˈɛ t ʁ"),
        ("six", "s ˈi s", "fr-fr", "s i"),
    ],
)
def test_a_word_has_other_ways(word, usual, language, other):
    assert other in ways(word, usual, language)


@pytest.mark.parametrize(
    ("word", "usual", "language"),
    [
        ("heart", "h ˈɑ ɹ t", "en-us"),
        ("bring", "b ɹ ˈɪ ŋ", "en-us"),
        ("сон", "s o n", "ru"),
        ("le", "l", "fr-fr"),
    ],
)
def test_a_word_that_is_always_said_so_has_none(word, usual, language):
    assert ways(word, usual, language) == set()


def test_one_sound_instead_of_more_is_taken_least_readily():
    costs = {" ".join(sounds): cost for sounds, cost in other_ways("and", ("æ", "n", "d"), "en-us")}
    assert costs["n"] > costs["ə n"]


@given(
    st.sampled_from(["and", "going", "six", "lasted", "nothing", "kettle"]),
    st.lists(st.sampled_from(["ə", "t", "n", "ˈi", "s", "l", "ŋ"]), min_size=1, max_size=7),
    st.sampled_from(["en-us", "fr-fr", "es"]),
)
def test_other_ways_are_few_different_and_sound(word, usual, language):
    found = other_ways(word, tuple(usual), language)
    assert len(found) <= MOST
    assert len({sounds for sounds, _ in found}) == len(found)
    for sounds, cost in found:
        assert cost > 0
        assert sounds != tuple(s.lstrip("ˈˌ") for s in usual)
        assert all(letter in FEATURES for sound in sounds for letter in plain_letters(sound))
