"""What the frame solver is asked, and what it answers."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SolverError


@dataclass(frozen=True, slots=True)
class Dials:
    """How a character's mouth is timed.

    `lead` frames before the sound; `shortest` frames a hold lasts; `detail` from 0 (a few accents) to 100 (every
    sound); `gap_us` the silence that closes the mouth; `strength` from 0 to 100, how far loudness opens it (50: as
    measured); `approach` frames in which a wide mouth is come near to. `by_loudness`: the mouth flaps with the
    loudness, whatever the words; for crowds. `grid`: holds begin on every frame (1), every second, every third one,
    counted from the first.
    """

    lead: int = 1
    shortest: int = 2
    detail: int = 50
    gap_us: int = 220_000
    strength: int = 50
    approach: int = 1
    by_loudness: bool = False
    grid: int = 1

    def __post_init__(self) -> None:
        for name, (low, high) in RANGES.items():
            value = getattr(self, name)
            if not isinstance(value, int) or not low <= value <= high:
                raise SolverError("settings.outside", name=name, low=low, high=high)

    @property
    def change_cost(self) -> float:
        """What a new drawing costs, in frames of a wrong vowel: less with more detail, nothing at all of it."""
        return 0.0 if self.detail == 100 else 0.16 * 10 ** ((50 - self.detail) / 40)


#: From where to where each dial goes.
RANGES: dict[str, tuple[int, int]] = {
    "lead": (0, 12),
    "shortest": (1, 48),
    "detail": (0, 100),
    "gap_us": (0, 5_000_000),
    "strength": (0, 100),
    "approach": (0, 4),
    "grid": (1, 4),
}

#: Dials that people ask for by name.
PRESETS: dict[str, Dials] = {
    "on ones, full": Dials(lead=1, shortest=1, detail=85, gap_us=160_000, strength=60, approach=2),
    "on twos": Dials(),
    "locked on twos": Dials(grid=2),
    "sparse, on threes": Dials(lead=2, shortest=3, detail=25, gap_us=320_000, strength=50, approach=0),
    "few accents": Dials(lead=2, shortest=4, detail=5, gap_us=420_000, strength=70, approach=0),
    "flap": Dials(lead=0, shortest=2, detail=40, approach=0, by_loudness=True),
}


def dials_from(values: Mapping[str, object], usual: Dials | None = None) -> Dials:
    """Dials from plain values; what is not named is as in `usual`. Raises `SolverError` for values that are none."""
    known = {name: value for name, value in values.items() if name in RANGES or name == "by_loudness"}
    if not all(isinstance(value, int) for value in known.values()):
        raise SolverError("settings.not_whole")
    return replace(usual or Dials(), **known)  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True)
class Fixed:
    """A stretch of frames `[start, end)` that shows one drawing, of the columns it allows."""

    start: int
    end: int
    allowed: tuple[int, ...]


#: Frames `[start, end)`, and the columns that a pin allows there; None where they are free.
Region = tuple[int, int, tuple[int, ...] | None]


@dataclass(frozen=True)
class Problem:
    """Frames by drawings, in whole cost units so that every machine decides alike.

    `costs` has shape (frames, drawings), dtype int64, zero or more: what it costs to show a
    drawing on a frame. `change` is added for every hold after the first. `shortest` is the least
    length of a hold, where pins leave that much room. `fixed` are pinned stretches in order, which do not overlap.
    Holds begin on frames that `grid` divides, and where a pin ends.
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
        """All frames in order: free stretches (None) and pinned ones with what they allow."""
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


#: The drawing number of no mouth at all.
NO_MOUTH = -1


@dataclass(frozen=True, slots=True)
class FramePin:
    """Frames `[start, end)` whose mouth a person decided about; see `soundtrack.model.PinnedMouth`."""

    start: int
    end: int
    drawing: int | None = None
    set: str = ""
    is_exact: bool = True


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
