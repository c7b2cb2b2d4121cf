"""Statistics of a character's mouth over a shot, for animators and for whoever makes the mouths."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.kept import kept
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.problem import NO_MOUTH, Hold

#: A mouth needed again within this many frames cannot be removed, cleaned and put on in time: a second one is needed.
_SOON = 3


@dataclass(frozen=True, slots=True)
class Use:
    """Use of a drawing: how many holds and frames show it, and how many copies sculpted mouths need."""

    drawing: int
    set: str
    holds: int
    frames: int
    pieces: int


@dataclass(frozen=True, slots=True)
class Numbers:
    """Statistics of a shot; `on` are the shares of frames in holds of 1, 2, 3, and more frames."""

    uses: tuple[Use, ...]
    changes_per_second: float
    shortest: int
    on: tuple[float, ...]

    @property
    def pieces(self) -> int:
        """The total number of sculpted mouths."""
        return sum(use.pieces for use in self.uses)


@kept
def numbers_of(holds: HoldColumns, rate: FrameRate) -> Numbers:
    """The statistics of a character's holds over a shot, drawings sorted by how long they are shown."""
    frames = int((holds.ends - holds.starts).sum())
    is_shown = holds.drawings != NO_MOUTH
    starts, ends = holds.starts[is_shown], holds.ends[is_shown]
    lengths = ends - starts
    # Set and drawing combined into one number.
    most = int(holds.drawings.max(initial=0)) + 1
    shown = holds.sets[is_shown] * most + holds.drawings[is_shown]
    mouths = np.flatnonzero(np.bincount(shown))
    columns = np.searchsorted(mouths, shown)
    keys = [(holds.set_names[name], drawing) for name, drawing in (divmod(mouth, most) for mouth in mouths.tolist())]
    order = np.argsort(columns, kind="stable")
    again = (np.diff(columns[order]) == 0) & (starts[order][1:] - ends[order][:-1] < _SOON)
    pieces = np.ones(len(keys), dtype=np.int64)
    pieces[columns[order][1:][again]] = 2
    count = np.bincount(columns, minlength=len(keys)).tolist()
    seen = np.bincount(columns, weights=lengths, minlength=len(keys)).astype(np.int64).tolist()
    on = np.bincount(np.minimum(lengths, 4), weights=lengths, minlength=5)
    uses = [
        Use(drawing, name, held, length, piece)
        for (name, drawing), held, length, piece in zip(keys, count, seen, pieces.tolist(), strict=True)
    ]
    seconds = frames / float(rate.value) if frames else 1.0
    return Numbers(
        tuple(sorted(uses, key=lambda use: -use.frames)),
        (len(holds) - 1) / seconds if len(holds) else 0.0,
        int(lengths.min(initial=lengths[0])) if len(lengths) else 0,
        tuple(float(share) for share in on[1:] / max(lengths.sum(), 1)),
    )


def differing(one: Sequence[Hold], other: Sequence[Hold]) -> list[tuple[int, int]]:
    """The stretches of frames `[start, end)` in which two columns show different mouths, or only one shows any."""
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
