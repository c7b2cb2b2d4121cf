"""Every edit to a shot's sound: pure functions from a soundtrack to the next.

What a person pinned goes with the sound under it, unless they asked for the sound alone. Nothing is cut that was not
asked to be cut: an edit that would push sound before the first frame, or onto another clip, is refused.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from tinfork.core.errors import TimingError
from tinfork.core.soundtrack.model import (
    EFFECTS,
    MAX_NOTE_CHARACTERS,
    VOICE,
    Clip,
    MotionKey,
    Note,
    Pin,
    Soundtrack,
    Track,
    Voice,
    key_order,
)
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.speech.reading import Reading

#: What is moved of a clip.
BOTH, SOUND, READING = "both", "sound", "reading"


def _next(numbers: list[int]) -> int:
    return max(numbers, default=0) + 1


def _with_clips(st: Soundtrack, clips: list[Clip], pins: tuple[Pin, ...] | None = None) -> Soundtrack:
    """The soundtrack with these clips; voices that no clip speaks with any more stay, to be found again."""
    ordered = tuple(sorted(clips, key=lambda c: (c.start_us, c.track, c.id)))
    return replace(st, clips=ordered, pins=st.pins if pins is None else pins)


def _swap(st: Soundtrack, clip: Clip, *new: Clip, pins: tuple[Pin, ...] | None = None) -> Soundtrack:
    return _with_clips(st, [*(c for c in st.clips if c.id != clip.id), *new], pins)


def add_track(st: Soundtrack, name: str, kind: str = VOICE) -> Soundtrack:
    """One more track."""
    return replace(st, tracks=(*st.tracks, Track(_next([t.id for t in st.tracks]), name, kind)))


def remove_track(st: Soundtrack, track: int) -> Soundtrack:
    """Without an empty track.

    Raises
    ------
    TimingError
        For a track that is not empty.
    """
    if any(c.track == st.track(track).id for c in st.clips):
        raise TimingError("track.not_empty")
    return replace(st, tracks=tuple(t for t in st.tracks if t.id != track))


def mute_track(st: Soundtrack, track: int, muted: bool) -> Soundtrack:
    """A track heard or not; its words stay."""
    st.track(track)
    return replace(st, tracks=tuple(replace(t, is_muted=muted) if t.id == track else t for t in st.tracks))


def free_at(st: Soundtrack, track: int, start_us: int, length_us: int, *, but: int = 0) -> bool:
    """Whether a track has room for a clip there."""
    others = (c for c in st.clips if c.track == track and c.id != but)
    return all(c.end_us <= start_us or start_us + length_us <= c.start_us for c in others)


def place(
    st: Soundtrack,
    take: int,
    take_us: int,
    start_us: int,
    *,
    kind: str = VOICE,
    track: int | None = None,
    part: tuple[int, int] | None = None,
    reading: Reading | None = None,
) -> Soundtrack:
    """A take, or a `part` `[in, out)` of it, as a new clip.

    It goes on a track, or on the first of its kind with room, or on a new one.

    A voice is read: its words are those of `reading`, in the take's time.
    """
    in_us, out_us = part or (0, take_us)
    length_us = out_us - in_us
    if track is None:
        fits = (t.id for t in st.tracks if t.kind == kind and free_at(st, t.id, start_us, length_us))
        track = next(fits, None)
        if track is None:
            kin = sum(t.kind == kind for t in st.tracks)
            name = "Effects" if kind == EFFECTS else "Voice"
            st = add_track(st, f"{name} {kin + 1}" if kin else name, kind)
            track = st.tracks[-1].id
    voice = None
    if st.track(track).kind == VOICE:
        voice = _next([v.id for v in st.voices])
        st = replace(st, voices=(*st.voices, Voice(voice, take, reading or Reading(take_us))))
    clip = Clip(_next([c.id for c in st.clips]), track, take, take_us, start_us, in_us, length_us, voice)
    return _with_clips(st, [*st.clips, clip])


def _carried(pins: tuple[Pin, ...], start_us: int, end_us: int, by_us: int) -> tuple[Pin, ...]:
    """The pins with those that lie wholly in a stretch moved along."""
    return tuple(
        replace(p, start_us=p.start_us + by_us, end_us=p.end_us + by_us)
        if start_us <= p.start_us and p.end_us <= end_us and p.start_us + by_us >= 0
        else p
        for p in pins
    )


def _carried_keys(keys: tuple[MotionKey, ...], start_us: int, end_us: int, by_us: int) -> tuple[MotionKey, ...]:
    """The keys with those of a stretch moved along; what they come to lie on gives way."""
    moved = {(k.character, k.part, k.at_us + by_us) for k in keys if start_us <= k.at_us < end_us}
    out = []
    for key in keys:
        if start_us <= key.at_us < end_us:
            out.append(replace(key, at_us=max(0, key.at_us + by_us)))
        elif (key.character, key.part, key.at_us) not in moved:
            out.append(key)
    return tuple(sorted(out, key=key_order))


def move(st: Soundtrack, clip: int, start_us: int, *, what: str = BOTH, track: int | None = None) -> Soundtrack:
    """A clip from a new start on, with its reading and the pins over it; or its sound alone, or its reading alone.

    Raises
    ------
    TimingError
        For a start before the shot's, and a track of another kind.
    """
    old = st.clip(clip)
    by_us = start_us - old.start_us
    if what == READING:
        span = old.start_us + old.slip_us, old.end_us + old.slip_us
        pins = _carried(st.pins, *span, by_us)
        st = replace(st, keys=_carried_keys(st.keys, *span, by_us))
        return _swap(st, old, replace(old, slip_us=old.slip_us + by_us), pins=pins)
    if what not in (BOTH, SOUND):
        raise TimingError("clip.what_moves")
    if start_us < 0:
        raise TimingError("clip.before_start")
    to = old.track if track is None else st.track(track).id
    if st.track(to).kind != st.track(old.track).kind:
        raise TimingError("clip.wrong_track")
    slip = old.slip_us - by_us if what == SOUND and old.voice is not None else old.slip_us
    pins = _carried(st.pins, old.start_us, old.end_us, by_us) if what == BOTH else st.pins
    if what == BOTH:
        st = replace(st, keys=_carried_keys(st.keys, old.start_us, old.end_us, by_us))
    return _swap(st, old, replace(old, start_us=start_us, track=to, slip_us=slip), pins=pins)


def trim(st: Soundtrack, clip: int, *, start_us: int | None = None, end_us: int | None = None) -> Soundtrack:
    """A clip with new ends in the shot.

    The sound in between stays where it is, what was trimmed comes back the same way.

    Raises
    ------
    TimingError
        Where nothing would be left of it.
    """
    old = st.clip(clip)
    start_us = old.start_us if start_us is None else start_us
    end_us = old.end_us if end_us is None else end_us
    # No further than the take has sound.
    start_us = max(start_us, old.start_us - old.in_us, 0)
    end_us = min(end_us, old.shot_time(old.take_us))
    if end_us - start_us <= 0:
        raise TimingError("clip.nothing_left")
    length = end_us - start_us
    fade_in = min(old.fade_in_us, length)
    new = replace(
        old,
        start_us=start_us,
        in_us=old.take_time(start_us),
        length_us=length,
        fade_in_us=fade_in,
        fade_out_us=min(old.fade_out_us, length - fade_in),
    )
    return _swap(st, old, new)


def split(st: Soundtrack, clip: int, at_us: int) -> Soundtrack:
    """A clip in two at a time of the shot; both play the same take with the same voice, and nothing sounds other."""
    old = st.clip(clip)
    left, right = _halves(st, old, at_us)
    return _swap(st, old, left, right)


def _halves(st: Soundtrack, old: Clip, at_us: int) -> tuple[Clip, Clip]:
    first = at_us - old.start_us
    if not 0 < first < old.length_us:
        raise TimingError("clip.split_outside")
    left = replace(old, length_us=first, fade_in_us=min(old.fade_in_us, first), fade_out_us=0)
    right = replace(
        old,
        id=_next([c.id for c in st.clips]),
        start_us=at_us,
        in_us=old.in_us + first,
        length_us=old.length_us - first,
        fade_in_us=0,
        fade_out_us=min(old.fade_out_us, old.length_us - first),
    )
    return left, right


def fade(st: Soundtrack, clip: int, fade_in_us: int, fade_out_us: int) -> Soundtrack:
    """How long a clip fades in and out."""
    old = st.clip(clip)
    return _swap(st, old, replace(old, fade_in_us=fade_in_us, fade_out_us=fade_out_us))


def set_gain(st: Soundtrack, clip: int, gain_db: float) -> Soundtrack:
    """How much louder or softer than its take a clip is heard."""
    old = st.clip(clip)
    return _swap(st, old, replace(old, gain_db=gain_db))


def duplicate(st: Soundtrack, clip: int, start_us: int) -> Soundtrack:
    """The same clip once more, with a voice of its own: editing the words of one leaves the other alone."""
    old = st.clip(clip)
    voice = None
    if old.voice is not None:
        voice = _next([v.id for v in st.voices])
        st = replace(st, voices=(*st.voices, replace(st.voice(old.voice), id=voice)))
    track = old.track
    if not free_at(st, track, start_us, old.length_us):
        kind = st.track(track).kind
        roomy = (t.id for t in st.tracks if t.kind == kind and free_at(st, t.id, start_us, old.length_us))
        found = next(roomy, None)
        if found is None:
            st = add_track(st, f"{st.track(track).name[:60]} again", kind)
            found = st.tracks[-1].id
        track = found
    new = replace(old, id=_next([c.id for c in st.clips]), track=track, start_us=start_us, voice=voice)
    return _with_clips(st, [*st.clips, new])


def remove(st: Soundtrack, clip: int, *, closes: bool = False) -> Soundtrack:
    """Without a clip; its take stays in the library, and its words with it. `closes`: what follows comes up."""
    old = st.clip(clip)
    st = _swap(st, old)
    if closes:
        st = close_gap(st, old.start_us, old.end_us)
    used = {c.voice for c in st.clips}
    return replace(st, voices=tuple(v for v in st.voices if v.id in used))


def close_gap(st: Soundtrack, start_us: int, end_us: int) -> Soundtrack:
    """Everything from the end of a silent stretch on comes earlier by its length, words, pins, notes and keys with it.

    What was pinned on the stretch goes with it, or is shorter; notes on it stay where it began.

    Raises
    ------
    TimingError
        Where a clip sounds in it.
    """
    if any(clip.start_us < end_us and start_us < clip.end_us for clip in st.clips):
        raise TimingError("clip.gap_in_use")
    length_us = end_us - start_us

    def earlier(at_us: int) -> int:
        return at_us if at_us <= start_us else max(start_us, at_us - length_us)

    clips = [replace(clip, start_us=earlier(clip.start_us)) for clip in st.clips]
    pins = []
    for pin in st.pins:
        first, end = earlier(pin.start_us), earlier(pin.end_us)
        if first < end:
            pins.append(replace(pin, start_us=first, end_us=end))
        elif pin.mouth is None:
            # A stretch that shows another set is a row of its own: it is kept, short.
            pins.append(replace(pin, start_us=first, end_us=first + 1))
    notes: dict[int, Note] = {}
    for note in st.notes:
        at_us = earlier(note.at_us)
        text = f"{notes[at_us].text} / {note.text}" if at_us in notes else note.text
        notes[at_us] = replace(note, at_us=at_us, text=text[:MAX_NOTE_CHARACTERS])
    keys = tuple(replace(k, at_us=earlier(k.at_us)) for k in st.keys if not start_us < k.at_us < end_us)
    shorter = st.length_us - length_us if st.length_us >= end_us else st.length_us
    st = replace(st, length_us=max(0, shorter), notes=tuple(notes.values()), keys=keys)
    return _with_clips(st, clips, tuple(pins))


def insert_gap(st: Soundtrack, at_us: int, length_us: int) -> Soundtrack:
    """Room for action: everything from a time on comes later by a length.

    Clips across it, and mouths that are pinned across it, are split there.

    A stretch that shows another set goes on through it. A set length of the shot grows by as much.

    Raises
    ------
    TimingError
        For a time before the shot, or a length of nothing.
    """
    if at_us < 0 or length_us <= 0:
        raise TimingError("edit.insert_frames")
    clips: list[Clip] = []
    for clip in st.clips:
        if clip.end_us <= at_us:
            clips.append(clip)
        elif clip.start_us >= at_us:
            clips.append(replace(clip, start_us=clip.start_us + length_us))
        else:
            taken = [c.id for c in (*st.clips, *clips)]
            left, right = _halves(st, clip, at_us)
            clips += [left, replace(right, id=_next(taken), start_us=at_us + length_us)]
    pins = tuple(_later(pin, at_us, length_us) for pin in _parted(st.pins, at_us))
    longer = st.length_us + length_us if st.length_us > at_us else st.length_us
    notes = tuple(replace(n, at_us=n.at_us + (length_us if n.at_us >= at_us else 0)) for n in st.notes)
    keys = tuple(replace(k, at_us=k.at_us + (length_us if k.at_us >= at_us else 0)) for k in st.keys)
    return _with_clips(replace(st, length_us=longer, notes=notes, keys=keys), clips, pins)


def _parted(pins: Sequence[Pin], at_us: int) -> Iterator[Pin]:
    """Pins with those of a mouth that lie across a time in two; the second half is a pin of its own."""
    fresh = min((p.key for p in pins), default=0)
    for pin in pins:
        if pin.mouth and pin.start_us < at_us < pin.end_us:
            fresh = min(fresh, 0) - 1
            yield replace(pin, end_us=at_us)
            yield replace(pin, key=fresh, start_us=at_us)
        else:
            yield pin


def _later(pin: Pin, at_us: int, length_us: int) -> Pin:
    """A pin, later by a length as far as it lies after a time."""
    start_us = pin.start_us + (length_us if pin.start_us >= at_us else 0)
    return replace(pin, start_us=start_us, end_us=pin.end_us + (length_us if pin.end_us > at_us else 0))


def begin_speech(st: Soundtrack, at_us: int, heard_from_us: int | None = None) -> Soundtrack:
    """Move all clips and pins together, so that the first word is heard at a time.

    With `heard_from_us`, it is the first sound that is.

    Silence that would come before the first frame is trimmed off; words never are.

    Raises
    ------
    TimingError
        Where nobody speaks, or sound would be lost.
    """
    first = min((word.start_us for word in reading_of(st).words()), default=heard_from_us)
    if first is None:
        raise TimingError("edit.no_speech")
    by_us = at_us - first
    if by_us < 0:
        for clip in [c for c in st.clips if c.start_us + by_us < 0]:
            if clip.end_us + by_us <= 0 or st.track(clip.track).kind == EFFECTS:
                raise TimingError("edit.sound_lost")
            st = trim(st, clip.id, start_us=-by_us)
    clips = [replace(c, start_us=c.start_us + by_us) for c in st.clips]
    pins = tuple(
        replace(p, start_us=max(0, p.start_us + by_us), end_us=p.end_us + by_us)
        for p in st.pins
        if p.end_us + by_us > 0
    )
    notes = tuple(replace(n, at_us=n.at_us + by_us) for n in st.notes if n.at_us + by_us >= 0)
    keys = tuple(replace(k, at_us=k.at_us + by_us) for k in st.keys if k.at_us + by_us >= 0)
    return _with_clips(replace(st, notes=notes, keys=keys), clips, pins)


def set_length(st: Soundtrack, length_us: int) -> Soundtrack:
    """A shot of a set length, whatever its clips; 0: as long as its clips."""
    return replace(st, length_us=length_us)


def set_reading(st: Soundtrack, voice: int, reading: Reading) -> Soundtrack:
    """A voice with another reading, in its take's time."""
    old = st.voice(voice)
    return replace(st, voices=tuple(replace(old, reading=reading) if v.id == voice else v for v in st.voices))


def write_note(st: Soundtrack, start_us: int, end_us: int, text: str) -> Soundtrack:
    """The note beside a frame, from its start to its end; no text takes it away. It is kept at the frame's middle.

    Raises
    ------
    TimingError
        For a text that is too long.
    """
    if len(text) > MAX_NOTE_CHARACTERS:
        raise TimingError("note.too_long", max_note_characters=MAX_NOTE_CHARACTERS)
    others = [n for n in st.notes if not start_us <= n.at_us < end_us]
    here = next((n.id for n in st.notes if start_us <= n.at_us < end_us), 0)
    new = [Note((start_us + end_us) // 2, text, here)] if text else []
    return replace(st, notes=tuple(sorted([*others, *new], key=lambda n: n.at_us)))
