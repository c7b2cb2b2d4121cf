"""A mouth chart: the drawings of a character and the sounds each one shows.

A drawing claims whole viseme classes ("bilabial") or single sounds ("m"); a claim to a single sound takes precedence
over one to its class. A sound that no drawing claims is shown by the drawing with the least articulatory distance, so
that a chart of three mouths works as well as one of twenty-five.
"""

from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import ChartError
from tinfork.core.mouths.articulation import SOUND_VECTORS, distance, vector
from tinfork.core.speech.visemes import CLASSES, REST, SOUNDS, VISEMES, class_of, typical_sounds

#: The least distance of a drawing from a sound that it does not claim.
_UNCLAIMED = 0.05

#: Sizes of a mouth: for quiet or short sounds, for any, for loud or long ones.
SMALL, ANY, BIG = -1, 0, 1

#: The most drawings in a chart.
MAX_DRAWINGS = 200
#: The most tracings of a drawing.
MAX_TRACINGS = 7
#: The most sets of a part, and parts of a character.
MAX_SETS, MAX_PARTS = 40, 12

#: Keys for drawings, in the order they are given: the left hand's block first, then the figures, then what is left.
#: The right hand's keys stay with playback.
KEYS = "asdfgqwertzxcvb1234567890yuhm"


def free_keys(taken: Collection[str], count: int) -> list[str]:
    """`count` keys that are not taken; "" once there are none left."""
    free = [key for key in KEYS if key not in taken][:count]
    return free + [""] * (count - len(free))


@dataclass(frozen=True, slots=True)
class Drawing:
    """One mouth of a chart: its number, its name, the classes and sounds it shows, its size.

    A drawing that shows no sounds is special: it is only set by hand.
    """

    number: int
    name: str
    shows: tuple[str, ...] = ()
    size: int = ANY

    def __post_init__(self) -> None:
        if self.number < 0:
            raise ChartError("chart.number_below_zero", number=self.number)
        if self.size not in (SMALL, ANY, BIG):
            raise ChartError("chart.unknown_size", number=self.number)
        for claim in self.shows:
            if claim not in VISEMES and claim not in SOUNDS:
                raise ChartError("chart.not_a_sound", number=self.number, claim=claim)

    @property
    def viseme(self) -> str:
        """The first class that it shows; rest for a special drawing."""
        return next((claim if claim in VISEMES else class_of(claim) for claim in self.shows), REST)

    @property
    def articulation(self) -> NDArray[np.float64]:
        """The mean articulation of what it shows, shape (7,)."""
        mean: NDArray[np.float64] = np.mean([vector(claim) for claim in self.shows], axis=0)
        return mean


@dataclass(frozen=True)
class Chart:
    """The drawings that a solver may use: at least one, each number once."""

    drawings: tuple[Drawing, ...]

    def __post_init__(self) -> None:
        numbers = [d.number for d in self.drawings]
        if len(set(numbers)) != len(numbers):
            raise ChartError("chart.number_twice")
        if not any(d.shows for d in self.drawings):
            raise ChartError("chart.without_sounds")

    @cached_property
    def speaking(self) -> tuple[Drawing, ...]:
        """The drawings that show sounds; the others are only set by hand."""
        return tuple(d for d in self.drawings if d.shows)

    @cached_property
    def claims(self) -> NDArray[np.bool_]:
        """Which speaking drawing claims which sound, shape (drawings, sounds)."""
        table = np.zeros((len(self.speaking), len(SOUNDS)), dtype=bool)
        for column, sound in enumerate(SOUNDS):
            for claim in (sound, class_of(sound)):
                table[:, column] = [claim in d.shows for d in self.speaking]
                if table[:, column].any():
                    break
        return table

    @cached_property
    def distances(self) -> NDArray[np.float64]:
        """The distance of each speaking drawing from each sound, shape (drawings, sounds).

        It is zero if the drawing claims the sound, and only then.
        """
        shapes = np.stack([d.articulation for d in self.speaking])
        table = np.maximum(distance(shapes[:, None, :], SOUND_VECTORS[None, :, :]), _UNCLAIMED)
        table[self.claims] = 0.0
        return table

    @cached_property
    def sizes(self) -> NDArray[np.int64]:
        """The size of each speaking drawing, shape (drawings,)."""
        return np.array([d.size for d in self.speaking])

    def drawing_for(self, sound: str, size: int = ANY) -> Drawing:
        """The drawing that shows a sound, or a class by its best-known sound: one that claims it, else the nearest.

        Of several that claim it, the one nearest to the wanted size.
        """
        if sound not in SOUNDS:
            sound = typical_sounds(sound)[0]
        away = self.distances[:, SOUNDS.index(sound)] * 1000 + np.abs(self.sizes - size)
        return self.speaking[int(np.argmin(away))]

    @property
    def resting(self) -> Drawing:
        """The drawing that shows silence."""
        return self.drawing_for(REST)

    def is_claimed(self, sound: str) -> bool:
        """Whether some drawing claims a sound, itself or by its class."""
        return bool(self.claims[:, SOUNDS.index(sound)].any())

    def unclaimed(self) -> tuple[str, ...]:
        """The classes with a typical sound that no drawing claims."""
        return tuple(v for v in VISEMES if not all(map(self.is_claimed, typical_sounds(v) if CLASSES[v] else (REST,))))


def correspondence(of: Chart, to: Chart) -> dict[int, int]:
    """For each drawing number of one set, the number of the drawing in another set that shows the same.

    A speaking drawing is matched to the one nearest in articulation among those that share the most of its sounds, of
    the same size if possible. A special drawing is matched by its name, or left out.
    """
    names = {d.name.casefold(): d.number for d in to.drawings if not d.shows}
    pairs = {d.number: names[d.name.casefold()] for d in of.drawings if not d.shows and d.name.casefold() in names}
    shapes = np.stack([d.articulation for d in to.speaking])
    for row, drawing in enumerate(of.speaking):
        shared = (of.claims[row] & to.claims).sum(axis=1)
        away = distance(shapes, drawing.articulation) + 0.01 * np.abs(to.sizes - drawing.size)
        pairs[drawing.number] = to.speaking[int(np.lexsort((away, -shared))[0])].number
    return pairs
