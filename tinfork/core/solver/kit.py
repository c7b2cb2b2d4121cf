"""How a shot would look with fewer mouths: sculptors want to know before they begin."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve_incrementally
from tinfork.core.speech.reading import Reading


@dataclass(frozen=True, slots=True)
class Fewer:
    """A chart of fewer drawings: which numbers stay, and how many frames show another class than with all."""

    numbers: tuple[int, ...]
    frames_off: int
    frames: int

    @property
    def share_off(self) -> float:
        """The share of frames that show another class, 0 to 1."""
        return self.frames_off / self.frames if self.frames else 0.0


def with_fewer(
    reading: Reading, chart: Chart, rate: FrameRate, speaker: str, dials: Dials, counts: Sequence[int]
) -> Iterator[Fewer]:
    """Charts with ever fewer drawings: the one that is missed least is removed, one after the other.

    One chart for each count below the chart's own, the largest first; each is solved anew.
    """
    whole = solve_incrementally(reading, chart, rate, speaker=speaker, dials=dials)
    due = _classes(whole.holds)
    left = list(range(len(chart.speaking)))
    for count in sorted({c for c in counts if 1 <= c < len(left)}, reverse=True):
        while len(left) > count:
            # The total cost without each of them.
            without = [whole.free.costs[:, [n for n in left if n != one]].min(axis=1).sum() for one in left]
            left.pop(int(np.argmin(without)))
        fewer = tuple(chart.speaking[n] for n in left)
        holds = solve_incrementally(reading, Chart(fewer), rate, speaker=speaker, dials=dials).holds
        off = sum(a != b for a, b in zip(_classes(holds), due, strict=True))
        yield Fewer(tuple(drawing.number for drawing in fewer), off, len(due))


def _classes(holds: Sequence[Hold]) -> list[str]:
    return [hold.viseme for hold in holds for _ in range(hold.start, hold.end)]
