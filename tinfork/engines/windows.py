"""Joining stretches of speech into windows for the listener, with long pauses shortened.

A word among others is recognised better than alone.
"""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.silence import SoundSpan, quiet_cuts, speech_stretches
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.transcript import PAUSE_US
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.hear import hear

Samples = NDArray[np.float32]

#: The longest window; the silence between two stretches in it; the sound kept around each.
_WINDOW_US, _GAP_US, _AROUND_US = 27_000_000, 300_000, 150_000
#: A stretch is not speech if the ear hears a voice for less than this share of the time, or for less than this time.
_VOICED, _LEAST_VOICED_US = 0.15, 120_000


@dataclass(frozen=True)
class Window:
    """Joined stretches of speech; `starts` is where each begins in `samples` (microseconds)."""

    stretches: tuple[SoundSpan, ...]
    starts: tuple[int, ...]
    samples: Samples

    def sound_us(self, at_us: int) -> int:
        """The time in the whole sound of a time in the window; never in the inserted silence."""
        number = max(0, int(np.searchsorted(self.starts, at_us, side="right")) - 1)
        own = self.stretches[number]
        return min(own.start_us + at_us - self.starts[number], own.end_us)


def windows(samples: Samples, levels: NDArray[np.float64]) -> Iterator[Window]:
    """All parts of a sound in which somebody may speak; samples are mono at 16 kHz, `levels` in dB per 10 ms."""
    row: list[SoundSpan] = []
    for part in _parts(levels):
        if not _is_voice(samples, part):
            continue
        so_far_us = sum(p.end_us - p.start_us + _GAP_US for p in row)
        if row and so_far_us + part.end_us - part.start_us > _WINDOW_US:
            yield row_of(samples, row)
            row = []
        row.append(part)
    if row:
        yield row_of(samples, row)


def _parts(levels: NDArray[np.float64]) -> Iterator[SoundSpan]:
    """Stretches of speech with a little sound around them, long ones cut at quiet places."""
    total_us = len(levels) * HOP_US
    last_us = 0
    found = speech_stretches(levels, pause_us=PAUSE_US)
    for at, stretch in enumerate(found):
        until_us = (stretch.end_us + found[at + 1].start_us) // 2 if at + 1 < len(found) else total_us
        start_us = max(last_us, stretch.start_us - _AROUND_US)
        end_us = min(until_us, stretch.end_us + _AROUND_US)
        for a, b in itertools.pairwise(quiet_cuts(levels, start_us, end_us, most_us=_WINDOW_US)):
            yield SoundSpan(a, b)
        last_us = end_us


def _is_voice(samples: Samples, part: SoundSpan) -> bool:
    """Whether the ear hears somebody in a stretch."""
    evidence = hear(cut(samples, part.start_us, part.end_us)).as_size(1.0)
    voiced = evidence.voiceless < np.log(0.5)
    return bool(voiced.mean() >= _VOICED and voiced.sum() * HOP_US >= _LEAST_VOICED_US)


def row_of(samples: Samples, stretches: Sequence[SoundSpan]) -> Window:
    """Some stretches of a sound as one window."""
    gap = np.zeros(_GAP_US * READING_HZ // 1_000_000, dtype=np.float32)
    pieces: list[Samples] = []
    starts: list[int] = []
    at = 0
    for stretch in stretches:
        if pieces:
            pieces.append(gap)
            at += len(gap)
        starts.append(at * 1_000_000 // READING_HZ)
        pieces.append(cut(samples, stretch.start_us, stretch.end_us))
        at += len(pieces[-1])
    return Window(tuple(stretches), tuple(starts), np.concatenate(pieces))


def cut(samples: Samples, start_us: int, end_us: int) -> Samples:
    """The samples between two times."""
    return samples[start_us * READING_HZ // 1_000_000 : end_us * READING_HZ // 1_000_000]
