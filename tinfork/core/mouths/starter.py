"""The starter chart: mouths of our own, drawn by rule, in several sizes of chart."""

from collections.abc import Mapping

import numpy as np

from tinfork.core.errors import ChartError
from tinfork.core.mouths.articulation import vector
from tinfork.core.mouths.chart import BIG, SMALL, Chart, Drawing
from tinfork.core.mouths.draw import draw_mouth
from tinfork.core.mouths.shape import shape_of
from tinfork.core.mouths.style import Mood, Style

_FOURTEEN = (
    ("rest", "rest"),
    ("lips together", "bilabial"),
    ("lip on teeth", "labiodental"),
    ("tongue between teeth", "dental"),
    ("tongue up", "alveolar", "velar"),
    ("teeth together", "sibilant"),
    ("tongue on the ridge", "lateral"),
    ("lips forward, teeth", "postalveolar"),
    ("lips drawn in", "rhotic"),
    ("small round", "close-rounded"),
    ("round", "mid-rounded"),
    ("wide", "close-spread"),
    ("half open", "mid"),
    ("wide open", "open"),
)
_EIGHT = (
    ("rest", "rest"),
    ("lips together", "bilabial"),
    ("lip on teeth", "labiodental"),
    ("teeth", "alveolar", "sibilant", "velar", "dental", "lateral"),
    ("lips forward", "postalveolar", "rhotic", "close-rounded"),
    ("round", "mid-rounded"),
    ("wide", "close-spread", "mid"),
    ("wide open", "open"),
)
_THREE = (
    ("closed", "rest", "bilabial"),
    ("half open", "labiodental", "alveolar", "sibilant", "mid"),
    ("open", "open", "mid-rounded"),
)
#: Vowels that also have a small and a big drawing.
_SIZED = ("mid-rounded", "close-spread", "mid", "open")


def _drawings(rows: tuple[tuple[str, ...], ...]) -> tuple[Drawing, ...]:
    return tuple(Drawing(number, row[0], row[1:]) for number, row in enumerate(rows, start=1))


def _with_sizes() -> tuple[Drawing, ...]:
    """The chart of fourteen, with a small and a big drawing of each main vowel added."""
    out = list(_drawings(_FOURTEEN))
    for viseme in _SIZED:
        name = next(d.name for d in out if viseme in d.shows)
        for size, word in ((SMALL, "small"), (BIG, "big")):
            out.append(Drawing(len(out) + 1, f"{name}, {word}", (viseme,), size))
    return tuple(out)


STARTER = Chart(_drawings(_FOURTEEN))

#: The charts that can be drawn, by their number of drawings.
STARTERS: Mapping[int, Chart] = {
    3: Chart(_drawings(_THREE)),
    8: Chart(_drawings(_EIGHT)),
    14: STARTER,
    22: Chart(_with_sizes()),
}


def starter_chart(drawings: int) -> Chart:
    """The starter chart of so many drawings.

    Raises
    ------
    ChartError
        For a number of drawings that there is none of.
    """
    if drawings not in STARTERS:
        raise ChartError("starter.number_of_drawings", map=", ".join(map(str, STARTERS)), drawings=drawings)
    return STARTERS[drawings]


def picture_of(drawing: Drawing, style: Style | None = None) -> str:
    """The SVG text of a drawing, by the articulation of what it shows."""
    style = style or Style()
    # A mouth for closed lips must be closed, whatever else it is used for.
    closing = [claim for claim in drawing.shows if vector(claim)[3] >= 0.5]
    seen = np.mean([vector(claim) for claim in closing or drawing.shows], axis=0)
    mood = style.mood
    opening = mood.opening * {SMALL: 0.6, BIG: 1.3}.get(drawing.size, 1.0)
    return draw_mouth(
        shape_of(seen, Mood(mood.lift, mood.lean, min(1.6, max(0.5, opening)))), style, title=drawing.name
    )


def starter_pictures(style: Style | None = None, drawings: int = 14) -> dict[int, str]:
    """The SVG text of each drawing of a starter chart, by number."""
    return {drawing.number: picture_of(drawing, style) for drawing in starter_chart(drawings).drawings}
