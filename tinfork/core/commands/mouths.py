"""Edits of mouths and notes, on frames of a character. Frames count from 0, and `last` is included."""

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
#: A pin's number; that of a stretch of another set is negative.
PinKey = Annotated[int, Meta(ge=-(2**40), le=2**40)]


def _column(speaker: str, context: EditContext) -> HoldColumn:
    who = context.speaker(speaker)
    return HoldColumn(who, context.holds(who), context.rate)


def _span_us(st: Soundtrack, first: int, last: int, context: EditContext) -> tuple[int, int]:
    """The times `[start, end)` of frames, cut at the end of the shot.

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
    """Fix a drawing on frames; without a drawing, fix that these frames show one and the same.

    A pin that is not `exact` may give way to others.
    """

    drawing: DrawingNumber | None = None
    set: SetName = ""
    exact: bool = True

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        mouth = PinnedMouth(context.speaker(self.speaker), self.drawing, self.set, self.exact)
        return pinning.pin_mouth(st, *_span_us(st, self.first, self.last, context), mouth)


class Unpin(Command, frozen=True):
    """Remove a pin."""

    pin: PinKey

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return pinning.unpin(st, self.pin)


class Clear(FrameSpan, frozen=True):
    """Remove everything that was set by hand on frames."""

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.clear_frames(st, _column(self.speaker, context), *span_of(self.first, self.last))


class Stretch(Command, frozen=True):
    """Let the hold of a frame end on another frame, or, with `at_start`, begin on it."""

    speaker: Speaker
    frame: Frame
    to: Frame
    at_start: bool = False

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.stretch(st, _column(self.speaker, context), self.frame, self.to, at_start=self.at_start)


class SplitHold(Command, frozen=True):
    """Cut a hold in two, and pin both parts."""

    speaker: Speaker
    frame: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.split(st, _column(self.speaker, context), self.frame)


class GiveToBefore(FrameSpan, frozen=True):
    """Give frames to the hold before them."""

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.give_to_before(st, _column(self.speaker, context), *span_of(self.first, self.last))


class Nudge(FrameSpan, frozen=True):
    """Shift the mouths of some frames by a number of frames."""

    by: FrameShift

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return columns.nudge(st, _column(self.speaker, context), *span_of(self.first, self.last), self.by)


def _until(until: int | None, column: HoldColumn) -> int:
    """The frame up to which a column is shifted: its end, unless another is given."""
    return column.frames if until is None else min(column.frames, until)


class InsertFrames(Command, frozen=True):
    """Insert frames into a column; what follows, up to `until`, moves later."""

    speaker: Speaker
    at: Frame
    frames: Annotated[int, Meta(ge=1, le=10_000)]
    until: Frame | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = _column(self.speaker, context)
        return columns.insert_frames(st, column, self.at, self.frames, _until(self.until, column))


class RemoveFrames(FrameSpan, frozen=True):
    """Remove frames from a column; what follows, up to `until`, moves earlier."""

    until: Frame | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = _column(self.speaker, context)
        return columns.remove_frames(st, column, *span_of(self.first, self.last), _until(self.until, column))


class CopiedHold(Parameters, frozen=True):
    """A copied hold: its drawing and its number of frames."""

    frames: Frames
    drawing: DrawingNumber
    set: SetName = ""


class Paste(Command, frozen=True):
    """Paste copied mouths; those of another character (`of`) are matched by the sounds they show."""

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
    """Set mouths that were tapped during playback."""

    speaker: Speaker
    taps: Annotated[list[TappedMouth], Meta(min_length=1, max_length=MAX_TAPPED)]
    speed: Speed

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        taps = [Tap(one.start_us, one.end_us, one.drawing, one.set) for one in self.taps]
        return columns.tap(st, _column(self.speaker, context), taps, self.speed)


class Note(Command, frozen=True):
    """Write a note on a frame, or change the text of a `note` by its number, wherever it is now.

    An empty text removes it.
    """

    frame: Frame
    text: Annotated[str, Meta(max_length=MAX_NOTE_CHARACTERS)]
    note: Number | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        # Frames before it may have been inserted or removed since the page was drawn.
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
