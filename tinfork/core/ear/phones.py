"""The sounds that the ear tells apart, and the ones that a phoneme of any language is made of."""

import unicodedata
from functools import cache

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.features import apart, nearest, plain_letters

#: Silence.
SILENCE = ""
_SINGLE = (
    "p", "b", "t", "d", "k", "ɡ", "ʔ", "m", "n", "ɲ", "ŋ", "f", "v", "θ", "ð", "s", "z", "ʃ", "ʒ", "x", "h", "ʁ",
    "tʃ", "dʒ", "ts", "l", "ɹ", "r", "j", "w",
    "i", "ɪ", "e", "ɛ", "æ", "a", "ɑ", "ɔ", "o", "ʊ", "u", "y", "ø", "ə", "ʌ", "ɜ", "ɨ",
)  # fmt: skip
#: Diphthongs that are heard as one sound; all others are two sounds in a row.
_DIPHTHONGS = {"aɪ": ("a", "ɪ"), "aʊ": ("a", "ʊ"), "ɔɪ": ("ɔ", "ɪ"), "eɪ": ("e", "ɪ"), "oʊ": ("o", "ʊ")}

#: Vowels spoken through the nose too, and the oral ones they are made like.
_NASALS = {"ɑ̃": "ɑ", "ɛ̃": "ɛ", "ɔ̃": "ɔ"}
#: Air drawn in or let out between words: no speech either.
BREATH = "(breath)"

#: What the network tells apart, in the order of its outputs.
HEARD: tuple[str, ...] = (SILENCE, *_SINGLE, *_DIPHTHONGS, *_NASALS, BREATH)
_INDEX = {sound: at for at, sound in enumerate(HEARD)}

#: Spellings of the same.
_ALSO = {
    "ɝ": "ɜ", "ɚ": "ɜ", "əʊ": "oʊ", "ɔʊ": "oʊ", "ɛʊ": "oʊ", "ɑɪ": "aɪ", "ɑʊ": "aʊ", "æʊ": "aʊ", "ai": "aɪ", "au": "aʊ",
    "ei": "eɪ", "ɛɪ": "eɪ", "ɛi": "eɪ", "ou": "oʊ", "ɔi": "ɔɪ", "oi": "ɔɪ", "oɪ": "ɔɪ", "ɑi": "aɪ", "ɑu": "aʊ",
    "ʔ": "ʔ", "ɦ": "h", "ħ": "h", "ʕ": "ʁ", "ç": "x", "χ": "x", "ɕ": "ʃ", "ʑ": "ʒ", "ʂ": "ʃ", "ʐ": "ʒ", "β": "v",
    "ɸ": "f", "ʋ": "v", "œ": "ø", "ɐ": "a", "ɒ": "ɔ", "ɯ": "ɨ", "ɾ": "r", "ɤ": "ʌ", "ɣ": "ʁ", "ɰ": "ʁ", "c": "k",
    "ɟ": "ɡ", "ʎ": "l",
    "tɕ": "tʃ", "dʑ": "dʒ", "ʈʂ": "tʃ", "ɖʐ": "dʒ", "tʂ": "tʃ", "dʐ": "dʒ", "cç": "tʃ", "ɟʝ": "dʒ",
}  # fmt: skip


#: The output for each nasal vowel; nasal high vowels have the outputs of the oral ones.
_NASAL_OF = {
    "a": "ɑ̃", "ɑ": "ɑ̃", "ɐ": "ɑ̃", "ʌ": "ɑ̃", "æ": "ɛ̃", "ɛ": "ɛ̃", "e": "ɛ̃", "œ": "ɛ̃", "ø": "ɛ̃", "ə": "ɛ̃", "ɔ": "ɔ̃",
    "o": "ɔ̃", "ɒ": "ɔ̃",
}  # fmt: skip
_TILDE = "\N{COMBINING TILDE}"


@cache
def heard_as(ipa: str) -> tuple[int, ...]:
    """The outputs of the network that a phoneme passes through, in order; empty for a symbol without sound."""
    letters = plain_letters(ipa)
    if _TILDE in unicodedata.normalize("NFD", ipa) and letters[:1] in _NASAL_OF:
        return (_INDEX[_NASAL_OF[letters[0]]],)
    out: list[int] = []
    while letters:
        piece = next((letters[:n] for n in (2, 1) if letters[:n] in _INDEX or letters[:n] in _ALSO), letters[0])
        letters = letters[len(piece) :]
        piece = _ALSO.get(piece, piece)
        at = _INDEX[piece] if piece in _INDEX else _INDEX[nearest(piece, _SINGLE)]
        if not out or out[-1] != at:
            out.append(at)
    return tuple(out)


#: Sounds further apart than this are never taken for each other; what being apart costs (log probability).
_REACH, _COST = 2.2, 1.6


#: How far a nasal vowel is from its oral one.
_NASAL_APART = 0.4


def _alike(a: str, b: str) -> float:
    if a == b:
        return 0.0
    if SILENCE in (a, b) or BREATH in (a, b):
        # Breath may stand for silence.
        return 0.0 if (a, b) == (SILENCE, BREATH) else np.inf
    if a in _NASALS or b in _NASALS:
        return _NASAL_APART * ((a in _NASALS) != (b in _NASALS)) + _alike(_NASALS.get(a, a), _NASALS.get(b, b))
    if a in _DIPHTHONGS or b in _DIPHTHONGS:
        first = _DIPHTHONGS.get(a, (a, a))
        second = _DIPHTHONGS.get(b, (b, b))
        return (apart(first[0], second[0]) + apart(first[1], second[1])) / 2 + 0.3 * (len(first) != len(second))
    return apart(a, b)


def _confusions() -> NDArray[np.float64]:
    apart_by = np.array([[_alike(a, b) for b in HEARD] for a in HEARD])
    return np.where(apart_by <= _REACH, np.exp(-_COST * apart_by), 0.0)


#: How well each sound may stand for each other, shape (heard, heard): 1 for itself, 0 for what is never taken for it.
STANDS_FOR: NDArray[np.float64] = _confusions()
