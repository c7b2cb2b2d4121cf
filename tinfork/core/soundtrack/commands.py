"""Edits by name, as pages send them: parameters checked, frames turned into time, then `edits` and `turns` do it.

Clips are placed to the frame; turns and fades to the microsecond. Times are the shot's.
"""

from collections.abc import Callable

from tinfork.core.errors import FormatError, TimingError
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.given import Given
from tinfork.core.soundtrack.model import MOST_NUMBERS, Clip, Soundtrack, Voice
from tinfork.core.soundtrack.mouthcommands import MOUTHS
from tinfork.core.soundtrack.project import voice_time, voices_between
from tinfork.core.soundtrack.wordcommands import WORDS
from tinfork.core.speech import turns
from tinfork.core.speech.reading import Reading, Turn

MAX_TAPS = 2_000


def _place(st: Soundtrack, given: Given) -> Soundtrack:
    take, info = given.take()
    part = None
    if given.values.get("in_us") is not None:
        part = (given.whole("in_us", 0, info.length_us), given.whole("out_us", 0, info.length_us))
        if part[1] <= part[0]:
            raise FormatError("The part of a take must have a length.")
    track = None if given.values.get("track") is None else given.whole("track", 1)
    kind = given.one_of("kind", ("voice", "effects"))
    return edits.place(
        st, take, info.length_us, given.frame("frame"), kind=kind, track=track, part=part, reading=info.reading
    )


def _move(st: Soundtrack, given: Given) -> Soundtrack:
    track = None if given.values.get("track") is None else given.whole("track", 1)
    what = given.one_of("what", (edits.BOTH, edits.SOUND, edits.READING))
    return edits.move(st, given.whole("clip", 1), given.frame("frame"), what=what, track=track)


def _trim(st: Soundtrack, given: Given) -> Soundtrack:
    return edits.trim(st, given.whole("clip", 1), start_us=given.maybe_frame("start"), end_us=given.maybe_frame("end"))


def _fade(st: Soundtrack, given: Given) -> Soundtrack:
    return edits.fade(st, given.whole("clip", 1), given.whole("fade_in_us"), given.whole("fade_out_us"))


def _gap(st: Soundtrack, given: Given) -> Soundtrack:
    at = given.whole("frame")
    frames = given.whole("frames", 1)
    at_us = given.rate.first_us(at)
    return edits.insert_gap(st, at_us, given.rate.first_us(at + frames) - at_us)


def _begin(st: Soundtrack, given: Given) -> Soundtrack:
    first = min(st.clips, key=lambda c: c.start_us, default=None)
    heard = None
    if first is not None and first.take in given.takes:
        heard = max(first.start_us, first.shot_time(given.takes[first.take].voice_from_us))
    return edits.begin_speech(st, given.frame("frame"), heard)


def _set_turns(st: Soundtrack, clip: Clip, change: Callable[[Reading], Reading]) -> Soundtrack:
    if clip.voice is None:
        raise TimingError("Effects have no turns.")
    voice = st.voice(clip.voice)
    return edits.set_reading(st, voice.id, change(voice.reading))


def _turn(given: Given) -> int:
    """The number of a turn; one that only its lines give has the number of the first of them, below 0."""
    return given.whole("turn", -MOST_NUMBERS, MOST_NUMBERS)


def _turn_trim(st: Soundtrack, given: Given) -> Soundtrack:
    clip = st.clip(given.whole("clip", 1))
    span = [voice_time(st, clip, given.whole(name)) for name in ("start_us", "end_us")]
    return _set_turns(st, clip, lambda r: turns.trim_turn(r, _turn(given), span[0], span[1]))


def _turn_split(st: Soundtrack, given: Given) -> Soundtrack:
    clip = st.clip(given.whole("clip", 1))
    at = voice_time(st, clip, given.whole("at_us"))
    return _set_turns(st, clip, lambda r: turns.split_turn(r, _turn(given), at))


def _turn_merge(st: Soundtrack, given: Given) -> Soundtrack:
    return _set_turns(st, st.clip(given.whole("clip", 1)), lambda r: turns.merge_turns(r, _turn(given)))


def _turn_give(st: Soundtrack, given: Given) -> Soundtrack:
    clip, speaker = st.clip(given.whole("clip", 1)), given.speaker()
    return _set_turns(st, clip, lambda r: turns.give_turn(r, _turn(given), speaker))


def _turn_remove(st: Soundtrack, given: Given) -> Soundtrack:
    return _set_turns(st, st.clip(given.whole("clip", 1)), lambda r: turns.remove_turn(r, _turn(given)))


def _turn_put(st: Soundtrack, given: Given) -> Soundtrack:
    speaker, start, end = given.speaker(), given.whole("start_us"), given.whole("end_us")
    found = _voices_of(st, speaker, start, end)
    for clip, voice in found:
        low, high = max(start, clip.start_us), min(end, clip.end_us)
        span = (voice_time(st, clip, low), voice_time(st, clip, high))
        reading = st.voice(voice.id).reading
        st = edits.set_reading(st, voice.id, turns.put_turn(reading, speaker, *span))
    return st


def _voices_of(st: Soundtrack, speaker: str, start: int, end: int) -> list[tuple[Clip, Voice]]:
    """The clips under a stretch whose voice a speaker has lines in; where there is none, all of them."""
    under = voices_between(st, start, end)
    if not under:
        raise TimingError("There is no voice there.")
    own = [(c, v) for c, v in under if any(line.speaker == speaker for line in v.reading.lines)]
    return own or under


def _tap(st: Soundtrack, given: Given) -> Soundtrack:
    by_clip: dict[int, list[Turn]] = {}
    speed = given.number("speed", 0.1, 4)
    for one in given.rows("taps", MAX_TAPS):
        speaker, start, end = one.speaker(), one.whole("start_us"), one.whole("end_us")
        if end <= start:
            raise FormatError("A tapped turn ends after it starts.")
        for clip, _ in _voices_of(st, speaker, start, end):
            low, high = max(start, clip.start_us), min(end, clip.end_us)
            span = (voice_time(st, clip, low), voice_time(st, clip, high))
            by_clip.setdefault(clip.id, []).append(Turn(speaker, max(0, span[0]), max(span), by_hand=True))
    for number, spans in by_clip.items():
        st = _set_turns(st, st.clip(number), lambda r, spans=spans: turns.tap_turns(r, spans, speed))  # type: ignore[misc]
    return st


COMMANDS: dict[str, Callable[[Soundtrack, Given], Soundtrack]] = {
    "place": _place,
    "move": _move,
    "trim": _trim,
    "split": lambda st, g: edits.split(st, g.whole("clip", 1), g.frame("frame")),
    "fade": _fade,
    "gain": lambda st, g: edits.set_gain(st, g.whole("clip", 1), g.number("db", -24, 24)),
    "duplicate": lambda st, g: edits.duplicate(st, g.whole("clip", 1), g.frame("frame")),
    "remove": lambda st, g: edits.remove(st, g.whole("clip", 1)),
    "gap": _gap,
    "begin": _begin,
    "length": lambda st, g: edits.set_length(st, g.frame("frames")),
    "add_track": lambda st, g: edits.add_track(st, g.text("name", 80), g.one_of("kind", ("voice", "effects"))),
    "remove_track": lambda st, g: edits.remove_track(st, g.whole("track", 1)),
    "mute_track": lambda st, g: edits.mute_track(st, g.whole("track", 1), g.flag("muted")),
    "turn_trim": _turn_trim,
    "turn_split": _turn_split,
    "turn_merge": _turn_merge,
    "turn_give": _turn_give,
    "turn_remove": _turn_remove,
    "turn_put": _turn_put,
    "tap": _tap,
    **MOUTHS,
    **WORDS,
}


#: Commands that must know of takes.
OF_TAKES = frozenset({"place", "begin"})


def apply(st: Soundtrack, name: str, given: Given) -> Soundtrack:
    """The soundtrack after a command; raises `FormatError` for one that is none, `TimingError` for one that cannot
    be.
    """
    command = COMMANDS.get(name)
    if command is None:
        raise FormatError("There is no such edit.")
    return command(st, given)
