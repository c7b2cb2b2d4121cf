"""Reading a sound without its words: a draft of them, sounds by ear, or a mouth that flaps.

`draft_lines` decodes words with the recogniser's own language model (US English); `read_by_ear` and `read_flap` give
readings at once.
"""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from pocketsphinx import Decoder, get_model_path

from tinfork.core.ear.loop import sounds_in
from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import find
from tinfork.core.ear.speakers import PAUSE_US, evidence_between_pauses, speaker_of_sounds
from tinfork.core.errors import SoundError, WordsError
from tinfork.core.sound.silence import quiet_cuts, speech_stretches
from tinfork.core.sound.voice import has_voice, level_db
from tinfork.core.speech.reading import Line, Reading
from tinfork.core.speech.rereading import shifted
from tinfork.core.speech.unworded import FLAP, lines_by_ear, lines_of_flap
from tinfork.engines.decode import Sound
from tinfork.engines.ear import follows
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.hear import hear
from tinfork.engines.reading.reader import NO_VOICE, Progress, ReadResult, first_of, silent_progress
from tinfork.engines.recogniser import slowed
from tinfork.engines.wording import LineText, spell

#: A stretch to be decoded is no longer than this; a little sound around it helps.
_MOST_US, _AROUND_S = 20_000_000, 0.15
#: Words that fit worse than this (mean log probability) are mostly others than are said.
_UNSURE = -1.8
#: Sounds are searched for in parts of up to this length.
_PART_US = 60_000_000


@dataclass(frozen=True, slots=True)
class DraftLine:
    """Words that seem to be said between two times, in microseconds; `is_unsure`: they do not fit what is heard."""

    text: str
    start_us: int
    end_us: int
    is_unsure: bool = False


def draft_lines(sound: Sound, progress: Progress = silent_progress) -> list[DraftLine]:
    """What seems to be said, a line between pauses, in English; for people to correct.

    Raises `SoundError` for a silent sound, `WordsError` when no word is understood.
    """
    samples, levels = _voice_of(sound)
    decoder = Decoder(
        hmm=get_model_path("en-us/en-us"),
        lm=get_model_path("en-us/en-us.lm.bin"),
        dict=get_model_path("en-us/cmudict-en-us.dict"),
        loglevel="FATAL",
    )
    stretches = list(_parts(samples, levels))
    out: list[DraftLine] = []
    for number, (start, end) in enumerate(stretches):
        progress("draft", number / len(stretches))
        around = round(_AROUND_S * READING_HZ)
        part = samples[max(0, start - around) : end + around]
        heard = speaker_of_sounds(hear(part).as_sizes)
        part = slowed(part, heard.ratio)
        decoder.start_utt()
        decoder.process_raw((np.clip(part, -1, 1) * 32767).astype("<i2").tobytes(), full_utt=True)
        decoder.end_utt()
        words = [s.word.split("(")[0] for s in decoder.seg() or ()]
        text = " ".join(word for word in words if word[:1].isalpha())
        if text:
            start_us, end_us = (at * 1_000_000 // READING_HZ for at in (start, end))
            line = DraftLine(text, start_us, end_us, is_unsure=not do_words_fit(text, heard.evidence))
            out.append(line)
            progress("draft", (number + 1) / len(stretches), [line])
    if not out:
        raise WordsError("No English words were understood in this sound. Read it by ear, or type what is said.")
    return out


def do_words_fit(text: str, evidence: Evidence) -> bool:
    """Whether English words sound like what the ear hears, each word as much as any other."""
    found = find(evidence, [word.variants() for word in spell([LineText(text)]).spoken])
    return found is not None and float(np.mean(found.word_fits())) >= _UNSURE


def doubts_of_draft(lines: Sequence[DraftLine]) -> tuple[str, ...]:
    """What is to be said of the lines of a draft that are unsure."""
    unsure = [line.text for line in lines if line.is_unsure]
    if not unsure:
        return ()
    if 2 * len(unsure) > len(lines):
        return ("Hardly any of these words fit what is heard. Type what is said, or read it by ear: that is better.",)
    return (f"Some lines do not fit what is heard: {first_of(unsure)}. Listen to them before you read.",)


def _parts(samples: NDArray[np.float32], levels: NDArray[np.float64]) -> Iterator[tuple[int, int]]:
    """Stretches of speech as samples `[start, end)`, long ones cut where it is quiet."""
    for stretch in speech_stretches(levels, pause_us=PAUSE_US):
        end_us = min(stretch.end_us, len(samples) * 1_000_000 // READING_HZ)
        yield from itertools.pairwise(_samples_at(quiet_cuts(levels, stretch.start_us, end_us, most_us=_MOST_US)))


def _samples_at(times_us: Sequence[int]) -> list[int]:
    return [round(at * READING_HZ / 1e6) for at in times_us]


def read_by_ear(sound: Sound, language: str = "", progress: Progress = silent_progress) -> ReadResult:
    """The sounds that are heard, as syllables in lines; in any language. Raises `SoundError` for a silent sound."""
    samples, levels = _voice_of(sound)
    lines: list[Line] = []
    for start_us, end_us in itertools.pairwise(quiet_cuts(levels, 0, sound.duration_us, most_us=_PART_US)):
        progress("align", start_us / sound.duration_us)
        part = hear(samples[slice(*_samples_at([start_us, end_us]))])
        heard = sounds_in(evidence_between_pauses(part.as_sizes, part.levels), follows(language))
        new = [shifted(line, start_us) for line in lines_by_ear(heard, language, end_us - start_us)]
        progress("align", end_us / sound.duration_us, list(enumerate(new, len(lines))))
        lines += new
    if not lines:
        raise SoundError("No speech is heard in this sound. Is it music or noise?")
    return ReadResult(Reading(sound.duration_us, tuple(lines)), (EXPECT_BY_EAR,))


#: What goes with every such reading.
EXPECT_BY_EAR = (
    "Read by ear, without words: expect about two sounds of three to be right. Typing the words makes it better."
)


def read_flap(sound: Sound, language: str = "") -> ReadResult:
    """A mouth that opens with the loudness; nothing is known of what is said."""
    _, levels = _voice_of(sound)
    return ReadResult(Reading(sound.duration_us, lines_of_flap(levels, language, sound.duration_us)))


def _voice_of(sound: Sound) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    samples = sound.mono_at(READING_HZ)
    levels = level_db(samples, READING_HZ)
    if not has_voice(levels):
        raise SoundError(NO_VOICE)
    return samples, levels


def read_unworded(voice: Path, way: str, language: str, report: Progress) -> Reading:
    """A reading of a file of mono samples at 16 kHz (NumPy's format), by ear or as a flap, for a process of its own."""
    sound = _kept(voice)
    return (read_flap(sound, language) if way == FLAP else read_by_ear(sound, language, report)).reading


def draft_of(voice: Path, report: Progress) -> list[DraftLine]:
    """`draft_lines` of a file of mono samples at 16 kHz (NumPy's format), for a process of its own."""
    return draft_lines(_kept(voice), report)


def _kept(voice: Path) -> Sound:
    return Sound(np.load(voice)[:, None], READING_HZ)
