"""Phonetic features of sounds, and which of some sounds is nearest to another.

Letters and their descriptions are those of the International Phonetic Alphabet (Handbook of the IPA, 1999). ASCII
letters that synthesisers write instead of IPA are read as X-SAMPA (Wells 1995). Distances have no unit; 0 is the same
sound, about 1 a sound that is easily confused with it, above 6 another kind of sound.
"""

from collections.abc import Iterable
from functools import cache

from tinfork.core.speech.visemes import strip_marks

_PLACES = (
    "bilabial",
    "labiodental",
    "dental",
    "alveolar",
    "postalveolar",
    "retroflex",
    "alveolopalatal",
    "palatal",
    "velar",
    "uvular",
    "pharyngeal",
    "glottal",
)
#: The position of each place from the lips to the glottis; lips are set apart from the others.
_PLACE_AT = dict(zip(_PLACES, (0.0, 0.8, 3.0, 3.5, 4.2, 4.4, 4.7, 5.4, 6.5, 7.2, 8.2, 8.6), strict=True))

#: The distances of two manners; all others are 3 apart.
_MANNERS_APART = {
    frozenset(pair): apart
    for pair, apart in {
        ("stop", "affricate"): 1.2,
        ("fricative", "affricate"): 1.2,
        ("stop", "fricative"): 1.8,
        ("stop", "tap"): 1.5,
        ("fricative", "approximant"): 1.4,
        ("fricative", "lateral fricative"): 1.0,
        ("trill", "tap"): 0.3,
        ("trill", "approximant"): 1.0,
        ("tap", "approximant"): 1.0,
        ("trill", "fricative"): 1.6,
        ("lateral", "approximant"): 1.5,
        ("lateral", "lateral fricative"): 1.5,
        ("lateral", "tap"): 1.5,
        ("nasal", "stop"): 2.0,
        ("nasal", "approximant"): 2.4,
        ("nasal", "lateral"): 2.4,
    }.items()
}

#: Consonants by manner and place: voiceless, voiced ("-" if there is none).
_CONSONANTS: dict[str, dict[str, str]] = {
    "stop": {"bilabial": "pb", "alveolar": "td", "retroflex": "ʈɖ", "palatal": "cɟ", "velar": "kɡ", "uvular": "qɢ",
             "glottal": "ʔ-"},
    "nasal": {"bilabial": "-m", "labiodental": "-ɱ", "alveolar": "-n", "retroflex": "-ɳ", "palatal": "-ɲ",
              "velar": "-ŋ", "uvular": "-ɴ"},
    "trill": {"bilabial": "-ʙ", "alveolar": "-r", "uvular": "-ʀ"},
    "tap": {"labiodental": "-ⱱ", "alveolar": "-ɾ", "retroflex": "-ɽ"},
    "fricative": {"bilabial": "ɸβ", "labiodental": "fv", "dental": "θð", "alveolar": "sz", "postalveolar": "ʃʒ",
                  "retroflex": "ʂʐ", "alveolopalatal": "ɕʑ", "palatal": "çʝ", "velar": "xɣ", "uvular": "χʁ",
                  "pharyngeal": "ħʕ", "glottal": "hɦ"},
    "lateral fricative": {"alveolar": "ɬɮ"},
    "approximant": {"labiodental": "-ʋ", "alveolar": "-ɹ", "retroflex": "-ɻ", "palatal": "-j", "velar": "-ɰ"},
    "lateral": {"alveolar": "-l", "retroflex": "-ɭ", "palatal": "-ʎ", "velar": "-ʟ"},
}  # fmt: skip

#: Vowels: height (0 close to 6 open), backness (0 front to 4 back), rounded.
_VOWELS: dict[str, tuple[float, float, bool]] = {
    "i": (0, 0, False), "y": (0, 0, True), "ɨ": (0, 2, False), "ʉ": (0, 2, True), "ɯ": (0, 4, False), "u": (0, 4, True),
    "ɪ": (1, 0.8, False), "ʏ": (1, 0.8, True), "ᵻ": (1, 2, False), "ʊ": (1, 3.4, True),
    "e": (2, 0, False), "ø": (2, 0, True), "ɘ": (2, 2, False), "ɵ": (2, 2, True), "ɤ": (2, 4, False), "o": (2, 4, True),
    "ə": (3, 2, False), "ᵊ": (3, 2, False),
    "ɛ": (4, 0.3, False), "œ": (4, 0.3, True), "ɜ": (4, 2, False), "ɞ": (4, 2, True), "ʌ": (4.2, 3.2, False),
    "ɔ": (4, 4, True), "ɝ": (3.5, 2, False), "ɚ": (3, 2, False),
    "æ": (5, 0.5, False), "ɐ": (5, 2, False), "a": (6, 1.2, False), "ɶ": (6, 0.5, True), "ɑ": (6, 4, False),
    "ɒ": (6, 4, True),
}  # fmt: skip

#: Letters that are treated as another: implosives and clicks as their stops, double articulations, X-SAMPA's ASCII.
_SAME_AS = {
    "g": "ɡ", "ɓ": "b", "ɗ": "d", "ʄ": "ɟ", "ɠ": "ɡ", "ʛ": "ɢ", "ɫ": "l", "ɺ": "ɾ", "ɧ": "ʃ", "ʍ": "w", "ɩ": "ɪ",
    "ɷ": "ʊ",
    "ʘ": "p", "ǀ": "t", "ǃ": "t", "ǂ": "c", "ǁ": "l", "ɥ": "y", "ʦ": "ts", "ʧ": "tʃ", "ʤ": "dʒ", "ʣ": "dz", "ʨ": "tɕ",
    "ʥ": "dʑ", "ȵ": "ɲ", "ɼ": "r", "ʜ": "ħ", "ʢ": "ʕ", "ʡ": "ʔ", "ɱ": "ɱ", "ɿ": "ɨ", "ʅ": "ɨ",
    "A": "ɑ", "B": "β", "C": "ç", "D": "ð", "E": "ɛ", "F": "ɱ", "G": "ɢ", "H": "ɥ", "I": "ɪ", "J": "ɲ", "K": "ɬ",
    "L": "ʎ",
    "M": "ɯ", "N": "ŋ", "O": "ɔ", "P": "ʋ", "Q": "ɒ", "R": "ʁ", "S": "ʃ", "T": "θ", "U": "ʊ", "V": "ʌ", "W": "w",
    "X": "χ",
    "Y": "ʏ", "Z": "ʒ",
}  # fmt: skip

#: Glides and the vowels they are short forms of.
_GLIDES = {"j": "i", "w": "u", "ɰ": "ɯ"}
_AFFRICATES = {"ts": "alveolar", "dz": "alveolar", "tʃ": "postalveolar", "dʒ": "postalveolar"}

Features = tuple[str, float, float, float]


def _describe() -> dict[str, Features]:
    """Every sound: its kind; place, or height; voice, or backness; whether lips are rounded."""
    out: dict[str, Features] = {}
    for manner, places in _CONSONANTS.items():
        for place, pair in places.items():
            for voiced, letter in enumerate(pair):
                if letter != "-":
                    out[letter] = (manner, _PLACE_AT[place], float(voiced), 0.0)
    for pair, place in _AFFRICATES.items():
        out[pair] = ("affricate", _PLACE_AT[place], float(pair[0] == "d"), 0.0)
    out["w"] = ("approximant", _PLACE_AT["velar"], 1.0, 1.0)
    for letter, (height, back, rounded) in _VOWELS.items():
        out[letter] = ("vowel", height, back, float(rounded))
    return out


FEATURES: dict[str, Features] = _describe()


def plain_letters(ipa: str) -> str:
    """The letters of an IPA symbol that have features; tones, length and unknown signs are dropped."""
    raised = "r̝" in ipa
    letters = "".join(_SAME_AS.get(letter, letter) for letter in strip_marks(ipa))
    letters = "".join(letter for letter in letters if letter in FEATURES)
    # A raised trill (Czech ř) sounds like a fricative.
    return letters.replace("r", "ʒ") if raised else letters


def apart(a: str, b: str) -> float:
    """The articulatory distance of two sounds of `FEATURES`."""
    if a == b:
        return 0.0
    kind_a, first_a, second_a, round_a = FEATURES[a]
    kind_b, first_b, second_b, round_b = FEATURES[b]
    if (kind_a == "vowel") != (kind_b == "vowel"):
        glide, vowel = (b, a) if kind_a == "vowel" else (a, b)
        return 1.0 + apart(_GLIDES[glide], vowel) if glide in _GLIDES else 9.0
    if kind_a == "vowel":
        return 0.7 * abs(first_a - first_b) + 0.55 * abs(second_a - second_b) + 1.2 * abs(round_a - round_b)
    manner = 0.0 if kind_a == kind_b else _MANNERS_APART.get(frozenset((kind_a, kind_b)), 3.0)
    return manner + 0.8 * abs(first_a - first_b) + 0.8 * abs(second_a - second_b) + 1.5 * abs(round_a - round_b)


def nearest(sound: str, among: Iterable[str]) -> str:
    """The sound of `FEATURES` with the least articulatory distance to this one; the first of equals."""
    return _nearest(sound, tuple(among))


@cache
def _nearest(sound: str, among: tuple[str, ...]) -> str:
    return min(among, key=lambda other: apart(sound, other))


#: The distance from which two sounds count as entirely different.
_FAR = 2.5


@cache
def differ(a: str, b: str) -> float:
    """How different two sounds of any language are, in IPA, from 0, the same, to 1."""
    letters = [plain_letters(symbol) for symbol in (a, b)]
    if letters[0] == letters[1]:
        return 0.0
    if not all(letters):
        return 1.0
    one, other = letters
    return min(1.0, (apart(one[0], other[0]) + apart(one[-1], other[-1])) / 2 / _FAR)
