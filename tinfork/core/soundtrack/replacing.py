"""Replacing a take by a better one with the same words: clips, words and pins move to the same words."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from tinfork.core.soundtrack.model import SHORTEST_US, Clip, Pin, Soundtrack
from tinfork.core.speech.reading import Reading, Turn
from tinfork.core.speech.rereading import text_time_map
from tinfork.core.speech.turns import with_turns

#: Maps a time of the old take to the same place of the text in the new one.
Carry = Callable[[int], int]


def replace_take(st: Soundtrack, old: int, new: int, new_us: int, readings: Mapping[int, Reading]) -> Soundtrack:
    """Replace take `old` by take `new`, `new_us` long.

    `readings` are, by voice, the lines of that voice read in the new take. Each clip starts where it did, and plays the
    same words; if it gets too long for its gap, everything after it moves later. Turns set by hand and pins move with
    the words under them.
    """
    carry = {v.id: text_time_map(v.reading, readings[v.id]) for v in st.voices if v.take == old}
    voices = tuple(
        replace(v, take=new, reading=_with_turns(v.reading, readings[v.id], carry[v.id])) if v.take == old else v
        for v in st.voices
    )
    pins = list(st.pins)
    clips: list[Clip] = []
    push_us = 0
    for clip in sorted(st.clips, key=lambda c: (c.start_us, c.id)):
        moved = replace(clip, start_us=clip.start_us + push_us)
        pins = (
            [_pushed(p, was, clip.start_us, push_us) for p, was in zip(pins, st.pins, strict=True)] if push_us else pins
        )
        if clip.take == old:
            to = carry.get(clip.voice or 0) or _inside(new_us)
            new_in = 0 if clip.in_us == 0 else min(to(clip.in_us), new_us - SHORTEST_US)
            new_out = new_us if clip.out_us == clip.take_us else min(max(to(clip.out_us), new_in + SHORTEST_US), new_us)
            length = new_out - new_in
            fade_in = min(clip.fade_in_us, length)
            grown = replace(
                moved, take=new, take_us=new_us, in_us=new_in, length_us=length,
                fade_in_us=fade_in, fade_out_us=min(clip.fade_out_us, length - fade_in),
            )  # fmt: skip
            pins = [_carried(p, was, clip, grown, to) for p, was in zip(pins, st.pins, strict=True)]
            after = [c.start_us for c in st.clips if c.track == clip.track and c.start_us >= clip.end_us]
            if after and grown.end_us > min(after) + push_us:
                push_us = grown.end_us - min(after)
            moved = grown
        clips.append(moved)
    length_us = st.length_us + push_us if st.length_us else 0
    return replace(st, voices=voices, clips=tuple(clips), pins=tuple(pins), length_us=length_us)


def _inside(new_us: int) -> Carry:
    """Times unchanged, clamped to the new take: for sound without words."""
    return lambda time_us: min(time_us, new_us)


def _with_turns(old: Reading, new: Reading, carry: Carry) -> Reading:
    """The new reading with the turns of the old one, moved by word."""
    turns: list[Turn] = []
    for turn in old.turns:
        start, end = carry(turn.start_us), carry(turn.end_us)
        if end > start:
            turns.append(replace(turn, start_us=start, end_us=end))
    return with_turns(new, turns) if turns else new


def _pushed(pin: Pin, was: Pin, from_us: int, by_us: int) -> Pin:
    """A pin after a clip that moved later."""
    moved = replace(pin, start_us=was.start_us + by_us, end_us=was.end_us + by_us)
    return moved if was.start_us >= from_us else pin


def _carried(pin: Pin, was: Pin, old: Clip, new: Clip, to: Carry) -> Pin:
    """A pin over a clip, moved with the words under it."""
    if not (old.start_us <= was.start_us < old.end_us):
        return pin
    start = new.shot_time(to(old.take_time(was.start_us)))
    end = new.shot_time(to(old.take_time(was.end_us))) if was.end_us <= old.end_us else was.end_us
    return replace(pin, start_us=max(0, start), end_us=max(end, start + 1))
