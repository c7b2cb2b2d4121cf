"""Line boil: lines that are never quite still, as those of drawings that were traced several times.

A drawing that was traced several times shows its tracings in turn. Any other takes turns of three variants, whose lines
are displaced by a smooth random field, a cubic B-spline over a grid (Unser 1999, "Splines: a perfect fit for signal and
image processing", IEEE Signal Processing Magazine 16); the same picture and variant have the same field, however large
it is drawn.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import FormatError
from tinfork.core.mouths.placement import Placement, Registration

#: How many variants take turns.
VARIANTS = 3
MOST_RHYTHM = 12
#: The mean displacement at full strength, and the length of the field's waves, in heights of a face.
_REACH, _WAVE = 0.012, 0.09


@dataclass(frozen=True, slots=True)
class Boil:
    """How a shot's lines boil: `strength` 0 (not at all) to 100; another variant every `rhythm` frames.

    Raises `FormatError` outside of that.
    """

    strength: int = 0
    rhythm: int = 2

    def __post_init__(self) -> None:
        if not (0 <= self.strength <= 100 and 1 <= self.rhythm <= MOST_RHYTHM):
            raise FormatError("boil.outside", most_rhythm=MOST_RHYTHM)

    @property
    def is_on(self) -> bool:
        """Whether anything is displaced."""
        return self.strength > 0

    def turn_on(self, frame: int) -> int:
        """The number of changes up to a frame."""
        return frame // self.rhythm

    def variant_on(self, frame: int) -> int:
        """The variant that is seen on a frame."""
        return self.turn_on(frame) % VARIANTS

    def to_dict(self) -> dict[str, int]:
        """As plain values; nothing for what is usual."""
        return {"strength": self.strength, "rhythm": self.rhythm} if self != Boil() else {}

    @classmethod
    def from_dict(cls, values: Mapping[str, Any]) -> "Boil":
        """Of plain values.

        Raises
        ------
        TypeError
            For what is none.
        ValueError
            For what is none.
        FormatError
            Outside of limits.
        """
        return cls(int(values.get("strength", 0)), int(values.get("rhythm", 2)))


#: The reach of a field is measured at no fewer points than this across and down.
_POINTS = 16


@dataclass(frozen=True, slots=True)
class Variant:
    """A variant of a picture that is `wide` heights of its face wide."""

    strength: int
    number: int
    wide: float


def drawing_width(place: Placement, at: Registration) -> float:
    """How wide a drawing is, in heights of the face that it is placed on."""
    return round(place.width * place.aspect * at.width / at.canvas_width, 4)


def displacement(variant: Variant, seed: int, size: tuple[int, int]) -> NDArray[np.float32]:
    """The displacement of each pixel to the right and down, in pixels.

    Shape (2, height, width) for a picture of `size` (width, height).

    `seed` is a number of the picture.
    """
    width, height = size
    across = variant.wide / _WAVE
    cells = across, across * height / width
    dice = np.random.default_rng([seed, variant.number])
    # Drawn row by row: another row, if a size is rounded up, does not change the others.
    grid = dice.standard_normal((math.ceil(cells[1]) + 3, 2, math.ceil(cells[0]) + 3))
    # Its reach is measured at the same resolution whatever the size, so that the field is the same at every size.
    points = tuple(max(_POINTS, math.ceil(4 * each)) for each in cells)
    measured = _field(grid, (points[0], points[1]), cells)
    reached = float(np.sqrt((measured**2).sum(axis=0).mean()))
    pixels = variant.strength / 100 * _REACH / variant.wide * width
    out: NDArray[np.float32] = (_field(grid, size, cells) * (pixels / max(reached, 1e-9))).astype(np.float32)
    return out


def _field(grid: NDArray[np.float64], size: tuple[int, int], cells: tuple[float, float]) -> NDArray[np.float64]:
    """The splines over a grid, so many cells of it across and down, at the middles of the pixels of a size."""
    rows, columns = _weights(size[1], cells[1], len(grid)), _weights(size[0], cells[0], grid.shape[2])
    out: NDArray[np.float64] = np.einsum("ya,akb,xb->kyx", rows, grid, columns, optimize=True)
    return out


def _weights(pixels: int, cells: float, knots: int) -> NDArray[np.float64]:
    """How much each row of a grid counts at each pixel: uniform cubic B-splines, shape (pixels, knots)."""
    at = (np.arange(pixels) + 0.5) / pixels * cells
    first = np.minimum(at.astype(int), knots - 4)
    t = at - first
    parts = (
        (1 - t) ** 3 / 6,
        (3 * t**3 - 6 * t**2 + 4) / 6,
        (-3 * t**3 + 3 * t**2 + 3 * t + 1) / 6,
        t**3 / 6,
    )
    out = np.zeros((pixels, knots))
    for n, part in enumerate(parts):
        out[np.arange(pixels), first + n] = part
    return out
