"""The cheapest sequence of drawings whose holds all last long enough and whose pins stand: exact.

Dynamic programming over (frame, drawing), as for hidden semi-Markov models with a least duration (Ferguson 1980):
`ready[f, d]` is the least cost of frames 0..f with drawing d on f in a hold that may end there. It either continues a
ready hold, or a hold that began exactly `shortest` frames ago becomes ready. O(frames x drawings).

A pinned stretch is one step: whatever came before, one of the drawings it allows is shown from its first frame to its
last. Between two pins holds are as long as they must be, or, where pins leave less room, as long as the room; a hold
that runs into a pin of its own drawing is one with it.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tinfork.core.solver.problem import Problem, Region

_FAR = np.int64(2**60)


@dataclass
class Trellis:
    """The arrays of a search: `ready` as above; `step[f, d]`, how many frames the last step to it took, and `came`,
    the drawing before that step (-1: none).
    """

    problem: Problem
    ready: NDArray[np.int64] = field(init=False)
    step: NDArray[np.int32] = field(init=False)
    came: NDArray[np.int32] = field(init=False)
    _window: NDArray[np.int64] = field(init=False)
    _regions: tuple[Region, ...] = field(init=False)
    _free_before: dict[int, int] = field(init=False)

    def __post_init__(self) -> None:
        shape = self.problem.costs.shape
        self.ready = np.full(shape, _FAR)
        self.step = np.ones(shape, dtype=np.int32)
        self.came = np.tile(np.arange(shape[1], dtype=np.int32), (shape[0], 1))
        self._regions = self.problem.regions
        self._free_before = {end: start for start, end, allowed in self._regions if allowed is None}
        self._window = np.vstack([np.zeros((1, shape[1]), np.int64), np.cumsum(self.problem.costs, axis=0)])

    def run(self) -> None:
        """Fill the arrays."""
        for start, end, allowed in self._regions:
            self._region(start, end, allowed, start)

    def _region(self, start: int, end: int, allowed: tuple[int, ...] | None, first: int) -> None:
        if allowed is None:
            self._free(start, end, first, end)
        else:
            self._pinned(start, end, allowed)

    def _free(self, start: int, end: int, first: int, until: int) -> None:
        """Frames `[first, until)` of a free stretch."""
        least = min(self.problem.shortest, end - start)
        ready, window = self.ready, self._window
        opened = max(first, start + least - 1)
        for f in range(max(first, 1), min(opened, until)):
            # No new hold may end yet.
            np.add(ready[f - 1], self.problem.costs[f], out=ready[f])
        if opened == least - 1 and opened < until:
            # The first hold of all: nothing comes before it.
            ready[opened] = window[opened + 1]
            self.step[opened], self.came[opened] = least, -1
            opened += 1
        if opened >= until:
            return
        # What a hold costs that began `least` frames ago, for all frames at once.
        begins = slice(opened - least + 1, until - least + 1)
        fresh = window[opened + 1 : until + 1] - window[begins] + self.problem.change
        at_all = np.arange(begins.start, begins.stop)
        # Off the grid none begins, but after a pin.
        fresh[(at_all % self.problem.grid != 0) & (at_all != start)] = _FAR
        cheapest = np.empty(until - opened, dtype=np.int32)
        taken = np.empty(fresh.shape, dtype=bool)
        for at, f in enumerate(range(opened, until)):
            before, row, now = ready[f - least], ready[f], fresh[at]
            # The cheapest drawing so far does not change to itself: to go on with it costs no more.
            which = before.argmin()
            cheapest[at] = which
            now += before[which]
            now[which] = _FAR
            np.add(ready[f - 1], self.problem.costs[f], out=row)
            np.less(now, row, out=taken[at])
            np.minimum(now, row, out=row)
        self.step[opened:until][taken] = least
        self.came[opened:until] = np.where(taken, cheapest[:, None], self.came[opened:until])

    def _pinned(self, start: int, end: int, allowed: tuple[int, ...]) -> None:
        """One step over a pin; a hold that is short on its own may lead into it."""
        change, window = self.problem.change, self._window
        columns = np.array(allowed, dtype=np.intp)
        last = end - 1
        self.ready[start:end] = _FAR
        room = self._room_from(start)
        for longer in range(min(self.problem.shortest, start - room + 1)):
            begin = start - longer
            if longer and begin != room and begin % self.problem.grid:
                continue
            spent = window[end] - window[begin]
            if begin == 0:
                self._offer(last, columns, spent, end - begin, np.full(len(spent), -1))
                continue
            before, which = _cheapest_other(self.ready[begin - 1])
            self._offer(last, columns, before + change + spent, end - begin, which)
        if start:
            same = self.ready[start - 1] + (window[end] - window[start])
            self._offer(last, columns, same, end - start, np.arange(len(same)))

    def _go_on(self, before: "Trellis", first: int, last: int) -> None:
        """Take frames before `first` over, compute on from there, and stop once frames after `last` are as before."""
        self._take_over(before, 0, first, 0)
        for start, end, allowed in self._regions:
            if end <= first:
                continue
            if allowed is not None:
                self._pinned(start, end, allowed)
                continue
            at = max(start, first)
            while at < end:
                until = min(end, at + _AT_ONCE)
                self._free(start, end, at, until)
                at = until
                offset = self._offset(before, at) if at >= last + self.problem.shortest else None
                if offset is not None:
                    self._take_over(before, at, len(self.ready), offset)
                    return

    def _offset(self, before: "Trellis", at: int) -> np.int64 | None:
        """By how much all costs before a frame differ from what they were; None where not all by the same."""
        recent = slice(at - self.problem.shortest, at)
        mine, theirs = self.ready[recent], before.ready[recent]
        open_ = mine < _FAR
        if not open_.any() or (open_ != (theirs < _FAR)).any():
            return None
        apart = (mine - theirs)[open_]
        return np.int64(apart[0]) if (apart == apart[0]).all() else None

    def _take_over(self, before: "Trellis", first: int, last: int, offset: np.int64 | int) -> None:
        self.ready[first:last] = np.where(before.ready[first:last] < _FAR, before.ready[first:last] + offset, _FAR)
        self.step[first:last] = before.step[first:last]
        self.came[first:last] = before.came[first:last]

    def _offer(
        self, f: int, columns: NDArray[np.intp], cost: NDArray[np.int64], step: int, came: NDArray[np.integer]
    ) -> None:
        better = columns[cost[columns] < self.ready[f, columns]]
        self.ready[f, better] = cost[better]
        self.step[f, better] = step
        self.came[f, better] = came[better]

    def _room_from(self, start: int) -> int:
        """Where the free frames before a pin begin; the pin itself where there are none."""
        return self._free_before.get(start, start)

    def path(self) -> NDArray[np.intp]:
        """The drawing on every frame, shape (frames,); ties go to the lower column."""
        frames, drawings = self.ready.shape
        out = np.empty(frames, dtype=np.intp)
        # The last frame up to each whose step is not just one frame more of the same: what lies after it is one hold.
        turns = (self.step != 1) | (self.came != np.arange(drawings))
        turns_at = np.maximum.accumulate(np.where(turns, np.arange(frames)[:, None], -1), axis=0)
        f = frames - 1
        d = int(np.argmin(self.ready[f])) if frames else 0
        while f >= 0:
            turn = int(turns_at[f, d])
            taken = int(self.step[turn, d]) if turn >= 0 else 0
            out[turn - taken + 1 : f + 1] = d
            f, d = turn - taken, int(self.came[turn, d])
        return out


#: How many frames are computed before it is looked at whether the rest is as it was.
_AT_ONCE = 120


def resolve(before: Trellis, problem: Problem) -> Trellis:
    """The search of a problem that differs from one that was searched, from the first difference on, and only until
    all that follows is as it was. Its path is exactly that of a whole search.
    """
    old = before.problem
    new = Trellis(problem)
    same_shape = old.costs.shape == problem.costs.shape
    dials = [(one.change, one.shortest, one.grid) for one in (old, problem)]
    if not same_shape or dials[0] != dials[1]:
        new.run()
        return new
    rows = np.flatnonzero((old.costs != problem.costs).any(axis=1))
    # What a free stretch is follows from the pins beside it.
    pinned = [{r for r in regions if r[2] is not None} for regions in (old.regions, problem.regions)]
    other = pinned[0] ^ pinned[1]
    if not other and not len(rows):
        return before
    firsts = [max(0, start - problem.shortest) for start, *_ in other] + rows[:1].tolist()
    lasts = [end for _, end, _ in other] + [int(row) + 1 for row in rows[-1:]]
    new._go_on(before, min(firsts), max(lasts))
    return new


def _cheapest_other(row: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.intp]]:
    """For each drawing, the least cost among the other drawings, and which one (lowest index first)."""
    first = int(row.argmin())
    best = np.full_like(row, row[first])
    which = np.full(row.shape, first, dtype=np.intp)
    kept = row[first]
    row[first] = _FAR
    second = int(row.argmin())
    best[first], which[first] = row[second], second
    row[first] = kept
    return best, which


def find_path(problem: Problem) -> NDArray[np.intp]:
    """The drawing (column of `costs`) on every frame, shape (frames,); ties go to the lower column."""
    return searched(problem).path()


def searched(problem: Problem) -> Trellis:
    """The search of a problem, done."""
    trellis = Trellis(problem)
    trellis.run()
    return trellis


def path_cost(problem: Problem, path: NDArray[np.intp]) -> int:
    """What a sequence of drawings costs, in the problem's units."""
    shown = problem.costs[np.arange(len(path)), path].sum()
    return int(shown) + problem.change * int((np.diff(path) != 0).sum())
