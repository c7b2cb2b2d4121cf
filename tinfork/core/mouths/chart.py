"""A mouth chart: the drawings of a character and the sounds each one shows.

What no drawing claims is shown by the nearest drawing by articulatory distance,
so a chart of three mouths works as well as one of twenty-five.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import ChartError
from tinfork.core.mouths.articulation import ALL_VECTORS, distance, vector
from tinfork.core.speech.visemes import REST, VISEMES


@dataclass(frozen=True, slots=True)
class Drawing:
    """One mouth of a chart: its number, its name, the viseme classes it shows."""

    number: int
    name: str
    visemes: tuple[str, ...]

    def __post_init__(self) -> None:
        if self.number < 0:
            raise ChartError(f"Drawing numbers start at 0; {self.number} is below it.")
        for viseme in self.visemes:
            if viseme not in VISEMES:
                raise ChartError(f"Drawing {self.number} claims “{viseme}”, which is no class of sounds.")

    @property
    def articulation(self) -> NDArray[np.float64]:
        """The mean articulation of what it shows, shape (7,)."""
        mean: NDArray[np.float64] = np.mean([vector(v) for v in self.visemes], axis=0)
        return mean


@dataclass(frozen=True)
class Chart:
    """The drawings that a solver may use: at least one, each number once."""

    drawings: tuple[Drawing, ...]

    def __post_init__(self) -> None:
        numbers = [d.number for d in self.drawings]
        if len(set(numbers)) != len(numbers):
            raise ChartError("Two drawings of the chart have the same number.")
        if not any(d.visemes for d in self.drawings):
            raise ChartError("No drawing of the chart shows any sound; say which sounds it shows.")

    @cached_property
    def speaking(self) -> tuple[Drawing, ...]:
        """The drawings that show sounds; the rest are set by hand only."""
        return tuple(d for d in self.drawings if d.visemes)

    @cached_property
    def distances(self) -> NDArray[np.float64]:
        """How far each speaking drawing is from each viseme class, shape (drawings, classes).

        Zero where the drawing claims the class.
        """
        shapes = np.stack([d.articulation for d in self.speaking])
        table = distance(shapes[:, None, :], ALL_VECTORS[None, :, :])
        for row, drawing in enumerate(self.speaking):
            for viseme in drawing.visemes:
                table[row, VISEMES.index(viseme)] = 0.0
        return table

    def drawing_for(self, viseme: str) -> Drawing:
        """The drawing that shows a class: one that claims it, else the nearest."""
        return self.speaking[int(np.argmin(self.distances[:, VISEMES.index(viseme)]))]

    @property
    def resting(self) -> Drawing:
        """The drawing of silence."""
        return self.drawing_for(REST)

    def unclaimed(self) -> tuple[str, ...]:
        """The classes that only a fallback shows."""
        claimed = {v for d in self.drawings for v in d.visemes}
        return tuple(v for v in VISEMES if v not in claimed)
