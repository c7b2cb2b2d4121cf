"""The exact solver against a plain "nearest drawing for each frame" loop, on a minute of reading."""

import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.costs import build_problem, frame_weights, heard_parts
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Dials
from tinfork.core.solver.solve import solve
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import class_of

RATE = FrameRate.parse("24")


def _minute() -> Reading:
    generator = np.random.default_rng(12)
    symbols = ["m", "ɑ", "s", "t", "i", "f", "oʊ", "k", "ə", "l", "w", "ˈæ", "b", "ɹ"]
    at, words = 0, []
    while at < 59_000_000:
        start, sounds = at, []
        for _ in range(4):
            length = int(generator.integers(40_000, 140_000))
            sounds.append(Phoneme(str(generator.choice(symbols)), at, at + length))
            at += length
        words.append(Word("word", start, at, tuple(sounds)))
        at += int(generator.choice([0, 0, 0, 400_000]))
    return Reading(60_000_000, (Line("", "", "en-us", tuple(words)),))


def bench_solver() -> dict[str, Any]:
    """Median milliseconds for a minute at 24 fps, and the ratio to a plain loop."""
    reading, dials = _minute(), Dials()
    frames = RATE.frames_in(reading.duration_us)
    parts = heard_parts(tuple(reading.phonemes()), reading.duration_us, dials)
    demand = frame_weights(parts, RATE, frames, dials)
    problem = build_problem(demand, STARTER, dials)

    def nearest() -> list[int]:
        return [min(range(len(row)), key=row.__getitem__) for row in problem.costs.tolist()]

    def median_ms(call: Callable[[], object]) -> float:
        times = []
        for _ in range(9):
            began = time.perf_counter()
            call()
            times.append(time.perf_counter() - began)
        return round(1000 * statistics.median(times), 2)

    whole, path, loop = (
        median_ms(lambda: solve(reading, STARTER, RATE)),
        median_ms(lambda: find_path(problem)),
        median_ms(nearest),
    )
    holds = solve(reading, STARTER, RATE)
    flat = np.array(nearest())
    seen = sum(any(h.start <= f < h.end and h.viseme == class_of(s) for h in holds) for f, s in demand.closures)
    return {
        "whole solve ms": whole,
        "path only ms": path,
        "plain loop ms": loop,
        "path / plain loop": round(path / loop, 1),
        "changes a second": round((len(holds) - 1) / 60, 2),
        "changes a second, plain loop": round(int((np.diff(flat) != 0).sum()) / 60, 2),
        "single-frame holds": sum(h.end - h.start == 1 for h in holds),
        "closures seen %": round(100 * seen / len(demand.closures), 1),
    }
