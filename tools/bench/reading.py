"""Made-up sentences spoken by the machine's synthesiser (espeak-ng), whose phoneme events are the truth.

Each is read by the whole engine and by its plain part (the recogniser's times without mended edges), on the same
sounds.
"""

import resource
import statistics
import time
from collections.abc import Callable
from typing import Any
from unittest.mock import patch

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.score.boundaries import Score, score
from tinfork.core.speech.reading import Reading
from tinfork.engines import reader
from tinfork.engines.decode import Sound
from tinfork.engines.mending import Mender
from tinfork.engines.reader import read_track
from tinfork.engines.synthesiser import Spoken, speak
from tinfork.engines.wording import lines_from_text

RATE = FrameRate.parse("24")
VOICES = ("en-us", "en-gb", "en-gb-scotland", "en-us+f3", "en-us+m3")
SENTENCES = (
    "The last tram leaves the depot before midnight.",
    "Nobody bakes bread like the woman at the corner.",
    "She opened the oven and found five small loaves.",
    "Would you believe that the bell rang twice for me?",
    "Every morning we put the buns by the open window.",
    "A badger should never drive without his evening soup.",
)


def _noisy(sound: Sound) -> Sound:
    noise = np.random.default_rng(11).normal(size=sound.samples.shape)
    loud = float(np.sqrt((sound.samples**2).mean()))
    mixed = sound.samples + noise * loud * 10 ** (-10 / 20)
    return Sound((mixed * 0.7).astype(np.float32), sound.rate_hz)


CASES: dict[str, Callable[[Sound], Sound]] = {"clean": lambda s: s, "noise at 10 dB": _noisy}


class _Plain(Mender):
    """The recogniser's own edges."""

    def edges(self, phones: list[tuple[int, int]]) -> list[tuple[int, int]]:
        return [(start, max(end, start + 1)) for start, end in phones]


def _read(sound: Sound, text: str, *, plain: bool) -> tuple[Reading, float]:
    began = time.process_time()
    with patch.object(reader, "Mender", _Plain if plain else Mender):
        reading = read_track(sound, lines_from_text(text)).reading
    return reading, time.process_time() - began


def bench_reading() -> dict[str, Any]:
    """Boundary error and frames by case, whole engine and plain part."""
    rows: dict[str, Any] = {}
    read_track(Sound(speak("Warm up.").samples[:, None], 22050), lines_from_text("Warm up."))
    for case, change in CASES.items():
        for plain in (True, False):
            scores: list[Score] = []
            cpu = seconds = 0.0
            for voice in VOICES:
                for text in SENTENCES:
                    said: Spoken = speak(text, voice)
                    sound = change(Sound(said.samples[:, None], said.rate_hz))
                    reading, spent = _read(sound, text, plain=plain)
                    scores.append(score(tuple(reading.phonemes()), said.phonemes, said.duration_us, RATE))
                    cpu, seconds = cpu + spent, seconds + said.duration_us / 1e6
            name = f"{case}, {'plain' if plain else 'whole'}"
            rows[name] = {
                "mean_ms": round(1000 * statistics.mean(s.mean_s for s in scores), 1),
                "median_ms": round(1000 * statistics.median(s.median_s for s in scores), 1),
                "exact_%": round(100 * statistics.mean(s.exact for s in scores), 1),
                "tolerant_%": round(100 * statistics.mean(s.tolerant for s in scores), 1),
                "cpu_s_per_s": round(cpu / seconds, 3),
            }
    rows["peak memory MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return rows
