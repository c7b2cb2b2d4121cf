"""Where a drawing is placed on the face, and the face in the frame."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from tinfork.core.errors import ChartError


@dataclass(frozen=True, slots=True)
class Placement:
    """Where a part of the face is placed on the face picture, as shares of that picture's width and height.

    Drawings are registered on (`x`, `y`); `width` is that of the chart's usual canvas; `angle` turns them,
    degrees clockwise. `aspect` is the face picture's width by its height; it is fitted whole into the frame, centred.
    """

    x: float
    y: float
    width: float
    aspect: float = 16 / 9
    angle: float = 0.0

    def __post_init__(self) -> None:
        ok = -0.5 <= self.x <= 1.5 and -0.5 <= self.y <= 1.5 and 0.005 <= self.width <= 3 and -180 <= self.angle <= 180
        if not (ok and 0.05 <= self.aspect <= 20):
            raise ChartError("placement.outside")

    def to_dict(self) -> dict[str, float]:
        """The place as plain values, without the picture's aspect."""
        return {"x": self.x, "y": self.y, "width": self.width, "angle": self.angle}

    @classmethod
    def from_dict(cls, at: Mapping[str, Any], aspect: float) -> "Placement":
        """The place on a picture of an aspect.

        Raises
        ------
        KeyError
            For what is none.
        TypeError
            For what is none.
        ValueError
            For what is none.
        ChartError
            For one that is outside.
        """
        return cls(float(at["x"]), float(at["y"]), float(at["width"]), aspect, float(at["angle"]))

    def in_frame(self, size: tuple[float, float]) -> tuple[float, float, float]:
        """The point drawings are registered on and the usual canvas's width, in pixels of a frame of `size`."""
        width = min(float(size[0]), size[1] * self.aspect)
        height = width / self.aspect
        left, top = (size[0] - width) / 2, (size[1] - height) / 2
        return left + self.x * width, top + self.y * height, self.width * width


@dataclass(frozen=True, slots=True)
class Registration:
    """A drawing's canvas and the point it is lined up on, in its own pixels.

    `canvas_width` is how many of its pixels the chart's usual canvas is wide: drawings keep their relative sizes,
    whatever their resolution. The registration point (`x`, `y`) is put on the placement's point, moved by the offset
    (`dx`, `dy`).
    """

    width: int
    height: int
    canvas_width: float
    x: float
    y: float
    dx: float = 0.0
    dy: float = 0.0

    @classmethod
    def centred(cls, width: int, height: int) -> "Registration":
        """A drawing of the usual canvas, lined up on its centre."""
        return cls(width, height, width, width / 2, height / 2)


@dataclass(frozen=True, slots=True)
class PlacedPicture:
    """A drawing in the frame, in pixels: its centre, its size before turning, and its angle in degrees clockwise."""

    x: float
    y: float
    width: float
    height: float
    angle: float


def lay(placement: Placement, registration: Registration, size: tuple[float, float]) -> PlacedPicture:
    """Where a drawing is in a frame of `size` pixels."""
    x, y, width = placement.in_frame(size)
    scale = width / registration.canvas_width
    # From the registration point to the drawing's centre, offset included, turned with the placement.
    across = scale * (registration.width / 2 - registration.x + registration.dx)
    down = scale * (registration.height / 2 - registration.y + registration.dy)
    turn = math.radians(placement.angle)
    return PlacedPicture(
        x + across * math.cos(turn) - down * math.sin(turn),
        y + across * math.sin(turn) + down * math.cos(turn),
        scale * registration.width,
        scale * registration.height,
        placement.angle,
    )
