import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import TimingError
from tinfork.core.speech.arpabet import IPA_OF, ipa_from_phones, phones_from_ipa
from tinfork.core.speech.reading import Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLASSES, VISEMES, viseme_of, viseme_parts


@pytest.mark.parametrize(
    ("ipa", "parts"),
    [
        ("p", ("bilabial",)),
        ("pʰ", ("bilabial",)),
        ("tʃ", ("postalveolar",)),
        ("ts", ("sibilant",)),
        ("ˈaɪ", ("open", "close-spread")),
        ("oʊ", ("mid-rounded", "close-rounded")),
        ("iː", ("close-spread",)),
        ("ɑːɹ", ("open", "rhotic")),
        ("aɪɚ", ("open", "rhotic")),
        ("n̩", ("alveolar",)),
        ("ˈai5", ("open", "close-spread")),
        ("ɑ˥˩", ("open",)),
        ("kh", ("velar",)),
        ("tɕh", ("postalveolar",)),
        ("", ("rest",)),
    ],
)
def test_a_phoneme_passes_through_its_viseme_classes(ipa, parts):
    assert viseme_parts(ipa) == parts


@given(st.text(max_size=8))
def test_any_text_has_a_class(text):
    assert viseme_of(text) in VISEMES


def test_no_symbol_is_in_two_classes():
    symbols = [s for group in CLASSES.values() for s in group]
    assert len(symbols) == len(set(symbols))


@pytest.mark.parametrize("phone", IPA_OF)
def test_every_model_phone_survives_the_way_to_ipa_and_back(phone):
    (ipa,) = ipa_from_phones((phone,), (True,) if phone != "B" else ())
    assert phones_from_ipa(ipa) == (phone,)


def test_stress_decides_between_wedge_and_schwa():
    assert ipa_from_phones(("AH", "B", "AH", "V"), (False, True)) == ("ə", "b", "ˈʌ", "v")
    assert ipa_from_phones(("DH", "AH"), (False,)) == ("ð", "ə")
    assert ipa_from_phones(("K", "AH", "P")) == ("k", "ʌ", "p")


def test_a_span_must_end_after_it_starts():
    with pytest.raises(TimingError, match="must end after"):
        Phoneme("p", 10, 10)


def test_the_sounds_of_a_word_lie_in_it_and_in_order():
    with pytest.raises(TimingError, match="outside it or over"):
        Word("up", 0, 100, (Phoneme("ʌ", 0, 60), Phoneme("p", 50, 100)))


def test_a_word_cannot_outlast_the_sound():
    from tinfork.core.speech.reading import Line

    word = Word("up", 0, 100, (Phoneme("ʌ", 0, 60), Phoneme("p", 60, 100)))
    with pytest.raises(TimingError, match="ends after the sound"):
        Reading(90, (Line("", "up", "en-us", (word,)),))
