"""What the frame solver is asked, and what it answers."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SolverError


@dataclass(frozen=True, slots=True)
class Dials:
    """How a character's mouth is timed.

    `lead` frames before the sound; `shortest` frames a hold lasts; `change_cost` what a new
    drawing costs, in frames of a wrong vowel (higher: fewer mouths); `gap_us` the silence that
    closes the mouth.
    """

    lead: int = 1
    shortest: int = 2
    change_cost: float = 0.16
    gap_us: int = 220_000

    def __post_init__(self) -> None:
        if not (0 <= self.lead <= 12 and 1 <= self.shortest <= 48 and self.change_cost >= 0 and self.gap_us >= 0):
            raise SolverError("A dial is outside its range: lead 0 to 12 frames, shortest hold 1 to 48.")


@dataclass(frozen=True)
class Problem:
    """Frames by drawings, in whole cost units so that every machine decides alike.

    `costs` has shape (frames, drawings), dtype int64, zero or more: what it costs to show a
    drawing on a frame. `change` is added for every hold after the first. `shortest` is the least
    length of a hold; a problem shorter than it is one hold.
    """

    costs: NDArray[np.int64]
    change: int
    shortest: int

    def __post_init__(self) -> None:
        if self.costs.ndim != 2 or self.costs.shape[1] == 0 or self.costs.dtype != np.int64:
            raise SolverError("Costs must be whole numbers, a row per frame and a column per drawing.")
        if self.change < 0 or self.shortest < 1:
            raise SolverError("A change cannot pay, and a hold lasts at least one frame.")


@dataclass(frozen=True, slots=True)
class Hold:
    """A drawing kept on frames `[start, end)`, with the viseme class it is there for.

    `set` names the chart its number is from; "" is the character's first.
    """

    start: int
    end: int
    drawing: int
    viseme: str
    set: str = ""
