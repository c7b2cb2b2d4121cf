"""Separating voices by speaker, in a process of its own."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

import numpy as np

from tinfork.core.messages import Message
from tinfork.core.sound.speakers import Voiced, propose_speakers
from tinfork.core.sound.voiceprint import Voiceprint, voiceprints
from tinfork.engines.limits import READING_HZ

#: The key for all voices of a sound together.
EVERYBODY = ""
#: Who speaks when, in microseconds.
Spans = Mapping[str, Sequence[tuple[int, int]]]


def tell_voices_apart(
    voice: Path, count: int | None, report: Callable[[str, float], None]
) -> tuple[list[Voiced], dict[str, Voiceprint]]:
    """The stretches of each voice in a sound, and their voiceprints.

    The sound is mono samples at the reader's rate; voices are numbered, and `EVERYBODY` stands for all together. There
    are `count` voices, or as many as are found.
    """
    report(Message("phase.voices"), 0.2)
    samples = np.load(voice)
    spans = propose_speakers(samples, READING_HZ, count)
    by_voice: dict[str, list[tuple[int, int]]] = {}
    for span in spans:
        for who in (str(span.voice), EVERYBODY):
            by_voice.setdefault(who, []).append((span.start_us, span.end_us))
    return spans, voiceprints(samples, READING_HZ, by_voice)


def voices_in(voice: Path, spans: Spans, report: Callable[[str, float], None]) -> dict[str, Voiceprint]:
    """The voiceprints of some people in a file of mono samples at the reader's rate."""
    report(Message("phase.remembering"), 1.0)
    return voiceprints(np.load(voice), READING_HZ, spans)
