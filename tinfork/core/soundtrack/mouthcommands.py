"""Edits of mouths and notes by name: which frames of which character. Frames count from 0, `last` is the last one."""

from collections.abc import Callable

from tinfork.core.errors import FormatError, TimingError
from tinfork.core.solver.problem import NO_MOUTH
from tinfork.core.soundtrack import columns, edits, pinning
from tinfork.core.soundtrack.columns import Column, Copied, Tap
from tinfork.core.soundtrack.given import MOST_FRAMES, Given
from tinfork.core.soundtrack.model import LONGEST_US, MAX_NOTE_CHARACTERS, PinnedMouth, Soundtrack

MAX_COPIED = 20_000
MAX_TAPPED = 2_000


def _set(given: Given) -> str:
    return given.text("set", 80) if given.values.get("set") else ""


def _drawing(given: Given) -> int:
    return given.whole("drawing", NO_MOUTH, 1_000_000)


def _column(given: Given) -> Column:
    speaker = given.speaker()
    return Column(speaker, given.holds(speaker), given.rate)


def _span(st: Soundtrack, given: Given) -> tuple[int, int]:
    """Frames `[first, end)` of the shot: none past its last one."""
    first, end = given.span()
    frames = given.rate.frames_in(st.duration_us)
    if first >= frames:
        raise TimingError(f"This shot has {frames} frames.")
    return first, min(end, frames)


def _pin_mouth(st: Soundtrack, given: Given) -> Soundtrack:
    first, end = _span(st, given)
    drawing = None if given.values.get("drawing") is None else _drawing(given)
    mouth = PinnedMouth(given.speaker(), drawing, _set(given), given.values.get("exact") is not False)
    return pinning.pin_mouth(st, given.rate.first_us(first), given.rate.first_us(end), mouth)


def _pin_trim(st: Soundtrack, given: Given) -> Soundtrack:
    first, end = _span(st, given)
    return pinning.trim_pin(st, _pin(given), given.rate.first_us(first), given.rate.first_us(end))


def _pin(given: Given) -> int:
    return given.whole("pin", -(2**40), 2**40)


def _stretch(st: Soundtrack, given: Given) -> Soundtrack:
    frame, to = given.whole("frame", 0, MOST_FRAMES), given.whole("to", 0, MOST_FRAMES)
    return columns.stretch(st, _column(given), frame, to, at_start=given.flag("at_start"))


def _nudge(st: Soundtrack, given: Given) -> Soundtrack:
    return columns.nudge(st, _column(given), *given.span(), given.whole("by", -MOST_FRAMES, MOST_FRAMES))


def _until(given: Given, column: Column) -> int:
    """Up to which frame a column moves; to its end where nothing is said."""
    if given.values.get("until") is None:
        return column.frames
    return min(column.frames, given.whole("until", 0, MOST_FRAMES))


def _insert(st: Soundtrack, given: Given) -> Soundtrack:
    column = _column(given)
    at, frames = given.whole("at", 0, MOST_FRAMES), given.whole("frames", 1, 10_000)
    return columns.insert_frames(st, column, at, frames, _until(given, column))


def _remove(st: Soundtrack, given: Given) -> Soundtrack:
    column = _column(given)
    return columns.remove_frames(st, column, *given.span(), _until(given, column))


def _paste(st: Soundtrack, given: Given) -> Soundtrack:
    column = _column(given)
    copied = [
        Copied(one.whole("frames", 1, MOST_FRAMES), _drawing(one), _set(one)) for one in given.rows("holds", MAX_COPIED)
    ]
    source = str(given.values.get("of") or column.character)
    if source != column.character:
        if source not in given.speakers:
            raise FormatError("The character these mouths were copied from is not in this shot any more.")
        copied = columns.matched(copied, given.charts(source), given.charts(column.character)[""])
    return columns.paste(st, column, given.whole("at", 0, MOST_FRAMES), copied)


def _tap(st: Soundtrack, given: Given) -> Soundtrack:
    taps = [
        Tap(one.whole("start_us", 0, LONGEST_US), one.whole("end_us", 0, LONGEST_US), _drawing(one), _set(one))
        for one in given.rows("taps", MAX_TAPPED)
    ]
    return columns.tap(st, _column(given), taps, given.number("speed", 0.1, 4))


def _note(st: Soundtrack, given: Given) -> Soundtrack:
    text = given.values.get("text")
    if not isinstance(text, str) or len(text) > MAX_NOTE_CHARACTERS:
        raise FormatError(f"A note is a text of up to {MAX_NOTE_CHARACTERS} characters.")
    frame = given.whole("frame", 0, MOST_FRAMES)
    span = given.rate.first_us(frame), given.rate.first_us(frame + 1)
    return edits.write_note(st, *span, " ".join(text.split()))


MOUTHS: dict[str, Callable[[Soundtrack, Given], Soundtrack]] = {
    "pin": _pin_mouth,
    "pin_trim": _pin_trim,
    "unpin": lambda st, g: pinning.unpin(st, _pin(g)),
    "clear": lambda st, g: columns.clear_frames(st, _column(g), *g.span()),
    "stretch": _stretch,
    "split_hold": lambda st, g: columns.split(st, _column(g), g.whole("frame", 0, MOST_FRAMES)),
    "give_to_before": lambda st, g: columns.give_to_before(st, _column(g), *g.span()),
    "nudge": _nudge,
    "insert_frames": _insert,
    "remove_frames": _remove,
    "paste": _paste,
    "tap_mouths": _tap,
    "note": _note,
}
