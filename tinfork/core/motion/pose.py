"""A pose: how something is moved, turned, stretched, leaned and sized relative to its usual place.

The same rule is in `static/js/lib/pose.js`; both are tested on `tests/golden/poses.json`.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tinfork.core.errors import TimingError
from tinfork.core.motion.bend import MOST, STRAIGHT, Bend, bend_of
from tinfork.core.scene.layout import Affine

#: The limits of each value of a pose.
LIMITS: dict[str, tuple[float, float]] = {
    "x": (-300.0, 300.0),
    "y": (-300.0, 300.0),
    "turn": (-360.0, 360.0),
    "stretch": (-200.0, 200.0),
    "lean": (-60.0, 60.0),
    "size": (-300.0, 300.0),
}
FIELDS = tuple(LIMITS)


@dataclass(frozen=True, slots=True)
class Pose:
    """The difference from the usual pose, which is all zeros.

    `x` and `y` move it to the right and down, in hundredths of the face picture's height; `turn` and `lean` are degrees
    clockwise. `stretch` makes it higher and narrower at the same area: 100 is twice as high. `size` makes it larger:
    100 is twice as large. `bend` pulls a drawing at nine points (`motion.bend`).
    """

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    stretch: float = 0.0
    lean: float = 0.0
    size: float = 0.0
    bend: Bend = STRAIGHT

    def __post_init__(self) -> None:
        for name, (low, high) in LIMITS.items():
            if not low <= getattr(self, name) <= high:
                raise TimingError("pose.outside", name=name, low=low, high=high)
        if self.bend and not all(-MOST <= pull <= MOST for pull in self.bend):
            raise TimingError("pose.bend_outside", most=MOST)

    @property
    def values(self) -> tuple[float, ...]:
        """The values without the bend, in the order of `FIELDS`."""
        return self.x, self.y, self.turn, self.stretch, self.lean, self.size

    @property
    def numbers(self) -> list[float]:
        """Six numbers in the order of `FIELDS`, then the eighteen of the bend, if there is one."""
        return [*self.values, *self.bend]

    @classmethod
    def of(cls, numbers: Sequence[float]) -> "Pose":
        """The pose with these `numbers`.

        Raises
        ------
        ValueError
            For more or fewer.
        """
        x, y, turn, stretch, lean, size = map(float, numbers[:6])
        return cls(x, y, turn, stretch, lean, size, bend_of(numbers[6:]))

    @classmethod
    def clamped(cls, values: Mapping[str, float], bend: Sequence[float] = STRAIGHT) -> "Pose":
        """The pose with these numbers, each clamped to its limits."""
        inside = {name: min(high, max(low, values.get(name, 0.0))) for name, (low, high) in LIMITS.items()}
        return cls(**inside, bend=bend_of([min(MOST, max(-MOST, pull)) for pull in bend]))


def in_words(pose: Pose) -> str:
    """The pose as text for a sheet: “down 2.5, turn -3°”; “rest” for the usual one."""
    words = {
        "right" if pose.x > 0 else "left": f"{abs(pose.x):g}" if pose.x else "",
        "down" if pose.y > 0 else "up": f"{abs(pose.y):g}" if pose.y else "",
        "turn": f"{pose.turn:g}°" if pose.turn else "",
        "stretch": f"{pose.stretch:g}" if pose.stretch else "",
        "lean": f"{pose.lean:g}°" if pose.lean else "",
        "size": f"{pose.size:g}" if pose.size else "",
    }
    told = [f"{name} {value}" for name, value in words.items() if value] + ["bent"] * bool(pose.bend)
    return ", ".join(told) or "rest"


#: The usual one.
NEUTRAL = Pose()


def pose_matrix(pose: Pose, pivot: tuple[float, float], height: float) -> Affine:
    """The affine map of a pose around a point, in pixels of a face picture of a given height."""
    size, stretch = 2 ** (pose.size / 100), 2 ** (pose.stretch / 100)
    move = Affine.moved(pivot[0] + pose.x / 100 * height, pivot[1] + pose.y / 100 * height)
    # Clockwise: what is above the point moves to the right.
    lean = Affine(1, 0, -math.tan(math.radians(pose.lean)), 1)
    scale = Affine(a=size / stretch, d=size * stretch)
    return move @ Affine.turned(pose.turn) @ lean @ scale @ Affine.moved(-pivot[0], -pivot[1])
