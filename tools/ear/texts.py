"""Sentences in many languages, to be spoken.

They are the interface texts that Django carries, and English made of the dictionary.
"""

import gettext
import re
from collections.abc import Sequence
from functools import cache
from pathlib import Path

import django
import numpy as np

_ROOT = Path(django.__file__).parent
_MARKUP = re.compile(r"%\(\w+\)\w|%[\w%]|\{[^}]*\}|<[^>]*>|&\w+;|[_\n\"“”«»()\[\]/\\|#*=]+")
_JOINS = [
    "the",
    "a",
    "of",
    "and",
    "to",
    "in",
    "is",
    "it",
    "that",
    "was",
    "for",
    "on",
    "with",
    "he",
    "she",
    "they",
    "we",
    "you",
    "at",
    "by",
    "from",
    "my",
    "his",
    "her",
    "this",
    "not",
    "but",
]


@cache
def catalogue(language: str) -> tuple[str, ...]:
    """The texts Django has in a language, markup removed, of 12 to 160 characters; empty where it has none."""
    files = [*_ROOT.glob(f"conf/locale/{language}/LC_MESSAGES/django.mo")]
    files += sorted(_ROOT.glob(f"contrib/*/locale/{language}/LC_MESSAGES/django.mo"))
    found: dict[str, None] = {}
    for file in files:
        with file.open("rb") as data:
            texts = gettext.GNUTranslations(data)._catalog  # type: ignore[attr-defined]
        for text in texts.values():
            clean = re.sub(r"\s+", " ", _MARKUP.sub(" ", text)).strip() if isinstance(text, str) else ""
            if 12 <= len(clean) <= 160 and "-Version" not in clean:
                found[clean] = None
    return tuple(found)


@cache
def _english_words() -> tuple[str, ...]:
    from pocketsphinx import get_model_path

    words = [row.split()[0] for row in Path(get_model_path("en-us/cmudict-en-us.dict")).read_text().splitlines()]
    return tuple(w for w in words if w.isalpha() and 2 <= len(w) <= 12)


def _any(of: Sequence[str], pick: np.random.Generator) -> str:
    """One of them; the generator's own `choice` makes an array of them all each time."""
    return of[int(pick.integers(len(of)))]


def english(pick: np.random.Generator) -> str:
    """Words of the dictionary between the small words that hold English together: every sound beside every other."""
    out: list[str] = []
    for _ in range(int(pick.integers(3, 9))):
        if pick.random() < 0.6:
            out.append(_any(_JOINS, pick))
        out.append(_any(_english_words(), pick))
    text = " ".join(out)
    if pick.random() < 0.3:
        cut = len(out) // 2
        text = " ".join(out[:cut]) + ", " + " ".join(out[cut:])
    return text[0].upper() + text[1:] + _any(".?!.", pick)


def made_up(pick: np.random.Generator, syllables: tuple[str, ...]) -> str:
    """Words of random syllables, for languages whose texts here cannot be spoken as they are written."""
    words = ["".join(_any(syllables, pick) for _ in range(pick.integers(1, 4))) for _ in range(pick.integers(3, 8))]
    return " ".join(words) + "."


_KANA = (
    "あいうえおかきくけこさしすせそたちつてとなにぬねのはひふへほまみむめもやゆよらりるれろわん"
    "がぎぐげござじずぜぞだでどばびぶべぼぱぴぷぺぽ"
)
KANA = (*_KANA, "きゃ", "しゅ", "ちょ", "にゃ", "りょ", "っか", "って", "っぱ", "こう", "せい", "おお", "いい")
PINYIN = tuple(
    f"{start}{rest}{tone} "
    for start in [
        "b",
        "p",
        "m",
        "f",
        "d",
        "t",
        "n",
        "l",
        "g",
        "k",
        "h",
        "j",
        "q",
        "x",
        "zh",
        "ch",
        "sh",
        "r",
        "z",
        "c",
        "s",
    ]
    for rest in ("a", "an", "ang", "ao", "e", "en", "i", "in", "u", "ou", "ong")
    for tone in "1234"
)


def text_in(language: str, pick: np.random.Generator) -> str | None:
    """A text to speak in a language (espeak-ng's code); None where there is none."""
    base = language.split("-")[0]
    if base == "en":
        return english(pick)
    if base == "ja":
        return made_up(pick, KANA)
    if language == "cmn-latn-pinyin":
        return made_up(pick, PINYIN)
    texts = catalogue({"cmn": "zh_Hans", "yue": "zh_Hant"}.get(base, base))
    return _any(texts, pick) if texts else None
