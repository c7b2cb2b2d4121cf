"""Viseme classes: the phonemes that look alike on the lips, named by articulation.

The classes follow the International Phonetic Association's chart (Handbook of the IPA, 1999): place of articulation for
consonants; rounding and height for vowels. A diphthong is two visemes in sequence. A symbol that is not listed is
classed by its base letter, then by the features of that letter, and else as `mid`.
"""

import unicodedata
from functools import lru_cache

REST = "rest"

#: Every class with its IPA symbols, in the order they are shown.
CLASSES: dict[str, tuple[str, ...]] = {
    REST: (),
    "bilabial": ("p", "b", "m", "ɸ", "β", "ʙ", "ɓ"),
    "labiodental": ("f", "v", "ɱ", "ʋ", "ⱱ"),
    "dental": ("θ", "ð"),
    "alveolar": ("t", "d", "n", "ɾ", "ʈ", "ɖ", "ɳ", "ɽ", "ɗ", "ʔ"),
    "sibilant": ("s", "z", "ts", "dz"),
    "lateral": ("l", "ɫ", "ɭ", "ʎ", "ɬ", "ɮ", "ɺ", "ʟ"),
    "velar": ("k", "ɡ", "ŋ", "h", "g", "x", "ɣ", "q", "ɢ", "ɴ", "χ", "ʁ", "ħ", "ʕ", "ɦ", "ɠ", "ʛ", "ʀ", "ɰ"),
    "postalveolar": ("ʃ", "ʒ", "tʃ", "dʒ", "ʂ", "ʐ", "ɕ", "ʑ", "tɕ", "dʑ", "tʂ", "dʐ", "ɧ"),
    "rhotic": ("ɹ", "ɝ", "ɚ", "r", "ɻ"),
    "close-rounded": ("w", "u", "ʊ", "y", "ʏ", "ʉ", "ɥ", "ʍ", "ø"),
    "mid-rounded": ("o", "ɔ", "ɵ", "œ", "ɒ", "ɞ", "ɶ"),
    "close-spread": ("i", "ɪ", "j", "e", "ɨ", "ɲ", "c", "ɟ", "ç", "ʝ", "ɯ", "ᵻ", "ʄ"),
    "mid": ("ɛ", "ə", "ʌ", "ɜ", "ɘ", "ɤ", "ᵊ"),
    "open": ("æ", "a", "ɑ", "ɐ", "ä"),
}

VISEMES: tuple[str, ...] = tuple(CLASSES)

#: How many of the first symbols of a class stand for it where space is limited.
_FEW = {
    "bilabial": 3,
    "alveolar": 3,
    "velar": 4,
    "postalveolar": 4,
    "close-rounded": 4,
    "close-spread": 4,
    "mid": 3,
    "open": 3,
    "lateral": 1,
}


def typical_sounds(viseme: str) -> tuple[str, ...]:
    """The few symbols that people know a class by."""
    return CLASSES[viseme][: _FEW.get(viseme, 2)]


#: Classes whose contact must be visible: lips together, lip on teeth.
CLOSURES = frozenset({"bilabial", "labiodental"})

#: Every sound a drawing can show: silence, then each symbol, class by class.
SOUNDS: tuple[str, ...] = (REST, *(symbol for symbols in CLASSES.values() for symbol in symbols))

#: The share of its length after which a diphthong changes from its first shape to the second.
GLIDE_AT = 0.6

_CLASS_OF = {REST: REST} | {symbol: name for name, symbols in CLASSES.items() for symbol in symbols}
#: The class of a vowel letter that is not listed.
_UNKNOWN = "ə"
_VOWELS = frozenset("uʊyʏʉøoɔɵœɒɞɶiɪeɨɯᵻɛəʌɜɘɤᵊæaɑɐäɝɚ")
#: Marks, and tones as letters or digits: invisible on the mouth.
_DROPPED = frozenset("˥˦˧˨˩0123456789ˈˌːˑ.ʰʲˠˤʷˡⁿ‿͜͡'̩̯̃")


@lru_cache(maxsize=4096)
def strip_marks(ipa: str) -> str:
    """The letters of an IPA symbol without stress, length, tones, ties or diacritics."""
    plain = unicodedata.normalize("NFD", ipa)
    return "".join(c for c in plain if c not in _DROPPED and not unicodedata.combining(c))


def is_vowel(ipa: str) -> bool:
    """Whether the symbol's first letter is a vowel."""
    letters = strip_marks(ipa)
    return bool(letters) and letters[0] in _VOWELS


def class_of(sound: str) -> str:
    """The viseme class of one of `SOUNDS`."""
    return _CLASS_OF[sound]


@lru_cache(maxsize=4096)
def sound_parts(ipa: str) -> tuple[str, ...]:
    """The sounds (of `SOUNDS`) that a phoneme consists of, in order.

    One for a simple sound or affricate, two for a diphthong ("aɪ" -> a, ɪ) or a vowel with
    its r ("ɑɹ"). An empty symbol is rest.
    """
    letters = strip_marks(ipa)
    if not letters:
        return (REST,)
    if letters in _CLASS_OF:
        return (letters,)
    if letters[0] not in _VOWELS:
        # A cluster written as one symbol shows its last letter, as affricates do; an h after it is aspiration.
        letters = letters[:1] + letters[1:].rstrip("h")
        if letters in _CLASS_OF:
            return (letters,)
        known = [c for c in letters if c in _CLASS_OF]
        return (known[-1] if known else _UNKNOWN,)
    parts = [letter if letter in _CLASS_OF else _UNKNOWN for letter in letters]
    return (parts[0],) if _CLASS_OF[parts[0]] == _CLASS_OF[parts[-1]] else (parts[0], parts[-1])


@lru_cache(maxsize=4096)
def viseme_parts(ipa: str) -> tuple[str, ...]:
    """The viseme classes that a phoneme consists of, in order; one or two."""
    return tuple(_CLASS_OF[sound] for sound in sound_parts(ipa))


def viseme_of(ipa: str) -> str:
    """The class a phoneme begins with: the one it is listed under."""
    return viseme_parts(ipa)[0]


def sounds_to_pick() -> list[tuple[str, list[str]]]:
    """The sounds of each class, to choose from. The ASCII letter is another way to type the velar stop."""
    return [(name, [s for s in symbols if s != "g"]) for name, symbols in CLASSES.items() if name != REST]
