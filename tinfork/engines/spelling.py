"""From written to spoken words: numbers, money, times, dates, abbreviations, laughter, and text that is not spoken.

A written word keeps its text and stands for one or more spoken words: "1923" for "nineteen twenty three". A spoken word
that begins with "/" is a pronunciation in IPA. Stage directions in brackets are not spoken; breaths and laughter among
them are cues. The rules are for English; words of other languages are passed whole to the synthesiser, which knows
their numbers.
"""

import re
import unicodedata
from dataclasses import dataclass

from num2words import num2words

from tinfork.core.speech.cues import BRACKETS, cue_of
from tinfork.core.speech.lexicon import base_language
from tinfork.engines.writing import pieces

_NUMBER = re.compile(
    r"(?P<sign>[$£€])?(?P<int>\d{1,3}(?:,\d{3})+|\d+)(?:\.(?P<frac>\d+))?(?P<tail>st|nd|rd|th|%|s|k|m|bn)?", re.I
)
_TIME = re.compile(r"(?P<h>[01]?\d|2[0-3])[:.](?P<m>[0-5]\d)(?P<half>am|pm|a\.m|p\.m)?", re.I)
_DATE = re.compile(r"(?P<a>\d{1,2})[/.](?P<b>\d{1,2})[/.](?P<y>\d{4}|\d{2})|(?P<iso>\d{4})-(?P<im>\d\d)-(?P<id>\d\d)")
_FRACTIONS = {"½": ("a", "half"), "¼": ("a", "quarter"), "¾": ("three", "quarters"), "⅓": ("a", "third")}
_CURRENCY = {
    "$": (("dollar", "dollars"), ("cent", "cents")),
    "£": (("pound", "pounds"), ("penny", "pence")),
    "€": (("euro", "euros"), ("cent", "cents")),
}
_TAILS = {"k": "thousand", "m": "million", "bn": "billion"}
_MONTHS = [
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
]
_SIGNS = {
    "&": "and",
    "@": "at",
    "+": "plus",
    "=": "equals",
    "%": "percent",
    "#": "number",
    "×": "times",
    "°": "degrees",
}
#: Abbreviations, without their full stops.
_SHORT = {
    "mr": "mister", "mrs": "missus", "ms": "miz", "dr": "doctor", "prof": "professor", "st": "saint", "jr": "junior",
    "sr": "senior", "vs": "versus", "etc": "et cetera", "eg": "for example", "ie": "that is", "approx": "approximately",
    "capt": "captain", "sgt": "sergeant", "lt": "lieutenant", "col": "colonel", "gen": "general", "rev": "reverend",
    "ave": "avenue", "rd": "road", "ft": "feet", "lbs": "pounds", "oz": "ounces", "km": "kilometers",
    "kg": "kilograms", "cm": "centimeters", "mm": "millimeters", "mph": "miles per hour", "min": "minutes",
}  # fmt: skip
#: Abbreviations that are words unless a full stop follows.
_ONLY_WITH_POINT = frozenset({"st", "ms", "gen", "col", "rev", "min", "lt", "ave", "mm"})
#: Interjections that are in no dictionary, by their spelling; in IPA.
_SOUNDS = (
    (re.compile(r"(?:b?w?m?[uo]?w?a?)?((?:h+[aeiou]+h*){2,})"), ""),
    (re.compile(r"h+m+|m+h+m+|m{2,}"), "h m"),
    (re.compile(r"sh+|shh+"), "ʃ"),
    (re.compile(r"ps+t+"), "p s t"),
    (re.compile(r"pf+t+"), "p f t"),
    (re.compile(r"b+r+"), "b ɹ"),
    (re.compile(r"tsk|tut"), "t s k"),
    (re.compile(r"u+gh+"), "ˈʌ ɡ"),
    (re.compile(r"a+r+gh+|a+rr+"), "ˈɑ ɹ"),
    (re.compile(r"a{2,}h*|a+h{1,}"), "ˈɑː"),
    (re.compile(r"o{2,}h+|o+h{2,}"), "ˈoʊ"),
    (re.compile(r"e{2,}k+"), "ˈiː k"),
    (re.compile(r"ph+e+w+"), "f j ˈuː"),
    (re.compile(r"u+h+"), "ˈʌ"),
    (re.compile(r"u+m+|e+r+m+"), "ˈʌ m"),
    (re.compile(r"g+r+"), "ɡ ɹ"),
    (re.compile(r"z{2,}"), "z"),
)
_LAUGHED = {"a": "ɑ", "e": "ɛ", "i": "i", "o": "oʊ", "u": "u"}
#: Punctuation between letters without a space, which would be read out.
_ENDS_A_WORD = re.compile(r"(?<=[^\W\d_])([!?;,…]+)(?=[¡¿]*[^\W\d_])")
_OUTER = ".,;:!?…\"“”«»„¿¡()[]{}*_~–—-‚‘’'、。！？，；：「」『』《》।॥؟،؛۔·"


@dataclass(frozen=True, slots=True)
class WrittenWord:
    """A word as typed (without outer punctuation), and the words spoken for it, in lower case.

    `cue`: set if it is not a word but a breath or laughter in brackets; then no words are spoken.
    """

    text: str
    spoken: tuple[str, ...]
    cue: str = ""


def split_words(text: str, language: str = "en-us") -> list[WrittenWord]:
    """The written words of a line that are spoken, and its cues."""
    words: list[WrittenWord] = []
    is_english = base_language(language) == "en"
    at = 0
    for bracket in [*BRACKETS.finditer(text), None]:
        part = text[at : bracket.start()] if bracket else text[at:]
        words += _english(part) if is_english else _others(part, language)
        if bracket:
            at = bracket.end()
            if cue := cue_of(bracket[0]):
                words.append(WrittenWord(bracket[0], (), cue))
    return words


def _tokens(text: str) -> list[str]:
    plain = unicodedata.normalize("NFC", text).replace("’", "'").replace("‘", "'")
    return _ENDS_A_WORD.sub(r"\1 ", plain).split()


def _english(text: str) -> list[WrittenWord]:
    shown = ((token.strip(_OUTER), token) for token in _tokens(text))
    return [WrittenWord(word, spoken) for word, token in shown if (spoken := _spoken(word, token))]


def _others(text: str, language: str) -> list[WrittenWord]:
    found = (piece for token in _tokens(text) for piece in pieces(token, language))
    return [WrittenWord(word.strip(_OUTER), spoken) for word, read in found if (spoken := _foreign(read))]


def _foreign(token: str) -> tuple[str, ...]:
    parts = (part.strip(_OUTER) for part in re.split(r"[-–—/…]+|\.{2,}", token.strip(_OUTER)))
    return tuple(part.lower() for part in parts if any(c.isalnum() for c in part))


def _spoken(token: str, raw: str) -> tuple[str, ...]:
    """The spoken words of an English token; `raw` is the token with punctuation."""
    if token in _SIGNS or raw in _SIGNS:
        return (_SIGNS[token or raw],)
    if token in _FRACTIONS:
        return _FRACTIONS[token]
    if special := _short(token, raw) or _time(token) or _date(token):
        return special
    out: list[str] = []
    for part in re.split(r"[-–—/…]+|\.{2,}", token):
        match = _NUMBER.fullmatch(part)
        if match:
            out += _number(match)
        elif sound := _sound(part.lower()):
            out.append(sound)
        else:
            # Letters and digits in one token ("R2", "24fps") are spoken separately.
            for piece in re.findall(r"\d+|[^\W\d_]+(?:'[^\W\d_]+)*'?", part):
                out += _words_of(int(piece[:15])) if piece.isdecimal() else _word(piece)
    return tuple(out)


def _word(piece: str) -> list[str]:
    """A word, spelled out letter by letter if it cannot be read; a stretched one ("nooooo") in its usual spelling."""
    lower = piece.lower()
    plain = re.sub(r"[^a-z]", "", lower)
    has_vowel = bool(re.search(r"[aeiouy]", plain)) or plain != lower
    if not has_vowel and 1 < len(plain) <= 5:
        return list(plain)
    return [re.sub(r"(.)\1{2,}", r"\1", lower)]


def _short(token: str, raw: str) -> tuple[str, ...]:
    bare = token.replace(".", "").lower()
    if bare in ("am", "pm") and "." in token:
        return tuple(bare)
    if bare in _SHORT and (bare not in _ONLY_WITH_POINT or (raw.endswith(".") and token[:1].isupper())):
        return tuple(_SHORT[bare].split())
    if re.fullmatch(r"(?:[A-Za-z]\.){2,}[A-Za-z]?", token + "."):
        return tuple(bare)
    return ()


def _sound(part: str) -> str:
    """The pronunciation of laughter and other interjections; "" for any other word."""
    for pattern, ipa in _SOUNDS:
        match = pattern.fullmatch(part)
        if match and ipa:
            return "/" + ipa
        if match:
            vowels = re.findall(r"h+([aeiou])", match[1])
            return "/" + " ".join(f"h ˈ{_LAUGHED[vowel]}" for vowel in vowels[:20])
    return ""


def _time(token: str) -> tuple[str, ...]:
    match = _TIME.fullmatch(token)
    if not match or ("." in token and not match["half"]):
        return ()
    hour, minute = int(match["h"]), int(match["m"])
    out = _words_of(hour)
    if minute:
        out += (["oh"] if minute < 10 else []) + _words_of(minute)
    elif not match["half"]:
        out += ["o'clock"] if hour <= 12 else ["hundred"]
    return (*out, *(match["half"] or "").replace(".", "").lower())


def _date(token: str) -> tuple[str, ...]:
    match = _DATE.fullmatch(token)
    if not match:
        return ()
    if match["iso"]:
        year, month, day = int(match["iso"]), int(match["im"]), int(match["id"])
    else:
        # Day first, unless impossible.
        year = int(match["y"])
        day, month = sorted((int(match["a"]), int(match["b"])), key=lambda n: n <= 12)
        if int(match["a"]) <= 12:
            day, month = int(match["a"]), int(match["b"])
            if month > 12:
                day, month = month, day
    if not (1 <= month <= 12 and 1 <= day <= 31):
        return ()
    spoken = _words_of(year, "year") if year > 99 else _words_of(year)
    return (_MONTHS[month - 1], *_words_of(day, "ordinal"), *spoken)


def _words_of(number: int, kind: str = "cardinal") -> list[str]:
    return re.findall(r"[a-z]+", num2words(number, to=kind))


def _number(match: "re.Match[str]") -> list[str]:
    digits, frac, tail = match["int"].replace(",", "")[:15], match["frac"], (match["tail"] or "").lower()
    number = int(digits)
    if match["sign"]:
        return _money(match["sign"], number, frac, tail)
    if tail in ("st", "nd", "rd", "th"):
        return _words_of(number, "ordinal")
    is_year = len(digits) == 4 and "," not in match["int"] and 1100 <= number <= 2099 and not frac
    # A number that begins with zero, or a very long one, is read digit by digit.
    if (len(digits) > 1 and digits[0] == "0") or (len(digits) > 9 and "," not in match["int"]):
        return [word for digit in digits for word in _words_of(int(digit))]
    out = _words_of(number, "year") if is_year else _words_of(number)
    if frac:
        out += ["point", *(w for d in frac[:12] for w in _words_of(int(d)))]
    if tail == "%":
        out.append("percent")
    if tail in _TAILS:
        out.append(_TAILS[tail])
    if tail == "s":
        last = out[-1]
        out[-1] = last[:-1] + "ies" if last.endswith("y") else last + "s"
    return out


def _money(sign: str, number: int, frac: str | None, tail: str) -> list[str]:
    whole, part = _CURRENCY[sign]
    if tail in _TAILS:
        fraction = ["point", *(w for d in (frac or "")[:6] for w in _words_of(int(d)))] if frac else []
        return [*_words_of(number), *fraction, _TAILS[tail], whole[1]]
    out = [*_words_of(number), whole[number != 1]]
    if frac and int(frac[:2].ljust(2, "0")):
        cents = int(frac[:2].ljust(2, "0"))
        out += [*_words_of(cents), part[cents != 1]]
    return out
