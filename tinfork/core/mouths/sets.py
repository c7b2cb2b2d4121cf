"""Showing stretches of a finished shot with another set (mood) of drawings, with the same timing."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from tinfork.core.mouths.chart import Chart, correspondence
from tinfork.core.solver.problem import NO_MOUTH, Hold


@dataclass(frozen=True)
class SetSpan:
    """Frames `[start, end)` that show the drawings of another set."""

    start: int
    end: int
    set: str
    chart: Chart


def move_to_sets(holds: Sequence[Hold], of: Chart, stretches: Sequence[SetSpan]) -> tuple[Hold, ...]:
    """The holds, with each stretch in its own set; stretches do not overlap.

    Drawings correspond by the sounds they show. Every change of drawing stays on its frame; a hold that reaches over
    the edge of a stretch is split there.
    """
    out = list(holds)
    for stretch in stretches:
        pairs = correspondence(of, stretch.chart)
        out = [part for hold in out for part in _moved(hold, stretch, pairs)]
    return tuple(_joined(out))


def _moved(hold: Hold, stretch: SetSpan, pairs: dict[int, int]) -> Iterator[Hold]:
    start, end = max(hold.start, stretch.start), min(hold.end, stretch.end)
    if start >= end:
        yield hold
        return
    if hold.start < start:
        yield replace(hold, end=start)
    # A special drawing without a counterpart in the set stays as it is.
    here = pairs.get(hold.drawing) if not hold.set else None
    inside = replace(hold, start=start, end=end)
    if hold.drawing == NO_MOUTH and not hold.set:
        # A hidden mouth still belongs to the set, since the set may have its own face.
        yield replace(inside, set=stretch.set)
    else:
        yield inside if here is None else replace(inside, drawing=here, set=stretch.set)
    if end < hold.end:
        yield replace(hold, start=end)


def _joined(holds: list[Hold]) -> Iterator[Hold]:
    """Neighbouring holds of the same drawing joined: a smaller set has one drawing for several."""
    last: Hold | None = None
    for hold in holds:
        if last and (last.drawing, last.set) == (hold.drawing, hold.set):
            last = replace(last, end=hold.end)
            continue
        if last:
            yield last
        last = hold
    if last:
        yield last
