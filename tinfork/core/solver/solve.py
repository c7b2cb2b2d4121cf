"""`solve`: a reading, a chart, a rate and dials give holds; pure and deterministic."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.costs import Demand, Heard, build_problem, distances_to, frame_weights, heard_parts
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Dials, Hold, Problem
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Phoneme, Reading
from tinfork.core.speech.visemes import SOUNDS, class_of


@dataclass(frozen=True)
class Solution:
    """The holds, and everything they follow from: what is heard, what is due on each frame, what it costs."""

    holds: tuple[Hold, ...]
    parts: tuple[Heard, ...]
    demand: Demand
    problem: Problem
    chart: Chart
    rate: FrameRate
    dials: Dials


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
) -> Solution:
    """The holds of one character over the whole sound, with what they follow from.

    `speaker` picks whose lines the character mouths; None takes them all. `loudness` of the sound lets loud
    vowels take a chart's big drawings; without it, length alone decides.
    """
    dials = dials or Dials()
    phonemes: tuple[Phoneme, ...] = tuple(reading.phonemes(speaker))
    frames = rate.frames_in(reading.duration_us)
    parts = heard_parts(phonemes, reading.duration_us, dials, loudness)
    demand = frame_weights(parts, rate, frames, dials)
    problem = build_problem(demand, chart, dials)
    path = take_turns(find_path(problem), chart)
    return Solution(merge_holds(path, demand, chart), tuple(parts), demand, problem, chart, rate, dials)


def _runs(path: NDArray[np.intp]) -> list[tuple[int, int]]:
    edges = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    return [(start, end) for start, end in pairwise(edges) if start < end]


def take_turns(path: NDArray[np.intp], chart: Chart) -> NDArray[np.intp]:
    """The path with drawings that show the very same sounds in the same size taken in turn; it costs the same."""
    alike = [
        [other for other, o in enumerate(chart.speaking) if set(o.shows) == set(d.shows) and o.size == d.size]
        for d in chart.speaking
    ]
    turned = path.copy()
    used: dict[int, int] = {}
    for start, end in _runs(path):
        kin = alike[int(path[start])]
        if len(kin) > 1:
            turn = used.get(kin[0], 0)
            turned[start:end] = kin[turn % len(kin)]
            used[kin[0]] = turn + 1
    return turned


def merge_holds(path: NDArray[np.intp], demand: Demand, chart: Chart) -> tuple[Hold, ...]:
    """Runs of one drawing as holds, each with the class it mostly serves."""
    holds: list[Hold] = []
    distances = distances_to(demand.wants, chart)
    serves = distances == distances.min(axis=0)
    for start, end in _runs(path):
        column = int(path[start])
        drawing = chart.speaking[column]
        due = np.where(serves[column], demand.weights[start:end].sum(axis=0), 0.0)
        first = drawing.shows[0]
        viseme = class_of(demand.wants[int(np.argmax(due))][0]) if due.any() else _class(first)
        holds.append(Hold(start, end, drawing.number, viseme))
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
