"""A synthesised sentence solved with a chart, to find the chart's gaps."""

from dataclasses import dataclass

import numpy as np

from tinfork.core.clock import US_PER_S, FrameRate
from tinfork.core.errors import WordsError
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve
from tinfork.core.sound.loudness import Loudness
from tinfork.core.sound.peaks import PER_SECOND, peak_pyramid
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.visemes import class_of, sound_parts
from tinfork.engines.synthesiser import speak
from tinfork.engines.wav import wav_of

#: Silence before and after the sentence.
_REST_S = 0.4


@dataclass(frozen=True)
class Tried:
    """The sound as WAV bytes, the holds, and the classes of its sounds that no drawing claims."""

    wav: bytes
    holds: tuple[Hold, ...]
    gaps: tuple[str, ...]


def try_sentence(text: str, chart: Chart, rate: FrameRate, voice: str = "en-us") -> Tried:
    """Speak a sentence and solve it with the synthesiser's exact times.

    Raises
    ------
    WordsError
        For no words.
    """
    spoken = speak(text, voice)
    if not spoken.phonemes:
        raise WordsError("speech.nothing_to_say")
    rest = np.zeros(int(_REST_S * spoken.rate_hz), dtype=np.float32)
    samples = np.concatenate([rest, spoken.samples, rest])
    shift = len(rest) * US_PER_S // spoken.rate_hz
    phonemes = tuple(type(p)(p.ipa, p.start_us + shift, p.end_us + shift) for p in spoken.phonemes)
    duration_us = len(samples) * US_PER_S // spoken.rate_hz
    words = (Word(text, phonemes[0].start_us, phonemes[-1].end_us, phonemes),)
    reading = Reading(duration_us, (Line("", text, voice, words),))
    loudness = Loudness(peak_pyramid(samples, spoken.rate_hz)[0], PER_SECOND)
    heard = {sound for p in phonemes for sound in sound_parts(p.ipa)}
    gaps = sorted({class_of(sound) for sound in heard if not chart.is_claimed(sound)})
    return Tried(wav_of(samples, spoken.rate_hz), solve(reading, chart, rate, loudness=loudness), tuple(gaps))
