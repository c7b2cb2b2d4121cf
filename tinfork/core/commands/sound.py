"""Edits of a shot's sound: clips and tracks, and who speaks when.

Clips are placed to the frame; turns and fades to the microsecond. Times are the shot's.
"""

from collections.abc import Callable
from typing import Annotated, Literal

from msgspec import Meta

from tinfork.core.commands.declared import (
    Command,
    EditContext,
    Frame,
    Frames,
    Key,
    Micros,
    Name,
    Number,
    Parameters,
    Speaker,
    Speed,
    TurnNumber,
    one_line,
)
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.model import MAX_GAIN_DB, Clip, Soundtrack, Voice
from tinfork.core.soundtrack.project import voice_time, voices_between
from tinfork.core.speech import turns
from tinfork.core.speech.reading import Reading, Turn

MAX_TAPS = 2_000
TrackKind = Literal["voice", "effects"]


class Place(Command, frozen=True):
    """Place a take, or the part of it from `in_us` to `out_us`, on a track or a new one."""

    NEEDS_TAKES = True

    take: Key
    frame: Frame
    kind: TrackKind = "voice"
    track: Number | None = None
    in_us: Micros | None = None
    out_us: Micros | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        info = context.take(self.take)
        part = None
        if self.in_us is not None:
            end_us = info.length_us if self.out_us is None else min(self.out_us, info.length_us)
            part = (self.in_us, end_us)
            if end_us <= self.in_us:
                raise FormatError("sound.empty_part")
        at_us = context.rate.first_us(self.frame)
        return edits.place(
            st, self.take, info.length_us, at_us, kind=self.kind, track=self.track, part=part, reading=info.reading
        )


class Move(Command, frozen=True):
    """Move a clip: its sound, its reading, or both."""

    clip: Number
    frame: Frame
    what: Literal["both", "sound", "reading"] = "both"
    track: Number | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.move(st, self.clip, context.rate.first_us(self.frame), what=self.what, track=self.track)


class Trim(Command, frozen=True):
    """Make a clip begin or end on another frame."""

    clip: Number
    start: Frame | None = None
    end: Frame | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        start_us, end_us = (None if at is None else context.rate.first_us(at) for at in (self.start, self.end))
        return edits.trim(st, self.clip, start_us=start_us, end_us=end_us)


class Split(Command, frozen=True):
    """Cut a clip in two."""

    clip: Number
    frame: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.split(st, self.clip, context.rate.first_us(self.frame))


class Fade(Command, frozen=True):
    """Fade a clip in and out."""

    clip: Number
    fade_in_us: Micros
    fade_out_us: Micros

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.fade(st, self.clip, self.fade_in_us, self.fade_out_us)


class Gain(Command, frozen=True):
    """Make a clip louder or softer, in dB."""

    clip: Number
    db: Annotated[float, Meta(ge=-MAX_GAIN_DB, le=MAX_GAIN_DB)]

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.set_gain(st, self.clip, self.db)


class Duplicate(Command, frozen=True):
    """Place a clip a second time."""

    clip: Number
    frame: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.duplicate(st, self.clip, context.rate.first_us(self.frame))


class Remove(Command, frozen=True):
    """Remove a clip from the shot; with `closes`, what follows moves up to where it began."""

    clip: Number
    closes: bool = False

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.remove(st, self.clip, closes=self.closes)


class Gap(Command, frozen=True):
    """Insert silence: everything from a frame on moves later."""

    frame: Frame
    frames: Frames

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        at_us = context.rate.first_us(self.frame)
        return edits.insert_gap(st, at_us, context.rate.first_us(self.frame + self.frames) - at_us)


class Begin(Command, frozen=True):
    """Move all sound so that speech starts on a frame."""

    NEEDS_TAKES = True

    frame: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        first = min(st.clips, key=lambda c: c.start_us, default=None)
        heard = None
        if first is not None and first.take in context.takes:
            heard = max(first.start_us, first.shot_time(context.takes[first.take].voice_from_us))
        return edits.begin_speech(st, context.rate.first_us(self.frame), heard)


class Length(Command, frozen=True):
    """Set the least length of the shot in frames; 0 for the length of its sound."""

    frames: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.set_length(st, context.rate.first_us(self.frames))


class AddTrack(Command, frozen=True):
    """Add a track for voices or for effects."""

    name: Name
    kind: TrackKind = "voice"

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.add_track(st, one_line(self.name), self.kind)


class RemoveTrack(Command, frozen=True):
    """Remove an empty track."""

    track: Number

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.remove_track(st, self.track)


class MuteTrack(Command, frozen=True):
    """Mute or unmute a track."""

    track: Number
    muted: bool

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return edits.mute_track(st, self.track, self.muted)


class TurnTrim(Command, frozen=True):
    """Change where a turn begins and ends."""

    clip: Number
    turn: TurnNumber
    start_us: Micros
    end_us: Micros

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        clip = st.clip(self.clip)
        start, end = voice_time(st, clip, self.start_us), voice_time(st, clip, self.end_us)
        return _set_turns(st, clip, lambda reading: turns.trim_turn(reading, self.turn, start, end))


class TurnSplit(Command, frozen=True):
    """Cut a turn in two."""

    clip: Number
    turn: TurnNumber
    at_us: Micros

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        clip = st.clip(self.clip)
        at = voice_time(st, clip, self.at_us)
        return _set_turns(st, clip, lambda reading: turns.split_turn(reading, self.turn, at))


class TurnMerge(Command, frozen=True):
    """Join a turn with the next one."""

    clip: Number
    turn: TurnNumber

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return _set_turns(st, st.clip(self.clip), lambda reading: turns.merge_turns(reading, self.turn))


class TurnGive(Command, frozen=True):
    """Give a turn to another character."""

    clip: Number
    turn: TurnNumber
    speaker: Speaker

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        clip, speaker = st.clip(self.clip), context.speaker(self.speaker)
        return _set_turns(st, clip, lambda reading: turns.give_turn(reading, self.turn, speaker))


class TurnRemove(Command, frozen=True):
    """Remove a turn."""

    clip: Number
    turn: TurnNumber

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return _set_turns(st, st.clip(self.clip), lambda reading: turns.remove_turn(reading, self.turn))


class TurnPut(Command, frozen=True):
    """Add a turn: a character speaks from one time to another."""

    speaker: Speaker
    start_us: Micros
    end_us: Micros

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        speaker = context.speaker(self.speaker)
        for clip, voice in _voices_of(st, speaker, self.start_us, self.end_us):
            low, high = max(self.start_us, clip.start_us), min(self.end_us, clip.end_us)
            span = (voice_time(st, clip, low), voice_time(st, clip, high))
            reading = st.voice(voice.id).reading
            st = edits.set_reading(st, voice.id, turns.put_turn(reading, speaker, *span))
        return st


class TappedTurn(Parameters, frozen=True):
    """A tapped turn: who speaks from when to when."""

    speaker: Speaker
    start_us: Micros
    end_us: Micros


class TapTurns(Command, frozen=True):
    """Set turns that were tapped during playback."""

    taps: Annotated[list[TappedTurn], Meta(min_length=1, max_length=MAX_TAPS)]
    speed: Speed

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        by_clip: dict[int, list[Turn]] = {}
        for tapped in self.taps:
            speaker, start, end = context.speaker(tapped.speaker), tapped.start_us, tapped.end_us
            if end <= start:
                raise FormatError("sound.turn_reversed")
            for clip, _ in _voices_of(st, speaker, start, end):
                low, high = max(start, clip.start_us), min(end, clip.end_us)
                span = (voice_time(st, clip, low), voice_time(st, clip, high))
                by_clip.setdefault(clip.id, []).append(Turn(speaker, max(0, span[0]), max(span), by_hand=True))
        for number, spans in by_clip.items():
            st = _set_turns(st, st.clip(number), lambda r, spans=spans: turns.tap_turns(r, spans, self.speed))  # type: ignore[misc]
        return st


def _set_turns(st: Soundtrack, clip: Clip, change: Callable[[Reading], Reading]) -> Soundtrack:
    if clip.voice is None:
        raise TimingError("sound.effects_without_turns")
    voice = st.voice(clip.voice)
    return edits.set_reading(st, voice.id, change(voice.reading))


def _voices_of(st: Soundtrack, speaker: str, start: int, end: int) -> list[tuple[Clip, Voice]]:
    """The clips in a stretch of time in which a speaker has lines; if there are none, all clips there.

    Raises
    ------
    TimingError
        Where no voice sounds.
    """
    under = voices_between(st, start, end)
    if not under:
        raise TimingError("sound.no_voice_there")
    own = [(c, v) for c, v in under if any(line.speaker == speaker for line in v.reading.lines)]
    return own or under


SOUND: dict[str, type[Command]] = {
    "place": Place,
    "move": Move,
    "trim": Trim,
    "split": Split,
    "fade": Fade,
    "gain": Gain,
    "duplicate": Duplicate,
    "remove": Remove,
    "gap": Gap,
    "begin": Begin,
    "length": Length,
    "add_track": AddTrack,
    "remove_track": RemoveTrack,
    "mute_track": MuteTrack,
    "turn_trim": TurnTrim,
    "turn_split": TurnSplit,
    "turn_merge": TurnMerge,
    "turn_give": TurnGive,
    "turn_remove": TurnRemove,
    "turn_put": TurnPut,
    "tap": TapTurns,
}
