"""Every sound of every language has features, a mouth, a place in the ear and a phone of the recogniser."""

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.ear.phones import BREATH, HEARD, SILENCE, STANDS_FOR, heard_as
from tinfork.core.speech.arpabet import IPA_OF, phones_from_ipa
from tinfork.core.speech.features import FEATURES, apart, nearest, plain_letters
from tinfork.core.speech.visemes import SOUNDS, VISEMES, sound_parts, viseme_parts

INVENTORIES = json.loads((Path(__file__).parents[1] / "golden" / "inventories.json").read_text())
#: What the synthesiser writes for letters that it does not know.
NO_SOUNDS = {"?", "??"}


@pytest.mark.parametrize("language", INVENTORIES)
def test_every_sound_of_every_language_has_a_mouth_and_can_be_heard(language):
    for symbol in set(INVENTORIES[language]) - NO_SOUNDS:
        assert heard_as(symbol), symbol
        assert set(phones_from_ipa(symbol)) <= set(IPA_OF), symbol
        assert phones_from_ipa(symbol), symbol
        assert all(part in VISEMES and part != "rest" for part in viseme_parts(symbol)), symbol
        assert all(part in SOUNDS for part in sound_parts(symbol)), symbol


def test_there_are_over_a_hundred_languages():
    assert len(INVENTORIES) > 100


@pytest.mark.parametrize(
    ("sound", "among", "found"),
    [
        ("ʁ", ("h", "t", "m"), "h"),
        ("ɸ", ("f", "s", "p"), "f"),
        ("ɲ", ("n", "m", "t"), "n"),
        ("y", ("i", "u", "a"), "i"),
        ("ɒ", ("ɔ", "i", "s"), "ɔ"),
        ("q", ("k", "p", "t"), "k"),
        ("ɬ", ("ʃ", "m", "k"), "ʃ"),
        ("ʂ", ("ʃ", "f", "k"), "ʃ"),
    ],
)
def test_the_nearest_sound_is_made_alike(sound, among, found):
    assert nearest(sound, among) == found


@given(st.sampled_from(sorted(FEATURES)), st.sampled_from(sorted(FEATURES)))
def test_distance_is_the_same_both_ways_and_nothing_only_for_the_same(a, b):
    assert apart(a, b) == pytest.approx(apart(b, a))
    assert apart(a, a) == 0
    assert apart(a, b) >= 0


@pytest.mark.parametrize(
    ("symbol", "heard"),
    [
        ("ˈaɪ", ("aɪ",)),
        ("əʊ", ("oʊ",)),
        ("uə", ("u", "ə")),
        ("tɕ", ("tʃ",)),
        ("t͡s", ("ts",)),
        ("r̝", ("ʒ",)),
        ("ɐ̃", ("ɑ̃",)),
        ("ˈœ̃", ("ɛ̃",)),
        ("ũ", ("u",)),
        ("onɡ5", ("o", "n", "ɡ")),
        ("tS", ("tʃ",)),
        ("?", ()),
    ],
)
def test_what_a_symbol_is_heard_as(symbol, heard):
    assert tuple(HEARD[at] for at in heard_as(symbol)) == heard


def test_silence_stands_for_nothing_but_itself_and_breath_for_silence():
    assert STANDS_FOR[:, 0].sum() == 1
    assert [HEARD[at] for at in np.flatnonzero(STANDS_FOR[0])] == [SILENCE, BREATH]
    assert (STANDS_FOR.diagonal() == 1).all()
    sounds = STANDS_FOR[1:-1, 1:-1]
    assert (sounds == sounds.T).all()


def test_a_nasal_vowel_and_its_oral_one_may_be_taken_for_each_other():
    nasal, oral, other = (HEARD.index(sound) for sound in ("ɔ̃", "ɔ", "i"))
    assert 0 < STANDS_FOR[nasal, oral] < 1
    assert STANDS_FOR[nasal, other] < STANDS_FOR[nasal, oral]


@given(st.text(max_size=12))
def test_any_text_has_letters_of_known_features_or_none(text):
    assert all(letter in FEATURES for letter in plain_letters(text))


def test_sounds_that_are_heard_as_one_phone_are_one_and_others_stay():
    assert phones_from_ipa("st") == ("S", "T")
    assert phones_from_ipa("sts") == ("S", "T", "S")
    assert phones_from_ipa("sst") == ("S", "T")
