"""Queries of takes."""

import json

import numpy as np
from django.db.models import QuerySet
from numpy.typing import NDArray

from tinfork.apps.produce.models import Production
from tinfork.apps.sound.models import Take
from tinfork.core.sound.silence import PAUSE_US, SoundSpan, speech_stretches


def library(production: Production) -> QuerySet[Take]:
    """A production's takes with their characters and uses."""
    return production.takes.select_related("speaker").prefetch_related("uses__soundtrack__shot")


def peaks_of(take: Take, level: int) -> bytes | None:
    """One level of a take's waveform: int8 pairs of lowest and highest; None if there is no such level."""
    with take.peaks.open("rb") as file:
        lengths = json.loads(file.readline())["lengths"]
        if not 0 <= level < len(lengths):
            return None
        file.seek(sum(lengths[:level]), 1)
        data: bytes = file.read(lengths[level])
        return data


def finest_peaks(take: Take) -> NDArray[np.int8]:
    """The waveform with a pair per millisecond, shape (bins, 2)."""
    return np.frombuffer(peaks_of(take, 0) or b"", dtype=np.int8).reshape(-1, 2)


def levels_of(take: Take) -> NDArray[np.float64]:
    """The level of a take per 10 ms, in dB."""
    if take.levels:
        with take.levels.open("rb") as file:
            return np.frombuffer(file.read(), dtype=np.int8).astype(np.float64)
    # Old takes have no levels: estimate them from the waveform.
    swings = np.abs(finest_peaks(take).astype(np.float64)).max(axis=1)
    hops = swings[: len(swings) // 10 * 10].reshape(-1, 10).max(axis=1, initial=0.0)
    return np.asarray(20 * np.log10(np.maximum(hops / 127, 1e-6)))


def speech_in(take: Take, pause_us: int = PAUSE_US) -> list[SoundSpan]:
    """Stretches of speech in a take, by level."""
    levels = levels_of(take)
    return speech_stretches(levels, pause_us=pause_us) if len(levels) else []
