"""Edits of a mouth column, in the way exposure sheets are edited by hand.

The holds shown now are moved, and pinned at their new frames.

Frames count from the shot's first. A column is the holds that are shown. Each edit returns the next soundtrack, in
which the moved holds are pinned and the frames they left are solved again. Inserting or removing frames moves only
pins.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tinfork.core.clock import FrameRate
from tinfork.core.errors import TimingError
from tinfork.core.mouths.chart import Chart, correspondence
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.soundtrack.model import Pin, PinnedMouth, Soundtrack
from tinfork.core.soundtrack.pinning import clear, mouth_pins, move_pins, pin_row
from tinfork.core.speech.turns import REACTION_US


@dataclass(frozen=True)
class HoldColumn:
    """One character's mouths as they are shown on frames `[0, frames)`; holds in order, without gaps."""

    character: str
    holds: tuple[Hold, ...]
    rate: FrameRate

    @property
    def frames(self) -> int:
        """How many frames the shot has."""
        return self.holds[-1].end if self.holds else 0

    def part(self, first: int, end: int) -> list[Hold]:
        """The holds on frames `[first, end)`, cut at both ends."""
        return [
            Hold(max(h.start, first), min(h.end, end), h.drawing, h.viseme, h.set)
            for h in self.holds
            if h.start < end and h.end > first
        ]

    def hold_on(self, frame: int) -> Hold:
        """The hold on a frame.

        Raises
        ------
        TimingError
            Outside the shot.
        """
        found = next((h for h in self.holds if h.start <= frame < h.end), None)
        if found is None:
            raise TimingError("edit.frames_of_shot", frames=self.frames)
        return found


def _row(column: HoldColumn, holds: Sequence[Hold], by: int = 0) -> list[tuple[int, int, PinnedMouth]]:
    """Holds shifted by frames, as pins, cut at the ends of the shot."""
    out = []
    for hold in holds:
        start, end = max(0, hold.start + by), min(column.frames, hold.end + by)
        if start < end:
            mouth = PinnedMouth(column.character, hold.drawing, hold.set)
            out.append((column.rate.first_us(start), column.rate.first_us(end), mouth))
    return out


def _cleared(st: Soundtrack, column: HoldColumn, first: int, end: int) -> Soundtrack:
    first, end = max(0, first), min(column.frames, end)
    if first >= end:
        return st
    return clear(st, column.character, column.rate.first_us(first), column.rate.first_us(end))


def clear_frames(st: Soundtrack, column: HoldColumn, first: int, end: int) -> Soundtrack:
    """Give frames `[first, end)` back to the solver."""
    return _cleared(st, column, first, end)


def stretch(st: Soundtrack, column: HoldColumn, frame: int, to: int, *, at_start: bool = False) -> Soundtrack:
    """Move the start or the end of the hold (or pin) on a frame; its neighbour gives way."""
    hold = column.hold_on(frame)
    start, end = _pin_on(st, column, frame) or (hold.start, hold.end)
    # Its old pin must not cover the frames that it gives up.
    st = _cleared(st, column, start, end)
    start, end = (min(to, end - 1), end) if at_start else (start, max(to, start + 1))
    moved = Hold(max(0, start), min(end, column.frames), hold.drawing, hold.viseme, hold.set)
    return pin_row(st, column.character, _row(column, [moved]))


def _pin_on(st: Soundtrack, column: HoldColumn, frame: int) -> tuple[int, int] | None:
    for pin in mouth_pins(st, column.character):
        start, end = frames_of(pin, column.rate)
        if start <= frame < end and pin.mouth and pin.mouth.is_exact:
            return start, end
    return None


def frames_of(pin: Pin, rate: FrameRate) -> tuple[int, int]:
    """The frames `[first, end)` of a pin."""
    return rate.nearest_span(pin.start_us, pin.end_us)


def split(st: Soundtrack, column: HoldColumn, frame: int) -> Soundtrack:
    """Split the hold of a frame in two, the second beginning on that frame; both are pinned.

    Raises
    ------
    TimingError
        On the first frame of a hold.
    """
    hold = column.hold_on(frame)
    start, end = _pin_on(st, column, frame) or (hold.start, hold.end)
    if not start < frame < end:
        raise TimingError("column.split_at_start")
    halves = [Hold(a, b, hold.drawing, hold.viseme, hold.set) for a, b in ((start, frame), (frame, end))]
    return pin_row(st, column.character, _row(column, halves))


def give_to_before(st: Soundtrack, column: HoldColumn, first: int, end: int) -> Soundtrack:
    """Extend the hold before frames `[first, end)` over them.

    Raises
    ------
    TimingError
        On the first frame of the shot.
    """
    if first <= 0:
        raise TimingError("column.nothing_before")
    before = column.hold_on(first - 1)
    start, _ = _pin_on(st, column, first - 1) or (before.start, before.end)
    longer = Hold(start, min(end, column.frames), before.drawing, before.viseme, before.set)
    return pin_row(st, column.character, _row(column, [longer]))


def nudge(st: Soundtrack, column: HoldColumn, first: int, end: int, by: int) -> Soundtrack:
    """Shift the holds of frames `[first, end)`.

    The frames they leave are solved again; the result is cut at the ends of the shot.

    Raises
    ------
    TimingError
        For frames outside the shot.
    """
    row = _row(column, column.part(first, end), by)
    if not row:
        raise TimingError("column.outside_shot")
    return pin_row(_cleared(st, column, first, end), column.character, row)


def insert_frames(st: Soundtrack, column: HoldColumn, at: int, frames: int, until: int) -> Soundtrack:
    """Insert frames: pins on `[at, until)` move later, and a pin across `at` gets longer.

    Everything that is not pinned belongs to the sound, and stays.
    """
    spans = {}
    for key, (start, end) in _pins(st, column).items():
        if at < end and start < until:
            spans[key] = (start + frames if start >= at else start, end + frames)
    return _moved(st, column, spans)


def remove_frames(st: Soundtrack, column: HoldColumn, first: int, end: int, until: int) -> Soundtrack:
    """Remove frames: pins on `[end, until)` move earlier; pins on the removed frames get shorter, or are removed."""

    def moved(frame: int) -> int:
        return frame if frame <= first else max(first, frame - (end - first))

    spans = {}
    for key, (start, stop) in _pins(st, column).items():
        if first < stop and start < until:
            spans[key] = moved(start), moved(stop)
    return _moved(st, column, spans)


def _pins(st: Soundtrack, column: HoldColumn) -> dict[int, tuple[int, int]]:
    """The frames of the character's pins, by their keys."""
    return {pin.key: frames_of(pin, column.rate) for pin in mouth_pins(st, column.character)}


def _moved(st: Soundtrack, column: HoldColumn, spans: Mapping[int, tuple[int, int]]) -> Soundtrack:
    """Pins moved to other frames, cut at the ends of the shot.

    Raises
    ------
    TimingError
        Where nothing is pinned.
    """
    if not spans:
        raise TimingError("column.nothing_pinned")
    cut = {key: (min(a, column.frames), min(b, column.frames)) for key, (a, b) in spans.items()}
    return move_pins(st, {key: (column.rate.first_us(a), column.rate.first_us(b)) for key, (a, b) in cut.items()})


@dataclass(frozen=True, slots=True)
class Copied:
    """A copied hold: its number of frames, its drawing and set."""

    frames: int
    drawing: int
    set: str = ""


def paste(st: Soundtrack, column: HoldColumn, at: int, copied: Sequence[Copied]) -> Soundtrack:
    """Paste copied holds from a frame on."""
    row: list[Hold] = []
    for one in copied:
        row.append(Hold(at, at + one.frames, one.drawing, "", one.set))
        at += one.frames
    return pin_row(st, column.character, _row(column, [h for h in row if h.drawing != UNMATCHED]))


#: The drawing of a copied hold for which the other character has no match: those frames do not change.
UNMATCHED = -2


def matched(copied: Sequence[Copied], of: Mapping[str, Chart], to: Chart) -> list[Copied]:
    """Match holds of one character's charts (by set) to drawings of another's first set that show the same sounds."""
    out: list[Copied] = []
    for one in copied:
        if one.drawing == NO_MOUTH:
            out.append(one)
            continue
        chart = of.get(one.set)
        found = correspondence(chart, to).get(one.drawing) if chart else None
        out.append(Copied(one.frames, UNMATCHED if found is None else found))
    return out


@dataclass(frozen=True, slots=True)
class Tap:
    """A drawing, and the times between which its key was down."""

    start_us: int
    end_us: int
    drawing: int
    set: str = ""


def tap(st: Soundtrack, column: HoldColumn, taps: Sequence[Tap], speed: float) -> Soundtrack:
    """Pin mouths that were tapped during playback at a speed.

    They are pinned on the frames when their keys were down, less the reaction time.
    """
    late = round(REACTION_US * speed)
    row: list[Hold] = []
    for one in sorted(taps, key=lambda t: t.start_us):
        start = column.rate.frame_at(max(0, one.start_us - late))
        end = max(start + 1, column.rate.frame_at(max(0, one.end_us - late)))
        row.append(Hold(start, end, one.drawing, "", one.set))
    return pin_row(st, column.character, _row(column, row))
