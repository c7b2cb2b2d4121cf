"""A soundtrack with other numbers for its takes and characters, needed when it is imported into another studio."""

from collections.abc import Mapping
from dataclasses import replace

from tinfork.core.soundtrack.model import Clip, MotionKey, PassNote, Pin, Soundtrack, Voice
from tinfork.core.speech.reading import Reading


def renamed(st: Soundtrack, takes: Mapping[int, int], speakers: Mapping[str, str]) -> Soundtrack:
    """Replace the numbers of takes and speakers; those that are not given stay."""

    def clip(one: Clip) -> Clip:
        return replace(one, take=takes.get(one.take, one.take))

    def voice(one: Voice) -> Voice:
        reading = renamed_reading(one.reading, speakers)
        return replace(one, take=takes.get(one.take, one.take), reading=reading)

    def pin(one: Pin) -> Pin:
        if one.mouth is None:
            return one
        return replace(one, mouth=replace(one.mouth, character=speakers.get(one.mouth.character, one.mouth.character)))

    def key(one: MotionKey) -> MotionKey:
        return replace(one, character=speakers.get(one.character, one.character), part=speakers.get(one.part, one.part))

    def about(one: PassNote) -> PassNote:
        return replace(one, character=speakers.get(one.character, one.character), part=speakers.get(one.part, one.part))

    return replace(
        st,
        clips=tuple(map(clip, st.clips)),
        voices=tuple(map(voice, st.voices)),
        pins=tuple(map(pin, st.pins)),
        keys=tuple(map(key, st.keys)),
        pass_notes=tuple(map(about, st.pass_notes)),
    )


def renamed_reading(reading: Reading, speakers: Mapping[str, str]) -> Reading:
    """Replace the names of speakers in a reading."""
    lines = tuple(
        replace(
            line,
            speaker=speakers.get(line.speaker, line.speaker),
            co_speakers=tuple(speakers.get(one, one) for one in line.co_speakers),
        )
        for line in reading.lines
    )
    turns = tuple(replace(turn, speaker=speakers.get(turn.speaker, turn.speaker)) for turn in reading.turns)
    return replace(reading, lines=lines, turns=turns)
