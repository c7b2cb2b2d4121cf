"""Edits of mouths and notes: which frames of which character. Frames count from 0, `last` is the last one."""

from typing import Annotated

from msgspec import Meta

from tinfork.core.commands.declared import (
    Command,
    DrawingNumber,
    EditContext,
    Frame,
    Frames,
    FrameShift,
    FrameSpan,
    Micros,
    Number,
    Parameters,
    SetName,
    Speaker,
    Speed,
    one_line,
    span_of,
)
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.soundtrack import columns, edits, pinning
from tinfork.core.soundtrack.columns import Copied, HoldColumn, Tap
from tinfork.core.soundtrack.model import MAX_NOTE_CHARACTERS, PinnedMouth, Soundtrack

MAX_COPIED = 20_000
MAX_TAPPED = 2_000
#: A pin's own number, or that of a stretch of another set, below 0.
PinKey = Annotated[int, Meta(ge=-(2**40), le=2**40)]


def _column(speaker: str, context: EditContext) -> HoldColumn:
    who = context.speaker(speaker)
    return HoldColumn(who, context.holds(who), context.rate)


def _span_us(st: Soundtrack, first: int, last: int, context: EditContext) -> tuple[int, int]:
    """Times `[start, end)` of frames of the shot: none past its last one.

    Raises
    ------
    TimingError
        Where the frames lie after the last one.
    """
    first, end = span_of(first, last)
    frames = context.rate.frames_in(st.duration_us)
    if first >= frames:
        raise TimingError("edit.frames_of_shot", frames=frames)
    return context.rate.first_us(first), context.rate.first_us(min(end, frames))


class Pin(FrameSpan, frozen=True):
    """Fix a drawing on frames, or, without one, which frames one drawing has. What is not `exact` may give way."""

    drawing: DrawingNumber | None = None
    set: SetName = ""
    exact: bool = True

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        mouth = PinnedMouth(context.speaker(self.speaker), self.drawing, self.set, self.exact)
        return pinning.pin_mouth(st, *_span_us(st, self.first, self.last, context), mouth)


class Unpin(Command, frozen=True):
    """Take a pin away."""

    pin: PinKey

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return pinning.unpin(st, self.pin)


class Clear(FrameSpan, frozen=True):
    """Take away what was set by hand on frames."""

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.clear_frames(st, _column(self.speaker, context), *span_of(self.first, self.last))


class Stretch(Command, frozen=True):
    """Let the hold of a frame end, or, `at_start`, begin on another one."""

    speaker: Speaker
    frame: Frame
    to: Frame
    at_start: bool = False

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.stretch(st, _column(self.speaker, context), self.frame, self.to, at_start=self.at_start)


class SplitHold(Command, frozen=True):
    """Cut a hold in two, both fixed."""

    speaker: Speaker
    frame: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.split(st, _column(self.speaker, context), self.frame)


class GiveToBefore(FrameSpan, frozen=True):
    """Give frames to the hold before them."""

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.give_to_before(st, _column(self.speaker, context), *span_of(self.first, self.last))


class Nudge(FrameSpan, frozen=True):
    """Show the mouths of some frames so many frames later."""

    by: FrameShift

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.nudge(st, _column(self.speaker, context), *span_of(self.first, self.last), self.by)


def _until(until: int | None, column: HoldColumn) -> int:
    """Up to which frame a column moves; to its end where nothing is said."""
    return column.frames if until is None else min(column.frames, until)


class InsertFrames(Command, frozen=True):
    """Put frames into a column; what follows, up to `until`, comes later."""

    speaker: Speaker
    at: Frame
    frames: Annotated[int, Meta(ge=1, le=10_000)]
    until: Frame | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = _column(self.speaker, context)
        return columns.insert_frames(st, column, self.at, self.frames, _until(self.until, column))


class RemoveFrames(FrameSpan, frozen=True):
    """Take frames out of a column; what follows, up to `until`, comes earlier."""

    until: Frame | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = _column(self.speaker, context)
        return columns.remove_frames(st, column, *span_of(self.first, self.last), _until(self.until, column))


class CopiedHold(Parameters, frozen=True):
    """One drawing of a column that was copied, and its frames."""

    frames: Frames
    drawing: DrawingNumber
    set: SetName = ""


class Paste(Command, frozen=True):
    """Lay down copied mouths; those of another character (`of`) are matched by their sounds."""

    speaker: Speaker
    at: Frame
    holds: Annotated[list[CopiedHold], Meta(min_length=1, max_length=MAX_COPIED)]
    of: Speaker = ""

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = _column(self.speaker, context)
        copied = [Copied(one.frames, one.drawing, one.set) for one in self.holds]
        source = self.of or column.character
        if source != column.character:
            if source not in context.speakers:
                raise FormatError("mouths.copied_from_nobody")
            copied = columns.matched(copied, context.charts(source), context.charts(column.character)[""])
        return columns.paste(st, column, self.at, copied)


class TappedMouth(Parameters, frozen=True):
    """Which drawing was held from when to when."""

    start_us: Micros
    end_us: Micros
    drawing: DrawingNumber
    set: SetName = ""


class TapMouths(Command, frozen=True):
    """Lay down mouths that were tapped while it played."""

    speaker: Speaker
    taps: Annotated[list[TappedMouth], Meta(min_length=1, max_length=MAX_TAPPED)]
    speed: Speed

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        taps = [Tap(one.start_us, one.end_us, one.drawing, one.set) for one in self.taps]
        return columns.tap(st, _column(self.speaker, context), taps, self.speed)


class Note(Command, frozen=True):
    """Write a note on a frame; or the text of a `note` by its number, wherever it is by now. No text takes it away."""

    frame: Frame
    text: Annotated[str, Meta(max_length=MAX_NOTE_CHARACTERS)]
    note: Number | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        # Frames may have been put in or taken out before it since the page was drawn.
        frame = self.frame if self.note is None else context.rate.frame_at(st.note(self.note).at_us)
        span = context.rate.first_us(frame), context.rate.first_us(frame + 1)
        return edits.write_note(st, *span, one_line(self.text))


MOUTHS: dict[str, type[Command]] = {
    "pin": Pin,
    "unpin": Unpin,
    "clear": Clear,
    "stretch": Stretch,
    "split_hold": SplitHold,
    "give_to_before": GiveToBefore,
    "nudge": Nudge,
    "insert_frames": InsertFrames,
    "remove_frames": RemoveFrames,
    "paste": Paste,
    "tap_mouths": TapMouths,
    "note": Note,
}
