"""The problem that the solver gets, and the holds that it returns."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SolverError


@dataclass(frozen=True, slots=True)
class Fixed:
    """A stretch of frames `[start, end)` that shows one drawing: one of the columns `allowed`."""

    start: int
    end: int
    allowed: tuple[int, ...]


#: Frames `[start, end)`, and the columns that a pin allows there; None for free frames.
Region = tuple[int, int, tuple[int, ...] | None]


@dataclass(frozen=True)
class Problem:
    """A problem of frames by drawings, in whole cost units, so that every machine gets the same result.

    `costs` has shape (frames, drawings), dtype int64, zero or more: what the cost of showing a drawing on a frame.
    `change` is added for every hold after the first. `shortest` is the least length of a hold, unless pins leave less
    room. `fixed` are pinned stretches in order, which do not overlap. Holds begin on frames that `grid` divides, and
    where a pin ends.
    """

    costs: NDArray[np.int64]
    change: int
    shortest: int
    fixed: tuple[Fixed, ...] = ()
    grid: int = 1

    def __post_init__(self) -> None:
        if self.costs.ndim != 2 or self.costs.shape[1] == 0 or self.costs.dtype != np.int64:
            raise SolverError("solver.costs")
        if self.change < 0 or self.shortest < 1 or self.grid < 1:
            raise SolverError("solver.change_cost")
        last = 0
        for pin in self.fixed:
            if not (last <= pin.start < pin.end <= len(self.costs)) or not pin.allowed:
                raise SolverError("solver.pins")
            last = pin.end

    @cached_property
    def regions(self) -> tuple[Region, ...]:
        """All frames in order: free stretches (None) and pinned ones with the columns they allow."""
        out: list[Region] = []
        at = 0
        for pin in self.fixed:
            if pin.start > at:
                out.append((at, pin.start, None))
            out.append((pin.start, pin.end, pin.allowed))
            at = pin.end
        if at < len(self.costs):
            out.append((at, len(self.costs), None))
        return tuple(out)

    @cached_property
    def _free_before(self) -> dict[int, int]:
        """The start of each free stretch, by its end."""
        return {end: start for start, end, allowed in self.regions if allowed is None}

    def room_before(self, start: int) -> int:
        """The start of the free frames before a pin; the pin's own start if there are none."""
        return self._free_before.get(start, start)


#: The drawing number that stands for no mouth.
NO_MOUTH = -1


@dataclass(frozen=True, slots=True)
class FramePin:
    """Frames `[start, end)` whose mouth a person set; see `soundtrack.model.PinnedMouth`."""

    start: int
    end: int
    drawing: int | None = None
    set: str = ""
    is_exact: bool = True


@dataclass(frozen=True, slots=True)
class Hold:
    """A drawing kept on frames `[start, end)`, with the viseme class that it shows.

    `set` names the chart its number is from; "" is the character's first.
    """

    start: int
    end: int
    drawing: int
    viseme: str
    set: str = ""
