"""Why a hold is as it is: the sounds it shows, those it had no room for, and the cost of other drawings."""

from dataclasses import dataclass, replace

import numpy as np

from tinfork.core.messages import Message, joined
from tinfork.core.solver.costs import UNIT
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Fixed, Hold
from tinfork.core.solver.segments import SoundSegment, SoundSegments
from tinfork.core.solver.solve import Solution
from tinfork.core.speech.visemes import CLOSURES, REST, SOUNDS

#: The most other drawings that are listed.
_OTHERS = 3


@dataclass(frozen=True, slots=True)
class Dropped:
    """A sound during a hold that the hold does not show, and why."""

    sound: str
    why: str


@dataclass(frozen=True, slots=True)
class Alternative:
    """Another drawing, and its extra cost over the hold, in frames of a wrong vowel."""

    drawing: int
    more: float


@dataclass(frozen=True)
class Explanation:
    """Why a hold is as it is; `serves` and `dropped` are sounds in IPA, in time order."""

    serves: tuple[str, ...]
    dropped: tuple[Dropped, ...]
    others: tuple[Alternative, ...]
    text: str


def explain(solution: Solution, at: int) -> Explanation:
    """Explain hold number `at`."""
    hold = solution.holds[at]
    column = solution.keys.index((hold.set, hold.drawing))
    if column >= len(solution.chart.speaking) or _is_pinned(solution, hold.start, hold.end):
        return Explanation((), (), (), Message("why.pinned"))
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
    others = tuple(Alternative(solution.chart.speaking[c].number, round(float(more[c]), 2)) for c in order[:_OTHERS])
    names = tuple(dict.fromkeys(serves))
    return Explanation(names, tuple(dict.fromkeys(dropped)), others, _in_words(solution, at, names, dropped))


def _is_pinned(solution: Solution, start: int, end: int) -> bool:
    """Whether a pin covers the whole hold."""
    return any(pin.start <= start and end <= pin.end for pin in solution.pins)


def _heard_during(solution: Solution, start: int, end: int) -> SoundSegments:
    rate, lead = solution.rate, solution.dials.lead
    from_us, to_us = rate.first_us(start + lead), rate.first_us(end + lead)
    heard = solution.segments
    return heard.taken((heard.starts_us < to_us) & (from_us < heard.ends_us))


def _why(solution: Solution, part: SoundSegment) -> str:
    frames = (part.end_us - part.start_us) / (solution.rate.first_us(1) or 1)
    if frames < solution.dials.shortest:
        return Message("why.too_short", frames=round(frames, 1), least=solution.dials.shortest)
    if part.viseme in CLOSURES:
        return Message("why.beside_closure")
    return Message("why.not_worth_it")


def _in_words(solution: Solution, at: int, serves: tuple[str, ...], dropped: list[Dropped]) -> str:
    hold = solution.holds[at]
    length = hold.end - hold.start
    if any(sound != REST for sound in serves):
        said = [Message("why.shows", sounds=" ".join(sound for sound in serves if sound != REST))]
    else:
        said = [Message("why.rests" if serves else "why.between")]
    closures = [f for f, sound in solution.demand.closures if hold.start <= f < hold.end and sound in serves]
    if closures and length <= solution.dials.shortest:
        said.append(Message("why.closes"))
    if dropped:
        each = [Message("why.skipped_one", sound=d.sound, why=d.why) for d in dict.fromkeys(dropped)]
        said.append(Message("why.skipped", sounds=joined(each, ", ")))
    if any(pin.start < hold.end and hold.start < pin.end for pin in solution.pins):
        said.append(Message("why.partly_pinned"))
    return joined([*said, *_of_grid(solution, hold)])


#: The frames around a hold that are solved again to see what the grid did to it.
_AROUND = 36


def _of_grid(solution: Solution, hold: Hold) -> list[Message]:
    """What the grid did to a hold, in words; empty if the hold would begin there anyway."""
    grid = solution.dials.grid
    if grid == 1:
        return []
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
        return [Message("why.only_on_grid", grid=grid)]
    start = hold.start - first + int(own[0])
    while start and free[start - 1] == column:
        start -= 1
    by = hold.start - (first + start)
    if not by or not start:
        return []
    return [Message("why.later_on_grid" if by > 0 else "why.earlier_on_grid", grid=grid, count=abs(by))]
