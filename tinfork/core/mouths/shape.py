"""The rule from an articulation to the measures of a drawn mouth."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.mouths.style import Mood


@dataclass(frozen=True, slots=True)
class Shape:
    """A mouth in canvas units around its centre.

    `half_width` to the corners, `up` and `down` to the lips' inner edges at the middle,
    `square` 0 (pointed corners) to 1 (full, round corners), `corners` lifts both corners, `lean` lifts
    the right one and lowers the left, `upper_teeth` and `lower_teeth` are heights, `tongue` is the height of
    the tongue's back above the lower lip, `tip` shows the tongue's tip: "" not, "behind" or "between" the teeth.
    """

    half_width: float
    up: float
    down: float
    square: float = 0.45
    corners: float = 0.0
    lean: float = 0.0
    upper_teeth: float = 0.0
    lower_teeth: float = 0.0
    tongue: float = 0.0
    tip: str = ""
    closed: bool = False
    pressed: bool = False
    lip_bite: bool = False


def shape_of(articulation: NDArray[np.float64], mood: Mood | None = None) -> Shape:
    """Draw an articulation (shape (7,), see `PARTS`) in a mood.

    The jaw opens downwards more than up; spreading widens and rounding narrows; contact of the lips closes
    the mouth, and pressed lips fold. Teeth and tongue show by how far they are seen.
    """
    mood = mood or Mood()
    jaw, spread, rounding, closed, bite, tongue, teeth = (float(part) for part in articulation)
    half_width = 84 + 30 * spread - 54 * rounding + 6 * jaw
    lift, lean = 24 * mood.lift, 16 * mood.lean
    if closed >= 0.5:
        pressed = closed >= 0.95
        sag = 1.0 if pressed else 6.0
        corners = lift + (0.0 if pressed else 8.0)
        return Shape(
            half_width * (0.84 if pressed else 0.94), 0, sag, 0.45, corners, lean, closed=True, pressed=pressed
        )
    drop = jaw * mood.opening
    up, down = 15 + 40 * drop + 8 * rounding, 15 + 64 * drop + 8 * rounding
    if bite >= 0.5:
        down = 10.0
    # Teeth on the lip reach down to it.
    upper = up + down if bite >= 0.5 else 14 + 10 * teeth if teeth >= 0.3 else 0.0
    meeting = teeth >= 0.8 and jaw < 0.2
    return Shape(
        half_width=half_width,
        up=up,
        down=down,
        square=min(1.0, 0.45 + 0.45 * rounding + 0.15 * jaw + (0.25 if meeting else 0.0)),
        corners=lift * (1 - 0.5 * rounding) + 9 * spread,
        lean=lean,
        upper_teeth=upper,
        lower_teeth=max(0.0, up + down - upper) if meeting else 0.0,
        tongue=10 + 46 * tongue * (0.3 + drop) if 0.15 <= tongue < 0.8 and not meeting else 0.0,
        tip=("between" if teeth >= 0.6 else "behind") if tongue >= 0.8 else "",
        lip_bite=bite >= 0.5,
    )
