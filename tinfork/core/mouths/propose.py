"""Suggestions which sounds a drawing shows: from names and numbers, else from the shapes in the pictures.

Names are read as people spell sounds in English ("oo", "th", "pbm"), as plain words for what the mouth does
("closed", "half open"), as IPA, or as viseme numbers of MPEG-4 (ISO/IEC 14496-2, table of visemes 0 to 14).
"""

import re
import unicodedata
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.messages import Message
from tinfork.core.mouths.articulation import vector
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.starter import STARTER
from tinfork.core.pictures.measure import Measures
from tinfork.core.speech.visemes import CLASSES, VISEMES

#: Words for what a mouth does, and the classes they stand for.
_WORDS: dict[str, tuple[str, ...]] = {
    "rest": ("rest",), "resting": ("rest",), "neutral": ("rest",), "silence": ("rest",), "idle": ("rest",),
    "closed": ("rest", "bilabial"), "shut": ("rest", "bilabial"), "pressed": ("bilabial",), "together": ("bilabial",),
    "bite": ("labiodental",), "teeth": ("sibilant",), "clenched": ("sibilant",),
    "tongue": ("lateral",), "ridge": ("lateral",), "round": ("mid-rounded",), "pucker": ("close-rounded",),
    "puckered": ("close-rounded",), "wide": ("close-spread",), "spread": ("close-spread",), "smile": ("close-spread",),
    "half": ("mid",), "open": ("open",),
}  # fmt: skip
#: Phrases go before their words.
_PHRASES: dict[tuple[str, ...], tuple[str, ...]] = {
    ("half", "open"): ("mid",), ("small", "round"): ("close-rounded",), ("wide", "open"): ("open",),
    ("lips", "together"): ("bilabial",), ("lip", "on", "teeth"): ("labiodental",),
    ("lips", "forward"): ("postalveolar",),
    ("teeth", "together"): ("sibilant",), ("tongue", "between"): ("dental",), ("tongue", "up"): ("alveolar",),
    ("lips", "drawn"): ("rhotic",),
}  # fmt: skip
#: Spellings of sounds, longest first where one begins another.
_SPELLINGS: dict[str, str] = {
    "sh": "postalveolar", "ch": "postalveolar", "zh": "postalveolar", "th": "dental", "oo": "close-rounded",
    "ee": "close-spread", "ou": "mid-rounded", "oh": "mid-rounded", "ow": "mid-rounded", "ah": "open", "aa": "open",
    "uh": "mid", "eh": "mid", "er": "rhotic", "ng": "velar", "wh": "close-rounded",
    "p": "bilabial", "b": "bilabial", "m": "bilabial", "f": "labiodental", "v": "labiodental", "t": "alveolar",
    "d": "alveolar", "n": "alveolar", "s": "sibilant", "z": "sibilant", "l": "lateral", "k": "velar", "g": "velar",
    "h": "velar", "j": "postalveolar", "r": "rhotic", "w": "close-rounded", "u": "close-rounded", "q": "close-rounded",
    "o": "mid-rounded", "i": "close-spread", "e": "close-spread", "y": "close-spread", "a": "open",
}  # fmt: skip
#: ISO/IEC 14496-2: viseme numbers 0 to 14.
MPEG4: tuple[tuple[str, ...], ...] = (
    ("rest",), ("bilabial",), ("labiodental",), ("dental",), ("alveolar",), ("velar",), ("postalveolar",),
    ("sibilant",),
    ("lateral",), ("rhotic",), ("open",), ("mid",), ("close-spread",), ("mid-rounded",), ("close-rounded",),
)  # fmt: skip
_LETTERS_OF = {s: name for name, symbols in CLASSES.items() for s in symbols if not s.isascii()}


@dataclass(frozen=True, slots=True)
class InkShape:
    """A drawing's number and name, and the shape of its ink: width and height in shares of its canvas's width."""

    number: int
    name: str
    width: float
    height: float

    @classmethod
    def of(cls, drawing: Drawing, measures: Measures) -> "InkShape":
        """The shape in a drawing's measures."""
        box = measures.box
        scale = measures.width or 1
        return cls(drawing.number, drawing.name, box.width / scale if box else 0.0, box.height / scale if box else 0.0)


@dataclass(frozen=True, slots=True)
class Proposal:
    """Sounds for a drawing, and why."""

    number: int
    shows: tuple[str, ...]
    why: str


def classes_in_name(name: str) -> tuple[str, ...]:
    """The classes that a drawing's name hints at; () when it hints at none."""
    plain = unicodedata.normalize("NFC", name).casefold()
    if match := re.search(r"viseme[\s_-]*0*(\d{1,2})(?!\d)", plain):
        number = int(match[1])
        return MPEG4[number] if number < len(MPEG4) else ()
    words = [word for word in re.split(r"[\W\d_]+", plain) if word]
    if phonetic := [_LETTERS_OF[w] for w in words if w in _LETTERS_OF]:
        return tuple(dict.fromkeys(phonetic))
    for phrase, classes in _PHRASES.items():
        if any(tuple(words[at : at + len(phrase)]) == phrase for at in range(len(words))):
            return classes
    for viseme in VISEMES:
        if viseme in plain:
            return (viseme,)
    found: list[str] = []
    for word in words:
        found += _WORDS.get(word) or _spelt(word)
    return tuple(dict.fromkeys(found))


def _spelt(word: str) -> tuple[str, ...]:
    """The classes of a short word that is nothing but spelled sounds: "pbm", "oo", "th"; () for any other."""
    if len(word) > 4:
        return ()
    left, out = word, []
    while left:
        spelling = next((s for s in sorted(_SPELLINGS, key=len, reverse=True) if left.startswith(s)), None)
        if spelling is None:
            return ()
        out.append(_SPELLINGS[spelling])
        left = left[len(spelling) :]
    # Letters glued into a word ("top", "leo") are a word; those of one look ("pbm", "fv"), or one spelling, are sounds.
    return tuple(dict.fromkeys(out)) if len(set(out)) == 1 else ()


def propose(looks: Sequence[InkShape]) -> list[Proposal]:
    """Suggested sounds for drawings that show nothing yet, in their order.

    By names, if at least a third of them hint at sounds and the shapes do not contradict; if names are numbers and the
    chart has the size and shapes of a starter chart, as in that chart; else by shape. Drawings without a suggestion are
    left out.
    """
    plain = _without_what_all_share([look.name for look in looks])
    hinting = [(look, classes) for look, name in zip(looks, plain, strict=True) if (classes := classes_in_name(name))]
    believed = _believed(hinting, looks)
    if looks and len(hinting) * 3 >= len(looks) and len(believed) * 3 >= len(hinting) * 2:
        return _once(
            [Proposal(look.number, classes, Message("suggested.by_name", name=look.name)) for look, classes in believed]
        )
    starters = {d.number: d for d in STARTER.drawings}
    if {look.number for look in looks} == set(starters) and all(_is_number(look) for look in looks):
        as_numbered = [(look, starters[look.number].shows) for look in looks]
        if len(_believed(as_numbered, looks)) == len(looks):
            return [
                Proposal(n, d.shows, Message("suggested.by_number", number=n, name=d.name)) for n, d in starters.items()
            ]
    return by_shape(looks)


#: A word in this share of a chart's names says nothing about any of them, like the m in "m_01" to "m_14".
_SHARED = 0.6


def _without_what_all_share(names: Sequence[str]) -> list[str]:
    """Names without the words that most of them share."""
    split = [re.split(r"([\W\d_]+)", name.casefold()) for name in names]
    counts = Counter(word for words in split for word in set(words) if word.isalpha())
    shared = {word for word, count in counts.items() if len(names) > 2 and count > _SHARED * len(names)}
    return ["".join(word for word in words if word not in shared) for words in split]


#: Opening of a drawing, from 0 for the flattest of its chart to 1 for the highest: closed lips are open by no more than
#: the first, a wide open mouth by no less than the second.
_CLOSED_MOST, _OPEN_LEAST = 0.6, 0.3


def _believed(
    hinting: Sequence[tuple[InkShape, tuple[str, ...]]], looks: Sequence[InkShape]
) -> list[tuple[InkShape, tuple[str, ...]]]:
    """The hints that a drawing's shape does not contradict."""
    heights = [look.height for look in looks]
    low, span = min(heights, default=0.0), max(heights, default=0.0) - min(heights, default=0.0)
    if span <= 0.02:
        # All drawings are of one height: shapes say nothing.
        return list(hinting)

    def fits(look: InkShape, classes: tuple[str, ...]) -> bool:
        opening = (look.height - low) / span
        if any(viseme in ("rest", "bilabial") for viseme in classes) and opening > _CLOSED_MOST:
            return False
        return not ("open" in classes and len(classes) == 1 and opening < _OPEN_LEAST)

    return [(look, classes) for look, classes in hinting if fits(look, classes)]


def _is_number(look: InkShape) -> bool:
    digits = re.findall(r"\d+", look.name)
    return bool(digits) and int(digits[-1]) == look.number


def _once(proposals: list[Proposal]) -> list[Proposal]:
    """If one drawing alone is named for rest or closed lips, only that one gets the class."""
    alone = {p.shows[0] for p in proposals if len(p.shows) == 1}
    out = []
    for proposal in proposals:
        shows = proposal.shows if len(proposal.shows) == 1 else tuple(v for v in proposal.shows if v not in alone)
        if shows:
            out.append(Proposal(proposal.number, shows, proposal.why))
    return out


def _shape(look: InkShape, widest: float, flattest: float, highest: float) -> tuple[float, float, float]:
    """Opening 0 to 1, spread -1 (narrow) to 1 (wide), roundness 0 to 1, against the chart's extremes."""
    opening = (look.height - flattest) / max(1e-6, highest - flattest)
    across = look.width / max(1e-6, widest)
    aspect = look.height / max(1e-6, look.width)
    return opening, across, min(1.0, aspect)


def by_shape(looks: Sequence[InkShape]) -> list[Proposal]:
    """A matching from opening, width and roundness: each class goes to the drawing whose shape is nearest.

    Teeth and tongue cannot be told from an outline: sounds that differ by them fall on the same drawings.
    """
    inked = [look for look in looks if look.height > 0]
    if not inked:
        return []
    widest = max(look.width for look in inked)
    flattest, highest = min(look.height for look in inked), max(look.height for look in inked)
    shapes = np.array([_shape(look, widest, flattest, highest) for look in inked])
    shows: dict[int, list[str]] = {look.number: [] for look in inked}
    why = {
        look.number: Message("suggested.by_shape", opening=o, width=a)
        for look, (o, a, _) in zip(inked, shapes, strict=True)
    }
    for viseme in VISEMES:
        shows[inked[int(np.argmin(_misfits(shapes, viseme)))].number].append(viseme)
    return [Proposal(look.number, tuple(shows[look.number]), why[look.number]) for look in inked if shows[look.number]]


def _misfits(shapes: NDArray[np.float64], viseme: str) -> NDArray[np.float64]:
    """How badly each shape (opening, width, roundness) fits a class."""
    jaw, spread, rounding, closed = (float(part) for part in vector(viseme)[:4])
    if closed >= 0.5:
        return shapes[:, 0] - 0.05 * shapes[:, 1] * (viseme == "rest")
    wanted = np.array([0.15 + 0.85 * jaw, 0.7 + 0.3 * spread - 0.45 * rounding, 0.2 + 0.5 * jaw + 0.6 * rounding])
    misfits: NDArray[np.float64] = np.abs(shapes - np.minimum(wanted, 1)) @ np.array([1.0, 0.9, 0.5])
    return misfits


def closing_drawing(looks: Sequence[InkShape]) -> int | None:
    """The drawing that looks closed: much flatter than the most open one; None when none does."""
    inked = [look for look in looks if look.height > 0]
    if len(inked) < 2:
        return None
    flattest, highest = min(inked, key=lambda k: k.height), max(inked, key=lambda k: k.height)
    return flattest.number if flattest.height < 0.35 * highest.height and flattest.width > flattest.height else None
