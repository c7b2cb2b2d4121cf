"""Why a hold is as it is: what it serves, what had no room in it, and what other drawings would have cost."""

from dataclasses import dataclass, replace

import numpy as np

from tinfork.core.solver.costs import UNIT, Heard
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Fixed, Hold
from tinfork.core.solver.solve import Solution
from tinfork.core.speech.visemes import CLOSURES, REST, SOUNDS

#: How many other drawings are named.
_OTHERS = 3


@dataclass(frozen=True, slots=True)
class Dropped:
    """A sound heard during a hold that it does not show, and why."""

    sound: str
    why: str


@dataclass(frozen=True, slots=True)
class Other:
    """Another drawing, and what it would cost more over the hold, in frames of a wrong vowel."""

    drawing: int
    more: float


@dataclass(frozen=True)
class Explanation:
    """`serves` and `dropped` are sounds in IPA, in time order."""

    serves: tuple[str, ...]
    dropped: tuple[Dropped, ...]
    others: tuple[Other, ...]
    text: str


def explain(solution: Solution, at: int) -> Explanation:
    """Why hold number `at` is what it is."""
    hold = solution.holds[at]
    column = solution.keys.index((hold.set, hold.drawing))
    if column >= len(solution.chart.speaking) or _is_pinned(solution, hold.start, hold.end):
        return Explanation((), (), (), "Pinned by hand.")
    serves, dropped = [], []
    for part in _heard_during(solution, hold.start, hold.end):
        away = solution.chart.distances[:, SOUNDS.index(part.sound)]
        if away[column] <= away.min() + 1e-9:
            serves.append(part.sound)
        else:
            dropped.append(Dropped(part.sound, _why(solution, part)))
    costs = solution.problem.costs[hold.start : hold.end].sum(axis=0)
    more = (costs - costs[column]) / UNIT
    order = [int(c) for c in np.argsort(more, kind="stable") if c != column and c < len(solution.chart.speaking)]
    others = tuple(Other(solution.chart.speaking[c].number, round(float(more[c]), 2)) for c in order[:_OTHERS])
    names = tuple(dict.fromkeys(serves))
    return Explanation(names, tuple(dict.fromkeys(dropped)), others, _in_words(solution, at, names, dropped))


def _is_pinned(solution: Solution, start: int, end: int) -> bool:
    """Whether a pin covers all of a hold."""
    return any(pin.start <= start and end <= pin.end for pin in solution.pins)


def _heard_during(solution: Solution, start: int, end: int) -> list[Heard]:
    rate, lead = solution.rate, solution.dials.lead
    from_us, to_us = rate.first_us(start + lead), rate.first_us(end + lead)
    return [part for part in solution.parts if part.start_us < to_us and from_us < part.end_us]


def _why(solution: Solution, part: Heard) -> str:
    frames = (part.end_us - part.start_us) / (solution.rate.first_us(1) or 1)
    if frames < solution.dials.shortest:
        return f"lasts {frames:.1f} frames, a hold {solution.dials.shortest}"
    if part.viseme in CLOSURES:
        return "no room next to closed lips"
    return "too short to be worth a change"


def _in_words(solution: Solution, at: int, serves: tuple[str, ...], dropped: list[Dropped]) -> str:
    hold = solution.holds[at]
    length = hold.end - hold.start
    shown = " ".join("silence" if sound == REST else sound for sound in serves)
    out = f"Shows {shown}." if shown else "In between: no sound here is long enough for its own mouth."
    closures = [f for f, sound in solution.demand.closures if hold.start <= f < hold.end and sound in serves]
    if closures and length <= solution.dials.shortest:
        out += " Held so that the lips visibly close."
    if dropped:
        out += " Skipped: " + ", ".join(f"{d.sound} ({d.why})" for d in dict.fromkeys(dropped)) + "."
    if any(pin.start < hold.end and hold.start < pin.end for pin in solution.pins):
        out += " Partly pinned by hand."
    return out + _of_grid(solution, hold)


#: So many frames around a hold are looked at to see what the grid did to it.
_AROUND = 36


def _of_grid(solution: Solution, hold: Hold) -> str:
    """What the grid did to a hold, in words: nothing where it would begin there anyway."""
    grid = solution.dials.grid
    if grid == 1:
        return ""
    first, end = max(0, hold.start - _AROUND), hold.end + _AROUND
    fixed = tuple(
        Fixed(max(pin.start, first) - first, min(pin.end, end) - first, pin.allowed)
        for pin in solution.problem.fixed
        if pin.start < end and first < pin.end
    )
    near = replace(solution.problem, costs=solution.problem.costs[first:end], fixed=fixed, grid=1)
    free = find_path(near)
    column = solution.keys.index((hold.set, hold.drawing))
    own = np.flatnonzero(free[hold.start - first : hold.end - first] == column)
    if not len(own):
        return f" Caused by the lock on {grid}: without it another mouth would be here."
    start = hold.start - first + int(own[0])
    while start and free[start - 1] == column:
        start -= 1
    by = hold.start - (first + start)
    if not by or not start:
        return ""
    frames = f"{abs(by)} frame{'' if abs(by) == 1 else 's'}"
    return f" Locked on {grid}, it starts {frames} {'later' if by > 0 else 'earlier'}."
