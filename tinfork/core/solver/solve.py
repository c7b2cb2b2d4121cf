"""`solve`: a reading, a chart, a rate and dials give holds; pure and deterministic."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.costs import (
    MISSED,
    UNIT,
    Demand,
    Heard,
    build_problem,
    distances_to,
    frame_weights,
    heard_parts,
)
from tinfork.core.solver.path import Trellis, resolve, searched
from tinfork.core.solver.problem import NO_MOUTH, Dials, Fixed, FramePin, Hold, Problem
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Phoneme, Reading
from tinfork.core.speech.visemes import REST, SOUNDS, class_of


@dataclass(frozen=True)
class Solution:
    """The holds, and everything they follow from: what is heard, what is due on each frame, what it costs (`free`:
    without pins).

    `keys` are the drawings of the problem's columns, as (set, number).
    """

    holds: tuple[Hold, ...]
    parts: tuple[Heard, ...]
    demand: Demand
    free: Problem
    problem: Problem
    keys: tuple[tuple[str, int], ...]
    chart: Chart
    rate: FrameRate
    dials: Dials
    pins: tuple[FramePin, ...]
    search: Trellis


def solve(
    reading: Reading,
    chart: Chart,
    rate: FrameRate,
    *,
    speaker: str | None = None,
    dials: Dials | None = None,
    loudness: Loudness | None = None,
) -> tuple[Hold, ...]:
    """The holds of one character over the whole sound: they partition its frames. See `work_out`."""
    return work_out(reading, chart, rate, speaker=speaker, dials=dials, loudness=loudness).holds


def work_out(
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
    """The holds of one character over the whole sound, with what they follow from.

    `speaker` picks whose lines the character mouths; None takes them all. `loudness` of the sound lets loud
    vowels take a chart's big drawings; without it, length alone decides. `pins` stand, everything else is solved
    around them. With the solution from `before` an edit, only what the edit reaches is searched again; what comes out
    is the same. `same_sounds`: nothing but pins has changed since.
    """
    dials = dials or Dials()
    if before and same_sounds:
        return _solved(before.parts, before.demand, before.free, chart, rate, dials, pins, before)
    phonemes: tuple[Phoneme, ...] = tuple(reading.phonemes(speaker))
    frames = rate.frames_in(reading.duration_us)
    parts = heard_parts(phonemes, reading.duration_us, dials, loudness)
    demand = frame_weights(parts, rate, frames, dials)
    free = build_problem(demand, chart, dials)
    return _solved(tuple(parts), demand, free, chart, rate, dials, pins, before)


def _solved(
    parts: tuple[Heard, ...],
    demand: Demand,
    free: Problem,
    chart: Chart,
    rate: FrameRate,
    dials: Dials,
    pins: Sequence[FramePin],
    before: Solution | None,
) -> Solution:
    """The holds for what is due on each frame."""
    frames = len(demand.weights)
    kept = in_order(pins, frames)
    problem, keys = with_pins(free, chart, kept)
    search = resolve(before.search, problem) if before else searched(problem)
    path = take_turns(search.path(), chart, kept)
    holds = merge_holds(path, demand, chart, keys)
    return Solution(holds, parts, demand, free, problem, keys, chart, rate, dials, kept, search)


def in_order(pins: Sequence[FramePin], frames: int) -> tuple[FramePin, ...]:
    """Pins inside the frames that do not overlap: where two do, the later one begins where the earlier one ends.

    One of which nothing is left, as at a lower frame rate, is left out.
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
    """The holds of a part that is set by hand alone, as eyes are: its pins, and the usual drawing everywhere else."""
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


#: What a drawing costs that is only there where it is pinned.
_NEVER = 100 * MISSED


def with_pins(problem: Problem, chart: Chart, pins: Sequence[FramePin]) -> tuple[Problem, tuple[tuple[str, int], ...]]:
    """The problem with its pins, and the drawing of each column: those that speak, and what else is pinned."""
    keys = [("", d.number) for d in chart.speaking]
    keys += sorted({(p.set, p.drawing) for p in pins if p.drawing is not None} - set(keys))
    count = len(chart.speaking)
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


def _runs(path: NDArray[np.intp]) -> list[tuple[int, int]]:
    edges = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    return [(start, end) for start, end in pairwise(edges) if start < end]


def take_turns(path: NDArray[np.intp], chart: Chart, pins: Sequence[FramePin] = ()) -> NDArray[np.intp]:
    """The path with drawings that show the very same sounds in the same size taken in turn; it costs the same.

    What is pinned stays.
    """
    alike = [
        [other for other, o in enumerate(chart.speaking) if set(o.shows) == set(d.shows) and o.size == d.size]
        for d in chart.speaking
    ]
    turned = path.copy()
    used: dict[int, int] = {}
    for start, end in _runs(path):
        column = int(path[start])
        kin = alike[column] if column < len(alike) else [column]
        if len(kin) > 1 and not any(pin.start < end and start < pin.end for pin in pins):
            turn = used.get(kin[0], 0)
            turned[start:end] = kin[turn % len(kin)]
            used[kin[0]] = turn + 1
    return turned


def merge_holds(
    path: NDArray[np.intp], demand: Demand, chart: Chart, keys: Sequence[tuple[str, int]]
) -> tuple[Hold, ...]:
    """Runs of one drawing as holds, each with the class it mostly serves."""
    runs = _runs(path)
    if not runs:
        return ()
    distances = distances_to(demand.wants, chart)
    serves = distances == distances.min(axis=0)
    starts = [start for start, _ in runs]
    columns = path[starts]
    due = np.add.reduceat(demand.weights, starts, axis=0)
    speaking = columns < len(chart.speaking)
    # Of a drawing that speaks, what it serves counts; of one that was put there by hand, whatever is heard.
    due = np.where(serves[np.minimum(columns, len(serves) - 1)] | ~speaking[:, None], due, 0.0)
    most = due.argmax(axis=1)
    any_due = due.max(axis=1) > 0
    classes = [class_of(sound) for sound, *_ in demand.wants]
    usual = [_class(drawing.shows[0]) for drawing in chart.speaking]
    holds: list[Hold] = []
    for at, (start, end) in enumerate(runs):
        column = int(columns[at])
        name, number = keys[column]
        viseme = classes[int(most[at])] if any_due[at] else (usual[column] if speaking[at] else REST)
        holds.append(Hold(start, end, number, REST if number == NO_MOUTH else viseme, name))
    return tuple(holds)


def _class(claim: str) -> str:
    return class_of(claim) if claim in SOUNDS else claim


def drawing_on(holds: tuple[Hold, ...], frame: int) -> Hold:
    """The hold that covers a frame; frames outside take the first or last hold."""
    low, high = 0, len(holds) - 1
    while low < high:
        middle = (low + high + 1) // 2
        if holds[middle].start <= frame:
            low = middle
        else:
            high = middle - 1
    return holds[low]
