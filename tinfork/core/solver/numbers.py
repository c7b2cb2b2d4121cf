"""How a character's mouth is timed, in numbers: what an animator, and whoever makes the mouths, wants to know."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from tinfork.core.clock import FrameRate
from tinfork.core.solver.problem import NO_MOUTH, Hold

#: A mouth that is due again within so many frames cannot be removed, cleaned and put on: a second one is needed.
_SOON = 3


@dataclass(frozen=True, slots=True)
class Use:
    """One drawing of a set: how many holds and frames show it, and how many pieces a kit of sculpted mouths needs."""

    drawing: int
    set: str
    holds: int
    frames: int
    pieces: int


@dataclass(frozen=True, slots=True)
class Numbers:
    """`on` are shares of frames in holds of 1, 2, 3, and more frames."""

    uses: tuple[Use, ...]
    changes_per_second: float
    shortest: int
    on: tuple[float, ...]

    @property
    def pieces(self) -> int:
        """How many mouths a kit has in all."""
        return sum(use.pieces for use in self.uses)


def numbers_of(holds: Sequence[Hold], rate: FrameRate) -> Numbers:
    """The numbers of one character's holds over a shot, drawings by how long they are seen."""
    shown = [hold for hold in holds if hold.drawing != NO_MOUTH]
    frames = sum(hold.end - hold.start for hold in holds)
    count: Counter[tuple[str, int]] = Counter()
    seen: Counter[tuple[str, int]] = Counter()
    twins: set[tuple[str, int]] = set()
    last: dict[tuple[str, int], int] = {}
    lengths: Counter[int] = Counter()
    for hold in shown:
        key = (hold.set, hold.drawing)
        length = hold.end - hold.start
        count[key] += 1
        seen[key] += length
        lengths[min(length, 4)] += length
        if key in last and hold.start - last[key] < _SOON:
            twins.add(key)
        last[key] = hold.end
    seconds = frames / float(rate.value) if frames else 1.0
    uses = sorted(
        (Use(n, s, count[s, n], seen[s, n], 1 + ((s, n) in twins)) for s, n in count), key=lambda u: -u.frames
    )
    return Numbers(
        tuple(uses),
        (len(holds) - 1) / seconds if holds else 0.0,
        min((hold.end - hold.start for hold in shown), default=0),
        tuple(lengths[n] / max(sum(lengths.values()), 1) for n in (1, 2, 3, 4)),
    )


def differing(one: Sequence[Hold], other: Sequence[Hold]) -> list[tuple[int, int]]:
    """The stretches of frames `[start, end)` on which two columns show different mouths, or only one shows any."""
    edges = sorted({e for h in (*one, *other) for e in (h.start, h.end)})
    columns = [{h.start: h for h in holds} for holds in (one, other)]
    out: list[tuple[int, int]] = []
    shown: list[Hold | None] = [None, None]
    for start, end in pairwise(edges):
        for at, column in enumerate(columns):
            hold = column.get(start, shown[at])
            shown[at] = hold if hold and hold.end > start else None
        mouths = {(h.drawing, h.set) if h else None for h in shown}
        if len(mouths) > 1:
            if out and out[-1][1] == start:
                out[-1] = (out[-1][0], end)
            else:
                out.append((start, end))
    return out
