"""ARPABET and IPA for General American English.

ARPABET is only used to address the acoustic model; sounds are stored and shown in IPA. The pairs are those of the TIMIT
and CMU phone sets.
"""

from tinfork.core.speech.features import nearest, plain_letters
from tinfork.core.speech.visemes import is_vowel, strip_marks

IPA_OF: dict[str, str] = {
    "AA": "ɑ", "AE": "æ", "AH": "ʌ", "AO": "ɔ", "AW": "aʊ", "AY": "aɪ", "EH": "ɛ", "ER": "ɝ",
    "EY": "eɪ", "IH": "ɪ", "IY": "i", "OW": "oʊ", "OY": "ɔɪ", "UH": "ʊ", "UW": "u",
    "B": "b", "CH": "tʃ", "D": "d", "DH": "ð", "F": "f", "G": "ɡ", "HH": "h", "JH": "dʒ", "K": "k",
    "L": "l", "M": "m", "N": "n", "NG": "ŋ", "P": "p", "R": "ɹ", "S": "s", "SH": "ʃ", "T": "t",
    "TH": "θ", "V": "v", "W": "w", "Y": "j", "Z": "z", "ZH": "ʒ",
}  # fmt: skip

VOWELS = frozenset(name for name, ipa in IPA_OF.items() if is_vowel(ipa))

#: IPA letters (marks stripped) to the nearest phones of the English acoustic model.
_FROM_IPA: dict[str, str] = {
    **{strip_marks(ipa): name for name, ipa in IPA_OF.items()},
    "ə": "AH", "ɚ": "ER", "ɜ": "ER", "ɐ": "AH", "a": "AA", "ɒ": "AA", "e": "EY", "o": "OW", "ɨ": "IH", "ᵻ": "IH",
    "ʉ": "UW", "y": "UW", "ø": "ER", "œ": "ER", "ɪ": "IH", "əʊ": "OW", "ɔː": "AO", "eə": "EH R", "ɪə": "IH R",
    "ʊə": "UH R", "iə": "IY AH", "aɪə": "AY AH", "aɪɚ": "AY ER", "aʊɚ": "AW ER", "əl": "AH L", "ɑɹ": "AA R",
    "ɔɹ": "AO R", "oɹ": "AO R", "ɛɹ": "EH R", "ɪɹ": "IH R", "ʊɹ": "UH R", "ɡ": "G", "g": "G", "r": "R", "ɾ": "T",
    "ʔ": "T", "ɫ": "L", "x": "K", "ç": "HH", "ɣ": "G", "ɬ": "L", "ɲ": "N Y", "ʎ": "L Y", "ts": "T S", "dz": "D Z",
    "ʍ": "W", "ɹ": "R", "n̩": "AH N",
}  # fmt: skip


#: The model's phones that are a single sound, for letters that are not listed.
_SINGLE = {ipa: name for name, ipa in IPA_OF.items() if len(ipa) == 1} | {"tʃ": "CH", "dʒ": "JH"}


def phones_from_ipa(ipa: str) -> tuple[str, ...]:
    """The model's phones for one IPA symbol: as listed, or letter by letter the phones that are articulated most alike.

    An empty tuple means the symbol has no sound.
    """
    letters = strip_marks(ipa)
    if letters in _FROM_IPA:
        return tuple(_FROM_IPA[letters].split())
    out: list[str] = []
    for letter in plain_letters(ipa):
        out += _FROM_IPA[letter].split() if letter in _FROM_IPA else [_SINGLE[nearest(letter, _SINGLE)]]
    return tuple(name for at, name in enumerate(out) if at == 0 or name != out[at - 1])


def ipa_from_phones(phones: tuple[str, ...], stressed: tuple[bool, ...] = ()) -> tuple[str, ...]:
    """IPA symbols of a pronunciation in ARPABET (without stress digits).

    `stressed` tells for each vowel, in order, whether it carries stress: the open-mid
    vowel AH is ʌ under stress and ə without, ER is ɝ or ɚ, and a stressed vowel is
    written with ˈ before it. Without it a single vowel counts as stressed.
    """
    vowels = sum(p in VOWELS for p in phones)
    if len(stressed) != vowels:
        stressed = (True,) * vowels if vowels == 1 else (False,) * vowels
    out: list[str] = []
    nth = 0
    for phone in phones:
        symbol = IPA_OF[phone]
        if phone in VOWELS:
            if not stressed[nth]:
                symbol = {"AH": "ə", "ER": "ɚ"}.get(phone, symbol)
            elif vowels > 1:
                symbol = "ˈ" + symbol
            nth += 1
        out.append(symbol)
    return tuple(out)
