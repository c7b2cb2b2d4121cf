"""Synthesising lines as a scratch take: samples, and a reading with exact times."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import WordsError
from tinfork.core.messages import Message
from tinfork.core.script import ScriptLine, spoken_part
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.rereading import shifted
from tinfork.engines import limits
from tinfork.engines.synthesiser import speak
from tinfork.engines.writing import as_read, pieces, reader_of

LEAD_IN_S, PAUSE_S, TAIL_S = 0.25, 0.45, 0.35


@dataclass(frozen=True, slots=True)
class Voicing:
    """How lines are spoken.

    The default language, a variant of the voice ("" for the plain one), words a minute, pitch 0 to 99.
    """

    language: str = "en-us"
    variant: str = ""
    words_per_minute: int = 160
    pitch: int = 50

    def __post_init__(self) -> None:
        if not 80 <= self.words_per_minute <= 400 or not 0 <= self.pitch <= 99:
            raise WordsError("speech.speed_and_pitch")


def speak_lines(
    lines: Sequence[ScriptLine], voicing: Voicing, report: Callable[[str, float], None]
) -> tuple[NDArray[np.float32], int, Reading]:
    """Speak lines; returns mono samples, their rate, and their reading with the speakers of the lines.

    Raises
    ------
    WordsError
        For nothing to say, and for more than a sound may hold.
    """
    parts: list[NDArray[np.float32]] = []
    read: list[Line] = []
    at = rate_hz = 0
    for number, line in enumerate(lines):
        report(Message("phase.talking"), number / len(lines))
        language = line.language or voicing.language
        reader = reader_of(language)
        voice = f"{reader}+{voicing.variant}" if voicing.variant else reader
        said = speak(
            as_read(spoken_part(line.text), language),
            voice,
            words_per_minute=voicing.words_per_minute,
            pitch=voicing.pitch,
        )
        rate_hz = said.rate_hz
        pause = np.zeros(round((PAUSE_S if number else LEAD_IN_S) * rate_hz), dtype=np.float32)
        parts += [pause, said.samples]
        start_us = (at + len(pause)) * 1_000_000 // rate_hz
        words = _as_written(said.words(), spoken_part(line.text), language)
        read.append(shifted(Line(line.speaker, spoken_part(line.text), language, words), start_us))
        at += len(pause) + len(said.samples)
        if at > limits.MAX_SOUND_S * rate_hz:
            raise WordsError("speech.too_long")
    if not parts:
        raise WordsError("speech.nothing_to_say")
    samples = np.concatenate([*parts, np.zeros(round(TAIL_S * rate_hz), dtype=np.float32)])
    duration_us = len(samples) * 1_000_000 // rate_hz
    return samples, rate_hz, Reading(duration_us, tuple(replace(line) for line in read))


def _as_written(words: tuple[Word, ...], text: str, language: str) -> tuple[Word, ...]:
    """Words spoken from pinyin or kana, in their written form; unchanged if they cannot be separated."""
    written = [word for token in text.split() for word, _ in pieces(token, language)]
    counts = [len(word.text.split()) for word in words]
    if as_read(text, language) == text or sum(counts) != len(written):
        return words
    rest = iter(written)
    return tuple(replace(word, text=" ".join(islice(rest, count))) for word, count in zip(words, counts, strict=True))
