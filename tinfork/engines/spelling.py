"""Written words to spoken ones: numbers, money, hyphens, signs, and what is not spoken.

A written word keeps its text and stands for one or more spoken words: "1923" for
"nineteen twenty three". Stage directions in brackets are not spoken.
"""

import re
from dataclasses import dataclass

from num2words import num2words

_BRACKETS = re.compile(r"\[[^\]]*\]|\([^)]*\)")
_NUMBER = re.compile(
    r"(?P<sign>[$£€])?(?P<int>\d{1,3}(?:,\d{3})+|\d+)(?:\.(?P<frac>\d+))?(?P<tail>st|nd|rd|th|%|s)?", re.I
)
_CURRENCY = {
    "$": (("dollar", "dollars"), ("cent", "cents")),
    "£": (("pound", "pounds"), ("penny", "pence")),
    "€": (("euro", "euros"), ("cent", "cents")),
}
_SIGNS = {"&": "and", "@": "at", "+": "plus", "=": "equals", "%": "percent", "#": "number"}


@dataclass(frozen=True, slots=True)
class WrittenWord:
    """A word as typed (outer punctuation off), and the words spoken for it, in lower case."""

    text: str
    spoken: tuple[str, ...]


def split_words(text: str) -> list[WrittenWord]:
    """The written words of a line that have something to say."""
    words: list[WrittenWord] = []
    for token in _BRACKETS.sub(" ", text).replace("’", "'").replace("‘", "'").split():
        shown = token.strip('.,;:!?…"“”«»„¿¡()[]{}*_~–—-')
        spoken = _spoken(shown)
        if spoken:
            words.append(WrittenWord(shown, spoken))
    return words


def _spoken(token: str) -> tuple[str, ...]:
    if token in _SIGNS:
        return (_SIGNS[token],)
    out: list[str] = []
    for part in re.split(r"[-–—/…]+|\.{2,}", token):
        match = _NUMBER.fullmatch(part)
        if match:
            out += _number(match)
        else:
            # Letters and digits in one token ("R2", "24fps") are spoken piece by piece.
            for piece in re.findall(r"\d+|[^\W\d_]+(?:'[^\W\d_]+)*'?", part):
                out += _words_of(int(piece[:15])) if piece.isdecimal() else [piece.lower()]
    return tuple(out)


def _words_of(number: int, kind: str = "cardinal") -> list[str]:
    return re.findall(r"[a-z]+", num2words(number, to=kind))


def _number(match: "re.Match[str]") -> list[str]:
    digits, frac, tail = match["int"].replace(",", "")[:15], match["frac"], (match["tail"] or "").lower()
    number = int(digits)
    if match["sign"]:
        whole, part = _CURRENCY[match["sign"]]
        out = [*_words_of(number), whole[number != 1]]
        if frac and int(frac[:2].ljust(2, "0")):
            cents = int(frac[:2].ljust(2, "0"))
            out += [*_words_of(cents), part[cents != 1]]
        return out
    if tail in ("st", "nd", "rd", "th"):
        return _words_of(number, "ordinal")
    is_year = len(digits) == 4 and "," not in match["int"] and 1100 <= number <= 2099 and not frac
    out = _words_of(number, "year") if is_year else _words_of(number)
    if frac:
        out += ["point", *(w for d in frac[:12] for w in _words_of(int(d)))]
    if tail == "%":
        out.append("percent")
    if tail == "s":
        last = out[-1]
        out[-1] = last[:-1] + "ies" if last.endswith("y") else last + "s"
    return out
