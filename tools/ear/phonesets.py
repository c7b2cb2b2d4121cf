"""The phone names of festival's and flite's voices, and their IPA; "" is a pause."""

from tinfork.core.speech.arpabet import IPA_OF

#: American English, as flite and festival write it.
RADIO: dict[str, str] = {name.lower(): ipa for name, ipa in IPA_OF.items()} | {
    "ax": "ə", "axr": "ɚ", "dx": "ɾ", "el": "əl", "em": "m", "en": "n", "hv": "h", "nx": "n", "pau": "", "h#": "",
    "brth": "", "ssil": "",
}  # fmt: skip

_ITALIAN: dict[str, str] = {
    "i": "i", "e": "e", "E": "ɛ", "a": "a", "o": "o", "O": "ɔ", "u": "u", "j": "j", "w": "w", "p": "p", "t": "t",
    "k": "k",
    "b": "b", "d": "d", "g": "ɡ", "f": "f", "s": "s", "S": "ʃ", "v": "v", "z": "z", "Z": "ʒ", "ts": "ts", "tS": "tʃ",
    "dz": "dz", "dZ": "dʒ", "m": "m", "n": "n", "J": "ɲ", "ng": "ŋ", "nf": "ɱ", "l": "l", "L": "ʎ", "r": "r", "#": "",
}  # fmt: skip
_ITALIAN |= {vowel + "1": _ITALIAN[vowel] for vowel in "ieEaoOu"}

_CZECH: dict[str, str] = {
    "#": "", "_": "", "a": "a", "b": "b", "c": "ts", "c~": "tʃ", "ch": "x", "d": "d", "d~": "ɟ", "dz": "dz",
    "dz~": "dʒ",
    "e": "ɛ", "f": "f", "g": "ɡ", "h": "ɦ", "i": "ɪ", "i:": "iː", "j": "j", "k": "k", "l": "l", "m": "m", "n": "n",
    "n*": "ŋ", "n~": "ɲ", "o": "o", "p": "p", "r": "r", "r~": "r̝", "r~*": "r̝", "s": "s", "s~": "ʃ", "t": "t", "t~": "c",
    "u": "u", "v": "v", "z": "z", "z~": "ʒ", "a:": "aː", "e:": "ɛː", "o:": "oː", "u:": "uː",
}  # fmt: skip

_FINNISH: dict[str, str] = {
    "a": "ɑ", "e": "e", "i": "i", "o": "o", "u": "u", "y": "y", "@": "æ", "7": "ø", "&": "ə", "p": "p", "t": "t",
    "k": "k",
    "b": "b", "d": "d", "g": "ɡ", "f": "f", "T": "θ", "D": "ð", "s": "s", "z": "z", "S": "ʃ", "Z": "ʒ", "h": "h",
    "v": "ʋ",
    "m": "m", "n": "n", "N": "ŋ", "l": "l", "L": "l", "r": "r", "j": "j", "w": "w", "?": "ʔ", "#": "",
}  # fmt: skip
_FINNISH |= {name + ":": ipa + "ː" for name, ipa in _FINNISH.items() if ipa}

_CATALAN: dict[str, str] = {
    "ax": "ə", "a": "a", "b": "b", "d": "d", "e": "e", "E": "ɛ", "f": "f", "g": "ɡ", "i": "i", "j": "j", "J": "ɲ",
    "k": "k",
    "l": "l", "L": "ʎ", "m": "m", "n": "n", "o": "o", "O": "ɔ", "p": "p", "r": "ɾ", "rr": "r", "s": "s", "S": "ʃ",
    "t": "t",
    "u": "u", "w": "w", "z": "z", "Z": "ʒ", "pau": "", "_": "", "#": "",
}  # fmt: skip
_CATALAN |= {vowel + "1": _CATALAN[vowel] for vowel in "aeEioOu"}

_RUSSIAN: dict[str, str] = {
    "pau": "", "ii": "i", "yy": "ɨ", "uu": "u", "ee": "e", "oo": "o", "aa": "a", "a": "ə", "e": "ɪ", "i": "ɪ", "y": "ɨ",
    "u": "u", "ae": "ə", "ay": "ə", "ur": "ʊ", "k": "k", "kk": "kʲ", "g": "ɡ", "gg": "ɡʲ", "c": "ts", "ch": "tɕ",
    "sh": "ʂ", "sch": "ɕː", "zh": "ʐ", "h": "x", "hh": "xʲ", "j": "j",
} | {letter: letter for letter in "pbtdfvszmnlr"} | {letter * 2: letter + "ʲ" for letter in "pbtdfvszmnlr"}  # fmt: skip

#: Hindi, Marathi and Telugu as festival's voices write them; a sentence with a name that is not here is left out.
_INDIC: dict[str, str] = {
    "a": "a", "aa": "aː", "ih": "ɪ", "iy": "iː", "uh": "ʊ", "uw": "uː", "eh": "e", "ee": "eː", "ay": "aɪ", "oh": "o",
    "oo": "oː", "aw": "aʊ", "f": "f", "k": "k", "kh": "kʰ", "g": "ɡ", "gh": "ɡʱ", "ch": "tʃ", "j": "dʒ", "T": "ʈ",
    "D": "ɖ", "N": "ɳ", "th": "t", "tth": "t", "td": "t", "dh": "d", "ddh": "d", "n": "n", "p": "p", "b": "b",
    "bh": "bʱ", "m": "m", "y": "j", "r": "r", "l": "l", "L": "ɭ", "v": "ʋ", "w": "w", "s": "s", "sh": "ʃ", "h": "h",
    "ksh": "kʃ", "pau": "",
}  # fmt: skip

BY_NAME: dict[str, dict[str, str]] = {
    "radio": RADIO,
    "italian": _ITALIAN,
    "czech": _CZECH,
    "finnish": _FINNISH,
    "catalan": _CATALAN,
    "russian": _RUSSIAN,
    "indic": _INDIC,
}
