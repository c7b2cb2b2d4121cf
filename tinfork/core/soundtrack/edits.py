"""Every edit to a shot's sound: pure functions from a soundtrack to the next.

Pins move with the sound under them, unless only the sound is to be moved. No edit cuts sound unasked: one that would
push sound before the first frame, or onto another clip, is refused.
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

#: What a move of a clip moves: sound and reading, or only one of them.
BOTH, SOUND, READING = "both", "sound", "reading"


def _next(numbers: list[int]) -> int:
    return max(numbers, default=0) + 1


def _with_clips(st: Soundtrack, clips: list[Clip], pins: tuple[Pin, ...] | None = None) -> Soundtrack:
    """The soundtrack with these clips; voices without a clip stay, so that their words can be found again."""
    ordered = tuple(sorted(clips, key=lambda c: (c.start_us, c.track, c.id)))
    return replace(st, clips=ordered, pins=st.pins if pins is None else pins)


def _swap(st: Soundtrack, clip: Clip, *new: Clip, pins: tuple[Pin, ...] | None = None) -> Soundtrack:
    return _with_clips(st, [*(c for c in st.clips if c.id != clip.id), *new], pins)


def add_track(st: Soundtrack, name: str, kind: str = VOICE) -> Soundtrack:
    """Add a track."""
    return replace(st, tracks=(*st.tracks, Track(_next([t.id for t in st.tracks]), name, kind)))


def remove_track(st: Soundtrack, track: int) -> Soundtrack:
    """Remove an empty track.

    Raises
    ------
    TimingError
        For a track that is not empty.
    """
    if any(c.track == st.track(track).id for c in st.clips):
        raise TimingError("track.not_empty")
    return replace(st, tracks=tuple(t for t in st.tracks if t.id != track))


def mute_track(st: Soundtrack, track: int, muted: bool) -> Soundtrack:
    """Mute or unmute a track; its words stay."""
    st.track(track)
    return replace(st, tracks=tuple(replace(t, is_muted=muted) if t.id == track else t for t in st.tracks))


def free_at(st: Soundtrack, track: int, start_us: int, length_us: int, *, but: int = 0) -> bool:
    """Whether a track has room for a clip at a time."""
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
    """Place a take, or a `part` `[in, out)` of it, as a new clip.

    It goes on a track, on the first one of its kind with room, or on a new one.

    A voice gets the words of `reading`, in the take's time.
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
    """The pins, with those that are wholly inside a stretch moved along."""
    return tuple(
        replace(p, start_us=p.start_us + by_us, end_us=p.end_us + by_us)
        if start_us <= p.start_us and p.end_us <= end_us and p.start_us + by_us >= 0
        else p
        for p in pins
    )


def _carried_keys(keys: tuple[MotionKey, ...], start_us: int, end_us: int, by_us: int) -> tuple[MotionKey, ...]:
    """The keys, with those of a stretch moved along; they replace keys at their new times."""
    moved = {(k.character, k.part, k.at_us + by_us) for k in keys if start_us <= k.at_us < end_us}
    out = []
    for key in keys:
        if start_us <= key.at_us < end_us:
            out.append(replace(key, at_us=max(0, key.at_us + by_us)))
        elif (key.character, key.part, key.at_us) not in moved:
            out.append(key)
    return tuple(sorted(out, key=key_order))


def move(st: Soundtrack, clip: int, start_us: int, *, what: str = BOTH, track: int | None = None) -> Soundtrack:
    """Move a clip to a new start, with its reading and the pins over it; or only its sound, or only its reading.

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
    """Trim a clip to new ends in the shot.

    The sound in between does not move, and trimmed sound can be brought back.

    Raises
    ------
    TimingError
        Where nothing would be left of it.
    """
    old = st.clip(clip)
    start_us = old.start_us if start_us is None else start_us
    end_us = old.end_us if end_us is None else end_us
    # Not beyond the sound of the take.
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
    """Split a clip in two at a time of the shot.

    Both play the same take with the same voice, and the sound does not change.
    """
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
    """Set how long a clip fades in and out."""
    old = st.clip(clip)
    return _swap(st, old, replace(old, fade_in_us=fade_in_us, fade_out_us=fade_out_us))


def set_gain(st: Soundtrack, clip: int, gain_db: float) -> Soundtrack:
    """Set the gain of a clip relative to its take."""
    old = st.clip(clip)
    return _swap(st, old, replace(old, gain_db=gain_db))


def duplicate(st: Soundtrack, clip: int, start_us: int) -> Soundtrack:
    """Duplicate a clip, with a voice of its own: editing the words of one does not change the other."""
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
    """Remove a clip; its take and words stay in the library. With `closes`, everything after it moves up."""
    old = st.clip(clip)
    st = _swap(st, old)
    if closes:
        st = close_gap(st, old.start_us, old.end_us)
    used = {c.voice for c in st.clips}
    return replace(st, voices=tuple(v for v in st.voices if v.id in used))


def close_gap(st: Soundtrack, start_us: int, end_us: int) -> Soundtrack:
    """Close a silent stretch: everything after it moves earlier by its length, with words, pins, notes and keys.

    Pins inside the stretch are removed, or shortened; notes on it are moved to its start.

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
            # A stretch that shows another set is a database row: it is kept, but short.
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
    """Insert silence: everything after a time moves later by a length.

    Clips and pinned mouths across the time are split. A stretch that shows another set continues through it. A fixed
    length of the shot grows by the same length.

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
    """The pins, with pinned mouths across a time split in two; the second half is a pin of its own."""
    fresh = min((p.key for p in pins), default=0)
    for pin in pins:
        if pin.mouth and pin.start_us < at_us < pin.end_us:
            fresh = min(fresh, 0) - 1
            yield replace(pin, end_us=at_us)
            yield replace(pin, key=fresh, start_us=at_us)
        else:
            yield pin


def _later(pin: Pin, at_us: int, length_us: int) -> Pin:
    """A pin, with its ends after a time moved later by a length."""
    start_us = pin.start_us + (length_us if pin.start_us >= at_us else 0)
    return replace(pin, start_us=start_us, end_us=pin.end_us + (length_us if pin.end_us > at_us else 0))


def begin_speech(st: Soundtrack, at_us: int, heard_from_us: int | None = None) -> Soundtrack:
    """Move all clips and pins together so that the first word starts at a time; with `heard_from_us`, the first sound.

    Silence that would be before the first frame is trimmed; words never are.

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
    """Set a fixed length of the shot; 0: as long as its clips."""
    return replace(st, length_us=length_us)


def set_reading(st: Soundtrack, voice: int, reading: Reading) -> Soundtrack:
    """Replace the reading of a voice, in its take's time."""
    old = st.voice(voice)
    return replace(st, voices=tuple(replace(old, reading=reading) if v.id == voice else v for v in st.voices))


def write_note(st: Soundtrack, start_us: int, end_us: int, text: str) -> Soundtrack:
    """Write the note of a frame given by its start and end; an empty text removes it.

    It is stored at the frame's middle.

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
