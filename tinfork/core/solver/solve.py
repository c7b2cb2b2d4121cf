"""`solve`: a reading, a chart, a rate and dials give holds; pure and deterministic."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.costs import build_problem, frame_weights, heard_parts
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Dials, Hold
from tinfork.core.speech.reading import Phoneme, Reading
from tinfork.core.speech.visemes import VISEMES


def solve(
    reading: Reading, chart: Chart, rate: FrameRate, *, speaker: str | None = None, dials: Dials | None = None
) -> tuple[Hold, ...]:
    """The holds of one character over the whole sound: they partition its frames.

    `speaker` picks whose lines the character mouths; None takes them all.
    """
    dials = dials or Dials()
    phonemes: tuple[Phoneme, ...] = tuple(reading.phonemes(speaker))
    frames = rate.frames_in(reading.duration_us)
    parts = heard_parts(phonemes, reading.duration_us, dials.gap_us)
    weights, closures = frame_weights(parts, rate, frames, dials.lead)
    path = find_path(build_problem(weights, closures, chart, dials))
    return merge_holds(path, weights, chart)


def merge_holds(path: NDArray[np.intp], weights: NDArray[np.float64], chart: Chart) -> tuple[Hold, ...]:
    """Runs of one drawing as holds, each with the class it mostly serves."""
    holds: list[Hold] = []
    edges = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    best = np.argmin(chart.distances, axis=0)
    for start, end in pairwise(edges):
        if start == end:
            continue
        column = int(path[start])
        drawing = chart.speaking[column]
        due = np.where(best == column, weights[start:end].sum(axis=0), 0.0)
        viseme = VISEMES[int(np.argmax(due))] if due.any() else drawing.visemes[0]
        holds.append(Hold(start, end, drawing.number, viseme))
    return tuple(holds)


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
