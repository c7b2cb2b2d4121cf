"""The cheapest sequence of drawings whose holds all last long enough and whose pins stand: exact.

Dynamic programming over (frame, drawing), as for hidden semi-Markov models with a least duration (Ferguson 1980):
`ready[f, d]` is the least cost of frames 0..f with drawing d on f in a hold that may end there. It either continues a
ready hold, or a hold that began exactly `shortest` frames ago becomes ready. O(frames x drawings).

A pinned stretch is one step: whatever came before, one of its allowed drawings is shown from its first frame to its
last. Between two pins holds have the least length, or, if pins leave less room, the length of the room; a hold that
meets a pin with the same drawing is one hold with it.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tinfork.core.solver.problem import Problem

#: The cost of what cannot be, and a bound under which every other cost lies, however often edits have moved the rest.
_FAR, _OPEN = np.int64(2**60), np.int64(2**59)


@dataclass
class Trellis:
    """The arrays of a search: `ready` as above.

    `step[f, d]` is the length of the last step to it in frames, and `came` the drawing before that step (-1: none).

    `path`, shape (frames,), has the drawing on every frame; ties go to the lower column. `lands`, of the same shape, is
    true on frames on which a step of the path ends.
    """

    problem: Problem
    ready: NDArray[np.int64] = field(init=False)
    step: NDArray[np.int32] = field(init=False)
    came: NDArray[np.int32] = field(init=False)
    path: NDArray[np.intp] = field(init=False)
    lands: NDArray[np.bool_] = field(init=False)

    def run(self) -> None:
        """Search the whole problem."""
        frames, drawings = self.problem.costs.shape
        self.ready = np.empty((frames, drawings), dtype=np.int64)
        self.step = np.empty((frames, drawings), dtype=np.int32)
        self.came = np.empty((frames, drawings), dtype=np.int32)
        for start, end, allowed in self.problem.regions:
            if allowed is None:
                self._free(start, end, start, end)
            else:
                self._pinned(start, end, allowed)
        self.path = np.empty(frames, dtype=np.intp)
        self.lands = np.zeros(frames, dtype=np.bool_)
        if frames:
            self._walk(frames - 1, int(np.argmin(self.ready[-1])), 0)

    def run_after(self, before: "Trellis", first: int, last: int) -> None:
        """Search after an edit, from the search `before` it.

        Costs and pins differ at most on frames `[first, last)`; it computes from there on, until the rest is the same
        as before.
        """
        for name in ("ready", "step", "came"):
            old = getattr(before, name)
            new = np.empty_like(old)
            new[:first] = old[:first]
            setattr(self, name, new)
        self.path, self.lands = before.path.copy(), before.lands.copy()
        until = self._go_on(before, first, last)
        frames = len(self.path)
        # Later frames are reached as before; only steps that began in the recomputed part may end there.
        at = until + int(self.lands[until:].argmax()) if until < frames else frames - 1
        drawing = int(self.path[at]) if until < frames else int(np.argmin(self.ready[-1]))
        self._walk(at, drawing, first)

    def _go_on(self, before: "Trellis", first: int, last: int) -> int:
        """Compute from frame `first` on; returns the frame from which all costs are as before but for a constant."""
        for start, end, allowed in self.problem.regions:
            if end <= first:
                continue
            if allowed is not None:
                self._pinned(start, end, allowed)
                continue
            at, count = max(start, first), _FIRST_CHECK
            while at < end:
                until = min(end, max(at + count, last + self.problem.shortest))
                self._free(start, end, at, until)
                at, count = until, 2 * count
                offset = self._offset(before, at) if at >= last + self.problem.shortest else None
                if offset is not None:
                    np.add(before.ready[at:], offset, out=self.ready[at:])
                    self.step[at:], self.came[at:] = before.step[at:], before.came[at:]
                    return at
        return len(self.ready)

    def _offset(self, before: "Trellis", at: int) -> np.int64 | None:
        """The constant by which all costs before a frame differ from the old ones.

        None if it is not the same for all.
        """
        recent = slice(at - self.problem.shortest, at)
        mine, theirs = self.ready[recent], before.ready[recent]
        open_ = mine < _OPEN
        if not open_.any() or (open_ != (theirs < _OPEN)).any():
            return None
        apart = (mine - theirs)[open_]
        return np.int64(apart[0]) if (apart == apart[0]).all() else None

    def _clear(self, start: int, end: int) -> None:
        """Reset frames `[start, end)`."""
        self.ready[start:end] = _FAR
        self.step[start:end] = 1
        self.came[start:end] = np.arange(self.came.shape[1], dtype=np.int32)

    def _free(self, start: int, end: int, first: int, until: int) -> None:
        """Compute frames `[first, until)` of a free stretch."""
        least = min(self.problem.shortest, end - start)
        ready, costs = self.ready, self.problem.costs
        self._clear(first, until)
        opened = max(first, start + least - 1)
        for f in range(max(first, 1), min(opened, until)):
            # No new hold may end yet.
            np.add(ready[f - 1], costs[f], out=ready[f])
        if opened >= until:
            return
        # Cumulative costs, from the start of the first hold that may end here.
        base = opened - least + 1
        window = np.zeros((until - base + 1, costs.shape[1]), dtype=np.int64)
        np.cumsum(costs[base:until], axis=0, out=window[1:])
        if opened == least - 1:
            # The very first hold: nothing comes before it.
            ready[opened] = window[least]
            self.step[opened], self.came[opened] = least, -1
            opened += 1
        if opened >= until:
            return
        # The cost of a hold that began `least` frames ago, for all frames at once.
        begins = slice(opened - least + 1, until - least + 1)
        fresh = window[opened + 1 - base :] - window[begins.start - base : begins.stop - base] + self.problem.change
        at_all = np.arange(begins.start, begins.stop)
        # Off the grid no hold begins, except after a pin.
        fresh[(at_all % self.problem.grid != 0) & (at_all != start)] = _FAR
        cheapest = np.empty(until - opened, dtype=np.int32)
        taken = np.empty(fresh.shape, dtype=bool)
        for at, f in enumerate(range(opened, until)):
            before, row, now = ready[f - least], ready[f], fresh[at]
            # The cheapest drawing so far never changes to itself: continuing it costs no more.
            which = before.argmin()
            cheapest[at] = which
            now += before[which]
            now[which] = _FAR
            np.add(ready[f - 1], costs[f], out=row)
            np.less(now, row, out=taken[at])
            np.minimum(now, row, out=row)
        self.step[opened:until][taken] = least
        self.came[opened:until] = np.where(taken, cheapest[:, None], self.came[opened:until])

    def _pinned(self, start: int, end: int, allowed: tuple[int, ...]) -> None:
        """Compute the step over a pin; a hold before it may be too short on its own."""
        change, costs = self.problem.change, self.problem.costs
        columns = np.array(allowed, dtype=np.intp)
        last = end - 1
        self._clear(start, end)
        room = self.problem.room_before(start)
        spent = costs[start:end].sum(axis=0)
        for longer in range(min(self.problem.shortest, start - room + 1)):
            begin = start - longer
            if longer:
                spent = spent + costs[begin]
            if longer and begin != room and begin % self.problem.grid:
                continue
            if begin == 0:
                self._offer(last, columns, spent, end - begin, np.full(len(spent), -1))
                continue
            before, which = _cheapest_other(self.ready[begin - 1])
            self._offer(last, columns, before + change + spent, end - begin, which)
        if start:
            same = self.ready[start - 1] + costs[start:end].sum(axis=0)
            self._offer(last, columns, same, end - start, np.arange(len(same)))

    def _offer(
        self, f: int, columns: NDArray[np.intp], cost: NDArray[np.int64], step: int, came: NDArray[np.integer]
    ) -> None:
        better = columns[cost[columns] < self.ready[f, columns]]
        self.ready[f, better] = cost[better]
        self.step[f, better] = step
        self.came[f, better] = came[better]

    def _walk(self, f: int, d: int, first: int) -> None:
        """Trace the path back from drawing `d` on frame `f` to the first frame.

        It stops where it meets, before frame `first`, the path that is there already.
        """
        while f >= 0:
            if f < first and self.lands[f] and self.path[f] == d:
                return
            turn = self._last_turn(f, d)
            taken = int(self.step[turn, d]) if turn >= 0 else 0
            start = turn - taken + 1
            self.path[start : f + 1] = d
            self.lands[start:f] = False
            self.lands[f] = True
            f, d = start - 1, int(self.came[turn, d])

    def _last_turn(self, f: int, d: int) -> int:
        """The last frame up to `f` whose step to drawing `d` is more than one further frame of it; -1 for none."""
        end, count = f + 1, 32
        while end > 0:
            start = max(0, end - count)
            turns = (self.step[start:end, d] != 1) | (self.came[start:end, d] != d)
            if turns.any():
                return end - 1 - int(turns[::-1].argmax())
            end, count = start, 8 * count
        return -1


#: The number of frames that are computed before the first check whether the rest is as before; then twice as many, ...
_FIRST_CHECK = 32


def resolve(before: Trellis, problem: Problem, within: tuple[int, int] | None = None) -> Trellis:
    """Search a problem that differs little from one that was searched before.

    The search begins at the first difference and ends when the rest is the same. Its path is exactly that of a whole
    search. Costs differ at most `within` frames `[first, end)`, if that is known.
    """
    old = before.problem
    new = Trellis(problem)
    same_shape = old.costs.shape == problem.costs.shape
    dials = [(one.change, one.shortest, one.grid) for one in (old, problem)]
    if not same_shape or dials[0] != dials[1]:
        new.run()
        return new
    rows = _different_rows(old.costs, problem.costs, within or (0, len(problem.costs)))
    # Free stretches follow from the pins beside them.
    pinned = [{r for r in regions if r[2] is not None} for regions in (old.regions, problem.regions)]
    other = pinned[0] ^ pinned[1]
    if not other and not len(rows):
        return before
    firsts = [max(0, start - problem.shortest) for start, *_ in other] + rows[:1].tolist()
    lasts = [end for _, end, _ in other] + [int(row) + 1 for row in rows[-1:]]
    new.run_after(before, min(firsts), max(lasts))
    return new


def _different_rows(one: NDArray[np.int64], other: NDArray[np.int64], within: tuple[int, int]) -> NDArray[np.intp]:
    """The frames whose costs differ."""
    if one is other:
        return np.empty(0, dtype=np.intp)
    first, end = within
    return first + np.flatnonzero((one[first:end] != other[first:end]).any(axis=1))


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
    return run_search(problem).path


def run_search(problem: Problem) -> Trellis:
    """Search a problem."""
    trellis = Trellis(problem)
    trellis.run()
    return trellis
