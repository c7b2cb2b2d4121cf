"""Telling voices apart, in a process of its own."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from tinfork.core.sound.speakers import Voiced, propose_speakers
from tinfork.engines.limits import READING_HZ


def tell_voices_apart(voice: Path, count: int | None, report: Callable[[str, float], None]) -> list[Voiced]:
    """The stretches of each voice in a file of mono samples at the reader's rate; `count` voices, or as many as
    seem.
    """
    report("Telling the voices apart", 0.2)
    return propose_speakers(np.load(voice), READING_HZ, count)
