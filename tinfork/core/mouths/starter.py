"""The starter chart: fourteen mouths of our own, drawn by rule."""

from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.draw import Ink, Shape, draw_mouth

_MOUTHS: tuple[tuple[str, tuple[str, ...], Shape], ...] = (
    ("rest", ("rest",), Shape(82, 0, 6, corners=9)),
    ("lips together", ("bilabial",), Shape(66, 0, 1, pressed=True)),
    ("lip on teeth", ("labiodental",), Shape(78, 18, 10, square=0.6, upper_teeth=22, lip_bite=True)),
    ("tongue between teeth", ("dental",), Shape(82, 24, 28, upper_teeth=20, lower_teeth=8, tip=True)),
    ("tongue up", ("alveolar", "velar"), Shape(86, 24, 26, upper_teeth=20, tongue=16)),
    ("teeth together", ("sibilant",), Shape(92, 22, 22, square=0.75, upper_teeth=22, lower_teeth=22)),
    ("tongue on the ridge", ("lateral",), Shape(80, 30, 40, upper_teeth=16, tip=True)),
    ("lips forward, teeth", ("postalveolar",), Shape(62, 30, 30, square=0.9, upper_teeth=24, lower_teeth=22)),
    ("lips drawn in", ("rhotic",), Shape(54, 24, 26, square=0.9, upper_teeth=10, tongue=14)),
    ("small round", ("close-rounded",), Shape(32, 25, 27, square=0.85)),
    ("round", ("mid-rounded",), Shape(50, 48, 54, square=0.85, tongue=18)),
    ("wide", ("close-spread",), Shape(112, 22, 30, corners=8, upper_teeth=20, tongue=12)),
    ("half open", ("mid",), Shape(88, 34, 44, upper_teeth=18, tongue=22)),
    ("wide open", ("open",), Shape(94, 56, 78, square=0.6, upper_teeth=22, tongue=40)),
)

STARTER = Chart(tuple(Drawing(number, name, visemes) for number, (name, visemes, _) in enumerate(_MOUTHS, start=1)))


def starter_pictures(ink: Ink | None = None) -> dict[int, str]:
    """The SVG text of each drawing of `STARTER`, by number."""
    return {number: draw_mouth(shape, ink, title=name) for number, (name, _, shape) in enumerate(_MOUTHS, start=1)}
