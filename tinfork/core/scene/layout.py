"""Where characters stand in the shot's picture.

Conventions: pixels count from the picture's upper left corner, y runs down, angles are degrees clockwise. The same rule
is in `static/js/lib/lay.js`; both are tested on `tests/golden/stand.json`.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from tinfork.core.errors import FormatError
from tinfork.core.mouths.placement import Placement, Registration, lay

#: The limits of a character's size; 1 is its face picture fitted into the shot's picture.
SIZES = (0.02, 10.0)


@dataclass(frozen=True, slots=True)
class Affine:
    """A map of the plane: (x, y) goes to (a x + c y + e, b x + d y + f), as in SVG's `matrix(a b c d e f)`."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    def __matmul__(self, first: "Affine") -> "Affine":
        """The composition: the other map first, then this one."""
        return Affine(
            self.a * first.a + self.c * first.b,
            self.b * first.a + self.d * first.b,
            self.a * first.c + self.c * first.d,
            self.b * first.c + self.d * first.d,
            self.a * first.e + self.c * first.f + self.e,
            self.b * first.e + self.d * first.f + self.f,
        )

    def at(self, x: float, y: float) -> tuple[float, float]:
        """The image of a point."""
        return self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f

    @property
    def inverse(self) -> "Affine":
        """The inverse map."""
        det = self.a * self.d - self.b * self.c
        a, b, c, d = self.d / det, -self.b / det, -self.c / det, self.a / det
        return Affine(a, b, c, d, -(a * self.e + c * self.f), -(b * self.e + d * self.f))

    @classmethod
    def moved(cls, x: float, y: float) -> "Affine":
        """A shift."""
        return cls(e=x, f=y)

    @classmethod
    def scaled(cls, x: float, y: float) -> "Affine":
        """Scaling about the origin."""
        return cls(a=x, d=y)

    @classmethod
    def turned(cls, degrees: float) -> "Affine":
        """A clockwise turn about the origin."""
        cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        return cls(cos, sin, -sin, cos)


@dataclass(frozen=True, slots=True)
class Stand:
    """Where a character stands in the shot's picture.

    The centre of its face picture as shares of the shot's picture, its size (1: the whole face picture fitted into the
    shot's), its turn in degrees clockwise. A higher `depth` is in front.
    """

    x: float = 0.5
    y: float = 0.5
    size: float = 1.0
    turn: float = 0.0
    is_mirrored: bool = False
    depth: int = 0

    def __post_init__(self) -> None:
        is_near = -2 <= self.x <= 3 and -2 <= self.y <= 3
        if not (is_near and SIZES[0] <= self.size <= SIZES[1] and -180 <= self.turn <= 180 and abs(self.depth) <= 99):
            raise FormatError("layout.outside")

    def to_dict(self) -> dict[str, Any]:
        """As plain values."""
        return {
            "x": self.x,
            "y": self.y,
            "size": self.size,
            "turn": self.turn,
            "mirrored": self.is_mirrored,
            "depth": self.depth,
        }

    @classmethod
    def from_dict(cls, values: Any) -> "Stand":
        """From plain values.

        Raises
        ------
        FormatError
            For what is none.
        """
        try:
            numbers = [values[name] for name in ("x", "y", "size", "turn")]
            depth, mirrored = values["depth"], values["mirrored"]
        except (KeyError, TypeError, IndexError):
            numbers, depth, mirrored = [], None, None
        is_right = type(depth) is int and type(mirrored) is bool and len(numbers) == 4
        if not is_right or not all(type(n) in (int, float) and abs(n) < 1e6 for n in numbers):
            raise FormatError("layout.stand_incomplete")
        x, y, size, turn = (float(n) for n in numbers)
        return cls(x, y, size, turn, mirrored, depth)


def side_by_side(aspects: Sequence[float], picture: float = 16 / 9) -> tuple[Stand, ...]:
    """Where characters stand by default.

    One alone is in the middle; several stand side by side on the lower edge, each as large as its share of the width
    allows. `aspects` are their face pictures' width by height, `picture` the shot's.
    """
    count = len(aspects)
    if count <= 1:
        return (Stand(),) * count
    sizes = [max(SIZES[0], min(1.0, 1 / count / min(1.0, aspect / picture))) for aspect in aspects]
    highs = [size * min(1.0, picture / aspect) for size, aspect in zip(sizes, aspects, strict=True)]
    return tuple(
        Stand((n + 0.5) / count, 1 - high / 2, size, 0.0, False, n)
        for n, (size, high) in enumerate(zip(sizes, highs, strict=True))
    )


def figure_matrix(stand: Stand, aspect: float, size: tuple[float, float]) -> tuple[Affine, tuple[float, float]]:
    """The map from pixels of a character's face picture to those of the shot's picture of `size`.

    Also the size of the face picture there, before it is turned. `aspect` is its width by its height.
    """
    width = min(size[0], size[1] * aspect) * stand.size
    height = width / aspect
    place = Affine.moved(stand.x * size[0], stand.y * size[1])
    turn = Affine.turned(stand.turn) @ Affine.scaled(-1 if stand.is_mirrored else 1, 1)
    return place @ turn @ Affine.moved(-width / 2, -height / 2), (width, height)


def drawing_matrix(
    placement: Placement, registration: Registration, figure: Affine, face: tuple[float, float]
) -> tuple[Affine, tuple[float, float]]:
    """The map from pixels of a drawing to those of the shot's picture.

    Also the size of the drawing before it is turned; `figure` and `face` are those of `figure_matrix`.
    """
    laid = lay(placement, registration, face)
    onto = Affine.moved(laid.x, laid.y) @ Affine.turned(laid.angle) @ Affine.moved(-laid.width / 2, -laid.height / 2)
    return figure @ onto, (laid.width, laid.height)


def box_of(matrix: Affine, size: tuple[float, float]) -> tuple[float, float, float, float]:
    """The upright box (left, top, right, bottom) around a picture of `size` that is mapped."""
    corners = [matrix.at(x, y) for x in (0.0, size[0]) for y in (0.0, size[1])]
    across, down = [c[0] for c in corners], [c[1] for c in corners]
    return min(across), min(down), max(across), max(down)


def in_order(stands: Sequence[Stand]) -> list[int]:
    """The order in which characters are drawn: from the back to the front, those of equal depth as listed."""
    return sorted(range(len(stands)), key=lambda n: stands[n].depth)
