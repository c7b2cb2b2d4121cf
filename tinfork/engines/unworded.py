"""Reading a sound without words: by ear, or with a mouth that flaps."""

import itertools
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.loop import sounds_in
from tinfork.core.ear.speakers import evidence_between_pauses
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.core.sound.silence import quiet_cuts
from tinfork.core.sound.voice import has_voice, level_db
from tinfork.core.speech.reading import Line, Reading
from tinfork.core.speech.rereading import shifted
from tinfork.core.speech.unworded import FLAP, lines_by_ear, lines_of_flap
from tinfork.engines.decode import Sound
from tinfork.engines.ear import transitions
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.hear import hear
from tinfork.engines.reading.reader import NO_VOICE, Progress, ReadResult, silent_progress

#: The longest part that is searched at once.
_PART_US = 60_000_000


def part_by_ear(samples: NDArray[np.float32], start_us: int, end_us: int, language: str) -> list[Line]:
    """Read the part between two times of mono samples at 16 kHz, as syllables in lines."""
    part = hear(samples[start_us * READING_HZ // 1_000_000 : end_us * READING_HZ // 1_000_000])
    heard = sounds_in(evidence_between_pauses(part.as_sizes, part.levels), transitions(language))
    return [shifted(line, start_us) for line in lines_by_ear(heard, language, end_us - start_us)]


def read_by_ear(sound: Sound, language: str = "", progress: Progress = silent_progress) -> ReadResult:
    """Read by ear, as syllables in lines; in any language.

    Raises
    ------
    SoundError
        For a silent sound.
    """
    samples, levels = voice_of(sound)
    lines: list[Line] = []
    for start_us, end_us in itertools.pairwise(quiet_cuts(levels, 0, sound.duration_us, most_us=_PART_US)):
        progress("align", start_us / sound.duration_us)
        new = part_by_ear(samples, start_us, end_us, language)
        progress("align", end_us / sound.duration_us, list(enumerate(new, len(lines))))
        lines += new
    if not lines:
        raise SoundError("sound.no_speech")
    return ReadResult(Reading(sound.duration_us, tuple(lines)), (EXPECT_BY_EAR,))


#: The warning with every such reading.
EXPECT_BY_EAR = Message("reading.by_ear")


def read_flap(sound: Sound, language: str = "") -> ReadResult:
    """A mouth that opens with the loudness, without any knowledge of the words."""
    _, levels = voice_of(sound)
    return ReadResult(Reading(sound.duration_us, lines_of_flap(levels, language, sound.duration_us)))


def voice_of(sound: Sound) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """Mono samples at 16 kHz, and their levels in dB per 10 ms.

    Raises
    ------
    SoundError
        For a silent sound.
    """
    samples = sound.mono_at(READING_HZ)
    levels = level_db(samples, READING_HZ)
    if not has_voice(levels):
        raise SoundError(NO_VOICE)
    return samples, levels


def read_unworded(voice: Path, way: str, language: str, report: Progress) -> Reading:
    """A reading of a file of mono samples at 16 kHz (NumPy's format), by ear or as a flap, for a process of its own."""
    sound = kept(voice)
    return (read_flap(sound, language) if way == FLAP else read_by_ear(sound, language, report)).reading


def kept(voice: Path) -> Sound:
    """Load a file of mono samples at 16 kHz (NumPy's format)."""
    return Sound(np.load(voice)[:, None], READING_HZ)
