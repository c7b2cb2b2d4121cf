"""`solve`: a reading, a chart, a rate and dials give holds; pure and deterministic."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.costs import (
    MISSED,
    UNIT,
    Demand,
    Frames,
    build_problem,
    build_problem_after,
    distances_to,
    frame_demand,
    frame_demand_after,
)
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.path import Trellis, resolve, run_search
from tinfork.core.solver.problem import NO_MOUTH, Fixed, FramePin, Hold, Problem
from tinfork.core.solver.segments import SoundSegments, segments_of, sounds_of
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.visemes import REST, SOUNDS, class_of


@dataclass(frozen=True, eq=False)
class Solution:
    """The holds, and everything they follow from: the weights on each frame, the problem (`free`: without pins).

    `keys` are the drawings of the problem's columns, as (set, number); `path`, shape (frames,), is the column on each
    frame, with drawings of the same sounds in turn; `columns` are the holds as arrays.
    """

    holds: tuple[Hold, ...]
    columns: HoldColumns
    demand: Demand
    free: Problem
    problem: Problem
    keys: tuple[tuple[str, int], ...]
    chart: Chart
    rate: FrameRate
    dials: Dials
    pins: tuple[FramePin, ...]
    search: Trellis
    path: NDArray[np.intp]

    @property
    def segments(self) -> SoundSegments:
        """The segments of sound."""
        return self.demand.segments


def solve(
    reading: Reading,
    chart: Chart,
    rate: FrameRate,
    *,
    speaker: str | None = None,
    dials: Dials | None = None,
    loudness: Loudness | None = None,
) -> tuple[Hold, ...]:
    """Solve the holds of one character over the whole sound; they partition its frames. See `solve_incrementally`."""
    return solve_incrementally(reading, chart, rate, speaker=speaker, dials=dials, loudness=loudness).holds


def solve_incrementally(
    reading: Reading,
    chart: Chart,
    rate: FrameRate,
    *,
    speaker: str | None = None,
    dials: Dials | None = None,
    loudness: Loudness | None = None,
    pins: Sequence[FramePin] = (),
    before: Solution | None = None,
    same_sounds: bool = False,
) -> Solution:
    """Solve the holds of one character over the whole sound.

    The character mouths the lines of `speaker`; None takes all lines. With the `loudness` of the sound, loud vowels
    take a chart's big drawings; without it, length alone decides. `pins` are kept, and everything else is solved around
    them. With the solution from `before` an edit, only what the edit reaches is computed again; the result is the same.
    `same_sounds`: only pins have changed since.
    """
    dials = dials or Dials()
    if before and same_sounds:
        return _solved(before.demand, before.free, pins, before, chart, dials, None)
    frames = rate.frames_in(reading.duration_us)
    segments = segments_of(sounds_of(reading, speaker), reading.duration_us, dials, loudness)
    if before and (before.chart, before.rate, before.dials, len(before.path)) == (chart, rate, dials, frames):
        demand, changed = frame_demand_after(before.demand, segments, dials)
        if changed is None:
            return _solved(demand, before.free, pins, before, chart, dials, None)
        free = build_problem_after(before.free, demand, chart, changed)
        return _solved(demand, free, pins, before, chart, dials, changed)
    demand = frame_demand(segments, rate, frames, dials)
    return _solved(demand, build_problem(demand, chart, dials), pins, None, chart, dials, None)


def _solved(
    demand: Demand,
    free: Problem,
    pins: Sequence[FramePin],
    before: Solution | None,
    chart: Chart,
    dials: Dials,
    changed: Frames | None,
) -> Solution:
    """Solve from the weights on each frame.

    `before` has the same chart and dials, and the same weights except on the frames that `changed`.
    """
    kept = in_order(pins, demand.frames)
    problem, keys = with_pins(free, chart, kept)
    # Pins that act through costs may be anywhere.
    is_free = before is not None and problem.costs is free.costs and before.problem.costs is before.free.costs
    search = resolve(before.search, problem, changed if is_free else None) if before else run_search(problem)
    path = take_turns(search.path, chart, kept)
    if before and keys == before.keys:
        holds, columns = _holds_after(before, path, demand, changed)
    else:
        holds = merge_holds(path, demand.weights(), demand.wants, chart, keys)
        columns = HoldColumns.of(holds)
    return Solution(holds, columns, demand, free, problem, keys, chart, demand.rate, dials, kept, search, path)


def _holds_after(
    before: Solution, path: NDArray[np.intp], demand: Demand, changed: Frames | None
) -> tuple[tuple[Hold, ...], HoldColumns]:
    """The holds of a path; only those where the path or the weights differ from `before` are made anew."""
    differs = np.flatnonzero(path != before.path)
    spans = [changed] if changed else []
    if len(differs):
        spans.append((int(differs[0]), int(differs[-1]) + 1))
    if not spans:
        return before.holds, before.columns
    # From the start of the hold before to the end of the hold after.
    edges = run_edges(path)
    first = int(edges[np.searchsorted(edges, max(0, min(start for start, _ in spans) - 1), side="right") - 1])
    end = int(edges[np.searchsorted(edges, min(len(path) - 1, max(end for _, end in spans)), side="right")])
    weights = demand.weights(first, end)
    new = merge_holds(path[first:end], weights, demand.wants, before.chart, before.keys)
    at, until = (bisect_left(before.holds, frame, key=lambda hold: hold.start) for frame in (first, end))
    moved = tuple(replace(hold, start=hold.start + first, end=hold.end + first) for hold in new)
    return (*before.holds[:at], *moved, *before.holds[until:]), before.columns.with_holds(at, until, moved)


def in_order(pins: Sequence[FramePin], frames: int) -> tuple[FramePin, ...]:
    """Pins cut so that they lie in the shot and do not overlap: the later of two begins where the earlier one ends.

    A pin of which nothing is left, as at a lower frame rate, is dropped.
    """
    out: list[FramePin] = []
    for pin in sorted(pins, key=lambda p: (p.start, p.end)):
        start = max(pin.start, out[-1].end if out else 0)
        end = min(pin.end, frames)
        if start < end:
            is_whole = (start, end) == (pin.start, pin.end)
            out.append(pin if is_whole else replace(pin, start=start, end=end))
    return tuple(out)


def pinned_holds(pins: Sequence[FramePin], frames: int, usual: int) -> tuple[Hold, ...]:
    """The holds of a part that is only set by hand, like eyes: its pins, and the usual drawing everywhere else."""
    out: list[Hold] = []

    def show(start: int, end: int, drawing: int, name: str) -> None:
        if start >= end:
            return
        if out and (out[-1].drawing, out[-1].set) == (drawing, name):
            out[-1] = replace(out[-1], end=end)
        else:
            out.append(Hold(start, end, drawing, REST, name))

    at = 0
    for pin in in_order(pins, frames):
        show(at, pin.start, usual, "")
        show(pin.start, pin.end, usual if pin.drawing is None else pin.drawing, pin.set)
        at = pin.end
    show(at, frames, usual, "")
    return tuple(out)


#: The cost of a drawing that may only be shown where it is pinned.
_NEVER = 100 * MISSED


def with_pins(problem: Problem, chart: Chart, pins: Sequence[FramePin]) -> tuple[Problem, tuple[tuple[str, int], ...]]:
    """The problem with its pins, and the drawing of each column: those that speak, and others that are pinned."""
    keys = [("", d.number) for d in chart.speaking]
    keys += sorted({(p.set, p.drawing) for p in pins if p.drawing is not None} - set(keys))
    count = len(chart.speaking)
    costs = problem.costs
    if len(keys) > count or not all(pin.is_exact for pin in pins):
        costs = np.full((len(problem.costs), len(keys)), _NEVER, dtype=np.int64)
        costs[:, :count] = problem.costs
    fixed: list[Fixed] = []
    for pin in pins:
        column = None if pin.drawing is None else keys.index((pin.set, pin.drawing))
        if column is not None and column >= count:
            costs[pin.start : pin.end, column] = 0
        if pin.is_exact or column is None:
            fixed.append(Fixed(pin.start, pin.end, tuple(range(count)) if column is None else (column,)))
        else:
            middle = (pin.start + pin.end - 1) // 2
            others = np.arange(len(keys)) != column
            costs[middle, others] += 10 * MISSED
            if column >= count:
                costs[:, column] = np.minimum(costs[:, column], UNIT)
    return replace(problem, costs=costs, fixed=tuple(fixed)), tuple(keys)


def run_edges(path: NDArray[np.intp]) -> NDArray[np.intp]:
    """The starts of runs of one drawing, and the end of the last one."""
    if not len(path):
        return np.zeros(1, dtype=np.intp)
    return np.concatenate([[0], np.flatnonzero(np.diff(path)) + 1, [len(path)]])


def take_turns(path: NDArray[np.intp], chart: Chart, pins: Sequence[FramePin] = ()) -> NDArray[np.intp]:
    """The path with drawings of the same sounds and size shown in turn, at the same cost.

    Pinned frames do not change.
    """
    groups = {
        tuple(other for other, o in enumerate(chart.speaking) if set(o.shows) == set(d.shows) and o.size == d.size)
        for d in chart.speaking
    }
    groups = {group for group in groups if len(group) > 1}
    if not groups:
        return path
    edges = run_edges(path)
    starts, lengths = edges[:-1], np.diff(edges)
    # Pins are in order and do not overlap: only the first that ends after the start of a run can meet it.
    ends = np.array([pin.end for pin in pins] + [len(path) + 1])
    begins = np.array([pin.start for pin in pins] + [len(path) + 1])
    is_free = begins[np.searchsorted(ends, starts, side="right")] >= edges[1:]
    columns = path[starts]
    for group in groups:
        own = np.flatnonzero(is_free & np.isin(columns, group))
        columns[own] = np.array(group)[np.arange(len(own)) % len(group)]
    return np.repeat(columns, lengths)


def merge_holds(
    path: NDArray[np.intp],
    weights: NDArray[np.float64],
    wants: tuple[tuple[str, int], ...],
    chart: Chart,
    keys: Sequence[tuple[str, int]],
) -> tuple[Hold, ...]:
    """Runs of one drawing as holds, each with the class that it mostly shows.

    `weights` are those of `wants` on each frame of the path.
    """
    edges = run_edges(path)
    starts = edges[:-1]
    if not len(starts):
        return ()
    distances = distances_to(wants, chart)
    serves = distances == distances.min(axis=0)
    columns = path[starts]
    due = np.add.reduceat(weights, starts, axis=0)
    speaking = columns < len(chart.speaking)
    # For a speaking drawing only the classes it shows count; for one set by hand, all that are heard.
    due = np.where(serves[np.minimum(columns, len(serves) - 1)] | ~speaking[:, None], due, 0.0)
    most = due.argmax(axis=1).tolist()
    any_due = (due.max(axis=1) > 0).tolist()
    classes = [class_of(sound) for sound, *_ in wants]
    usual = [_class(drawing.shows[0]) for drawing in chart.speaking]
    holds: list[Hold] = []
    rows = zip(starts.tolist(), edges[1:].tolist(), columns.tolist(), most, any_due, strict=True)
    for start, end, column, want, is_due in rows:
        name, number = keys[column]
        viseme = classes[want] if is_due else (usual[column] if column < len(usual) else REST)
        holds.append(Hold(start, end, number, REST if number == NO_MOUTH else viseme, name))
    return tuple(holds)


def _class(claim: str) -> str:
    return class_of(claim) if claim in SOUNDS else claim


def drawing_on(holds: tuple[Hold, ...], frame: int) -> Hold:
    """The hold that covers a frame; the first or last hold for frames outside."""
    low, high = 0, len(holds) - 1
    while low < high:
        middle = (low + high + 1) // 2
        if holds[middle].start <= frame:
            low = middle
        else:
            high = middle - 1
    return holds[low]
