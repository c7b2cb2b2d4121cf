"""The exact solver: its time against a plain "nearest drawing for each frame" loop, and how good its mouths are.

Time on a made-up minute and ten minutes of reading; quality on spoken sentences whose sounds are known: the holds of
what was read against those of the truth.
"""

import statistics
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.path import find_path, resolve, run_search
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import Solution, drawing_on, solve, solve_incrementally
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import class_of
from tools.bench import truth
from tools.bench.reading import whole

RATE = FrameRate.parse("24")


def _made_up(minutes: int) -> Reading:
    generator = np.random.default_rng(12)
    symbols = ["m", "ɑ", "s", "t", "i", "f", "oʊ", "k", "ə", "l", "w", "ˈæ", "b", "ɹ"]
    at, words = 0, []
    while at < minutes * 60_000_000 - 1_000_000:
        start, sounds = at, []
        for _ in range(4):
            length = int(generator.integers(40_000, 140_000))
            sounds.append(Phoneme(str(generator.choice(symbols)), at, at + length))
            at += length
        words.append(Word("word", start, at, tuple(sounds)))
        at += int(generator.choice([0, 0, 0, 400_000]))
    return Reading(minutes * 60_000_000, (Line("", "", "en-us", tuple(words)),))


def _median_ms(call: Callable[[], object], rounds: int = 9) -> float:
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        call()
        times.append(time.perf_counter() - began)
    return round(1000 * statistics.median(times), 2)


def _edited(solution: Solution) -> Any:
    """The problem after the sounds of half a second changed."""
    costs = solution.problem.costs.copy()
    middle = len(costs) // 2
    costs[middle : middle + 12] = costs[middle + 100 : middle + 112]
    return replace(solution.problem, costs=costs)


def _times() -> dict[str, Any]:
    minute, long = _made_up(1), _made_up(10)
    solution, ten = solve_incrementally(minute, STARTER, RATE), solve_incrementally(long, STARTER, RATE)

    def nearest() -> list[int]:
        return [min(range(len(row)), key=row.__getitem__) for row in solution.problem.costs.tolist()]

    edited = _edited(ten)
    search = run_search(ten.problem)
    path, loop = _median_ms(lambda: find_path(solution.problem)), _median_ms(nearest)
    return {
        "a minute, ms": _median_ms(lambda: solve(minute, STARTER, RATE)),
        "ten minutes, ms": _median_ms(lambda: solve(long, STARTER, RATE), 5),
        "an edit in ten minutes, search alone, ms": _median_ms(lambda: resolve(search, edited)),
        "search of a minute, ms": path,
        "plain loop, ms": loop,
        "search / plain loop": round(path / loop, 1),
    }


def _seen(solution: Solution) -> tuple[int, int]:
    closures = solution.demand.closures
    shown = sum(drawing_on(solution.holds, f).viseme == class_of(s) for f, s in closures)
    return shown, len(closures)


def _agree(holds: Sequence[Hold], right: Sequence[Hold], frames: int) -> float:
    """The share of frames whose mouth the truth shows on that frame or the one beside it."""
    mine = [drawing_on(tuple(holds), f).drawing for f in range(frames)]
    theirs = [drawing_on(tuple(right), f).drawing for f in range(frames)]
    near = (theirs[max(0, f - 1) : f + 2] for f in range(frames))
    return sum(shown in options for shown, options in zip(mine, near, strict=True)) / frames


def _quality() -> dict[str, Any]:
    rows: dict[str, Any] = {}
    said = truth.english(3)
    read = [(spoken, whole(spoken)) for spoken in said]
    for name, dials in {
        "on twos": Dials(),
        "on ones, full": Dials(shortest=1, detail=85),
        "threes": Dials(shortest=3, detail=25),
    }.items():
        shown = due = flickers = changes = 0
        seconds, agreed = 0.0, []
        for spoken, reading in read:
            solution = solve_incrementally(reading, STARTER, RATE, dials=dials)
            words = (Word("all", spoken.phonemes[0].start_us, spoken.phonemes[-1].end_us, spoken.phonemes),)
            right = Reading(reading.duration_us, (Line("", "", spoken.language, words),))
            seen = _seen(solution)
            shown, due = shown + seen[0], due + seen[1]
            flickers += sum(h.end - h.start == 1 for h in solution.holds)
            changes += len(solution.holds) - 1
            seconds += spoken.duration_us / 1e6
            frames = len(solution.problem.costs)
            agreed.append(_agree(solution.holds, solve(right, STARTER, RATE, dials=dials), frames))
        rows[f"spoken sentences, {name}"] = {
            "closures seen %": round(100 * shown / due, 1),
            "single-frame holds": flickers,
            "changes a second": round(changes / seconds, 2),
            "mouths as of the truth, within a frame, %": round(100 * statistics.mean(agreed), 1),
        }
    return rows


def bench_solver() -> dict[str, Any]:
    """All of it."""
    return _times() | _quality()
