import pytest

from tinfork.core.speech.values import reduced, value_of
from tinfork.core.speech.visemes import viseme_parts


@pytest.mark.parametrize(
    ("symbol", "language", "value"),
    [
        ("e", "cs", "ɛ"),
        ("ˈeː", "sk", "ˈɛː"),
        ("ˌy", "ru", "ˌɨ"),
        ("y", "ro", "ɨ"),
        ("ɵ", "et", "ɤ"),
        ("ɐ", "en-gb", "ə"),
        ("ɐ", "pt", "ɐ"),
        ("y", "fr", "y"),
        ("ˈe", "es", "ˈe"),
        ("e", "", "e"),
    ],
)
def test_a_letter_stands_for_the_sound_of_its_language(symbol, language, value):
    assert value_of(symbol, language) == value


def test_a_vowel_without_stress_is_weak_where_the_language_has_weak_vowels():
    assert [reduced(s, "ru") for s in ("a", "ˈa", "o")] == ["ə", "ˈa", "o"]
    assert reduced("a", "cs") == "a"


def test_what_is_not_rounded_does_not_round_the_mouth():
    assert viseme_parts(value_of("y", "ru")) == viseme_parts("i")
    assert viseme_parts(value_of("y", "fr")) != viseme_parts("i")
