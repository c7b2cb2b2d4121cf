"""The holds of a column as arrays, so that all of them can be counted and searched at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.solver.problem import Hold
from tinfork.core.speech.visemes import VISEMES

#: The index of each viseme class in `VISEMES`.
VISEME_AT = {viseme: at for at, viseme in enumerate(VISEMES)}

Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class HoldColumns:
    """Holds in time order as arrays of shape (holds,).

    Frames `[start, end)`, the drawing, the index of the viseme class in `VISEMES` (-1 for an unknown class) and of the
    set in `set_names`.
    """

    starts: Ints
    ends: Ints
    drawings: Ints
    visemes: Ints
    sets: Ints
    set_names: tuple[str, ...]

    @classmethod
    def of(cls, holds: Sequence[Hold], set_names: tuple[str, ...] = ()) -> "HoldColumns":
        """Arrays of some holds; sets in `set_names` keep their indices."""
        names = (*set_names, *sorted({hold.set for hold in holds} - set(set_names)))
        set_at = {name: at for at, name in enumerate(names)}
        return cls(
            np.array([hold.start for hold in holds], dtype=np.int64),
            np.array([hold.end for hold in holds], dtype=np.int64),
            np.array([hold.drawing for hold in holds], dtype=np.int64),
            np.array([VISEME_AT.get(hold.viseme, -1) for hold in holds], dtype=np.int64),
            np.array([set_at[hold.set] for hold in holds], dtype=np.int64),
            names,
        )

    def with_holds(self, at: int, until: int, holds: Sequence[Hold]) -> "HoldColumns":
        """These holds with those at `[at, until)` replaced."""
        new = HoldColumns.of(holds, self.set_names)
        starts, ends, drawings, visemes, sets = (
            np.concatenate([mine[:at], put, mine[until:]])
            for mine, put in zip(self._numbers, new._numbers, strict=True)
        )
        return HoldColumns(starts, ends, drawings, visemes, sets, new.set_names)

    @property
    def _numbers(self) -> tuple[Ints, Ints, Ints, Ints, Ints]:
        return self.starts, self.ends, self.drawings, self.visemes, self.sets

    def __len__(self) -> int:
        return len(self.starts)

    def on(self, frames: NDArray[np.integer]) -> NDArray[np.intp]:
        """The index of the hold that covers each frame; the first or the last one for frames outside."""
        return np.clip(np.searchsorted(self.starts, frames, side="right") - 1, 0, len(self) - 1)

    def frames(self, at: int) -> tuple[int, int]:
        """The frames `[start, end)` of one hold."""
        return int(self.starts[at]), int(self.ends[at])
