"""A shot of two seconds, and what is made of it."""

import io
import wave

import numpy as np
import pytest

from tests.scenes import reading_bytes
from tinfork.engines.handover.command import hand_over


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """The reading, and two seconds of a tone for its sound."""
    folder = tmp_path_factory.mktemp("shot")
    (folder / "r.json").write_bytes(reading_bytes())
    with wave.open(str(folder / "s.wav"), "wb") as sound:
        sound.setparams((1, 2, 48_000, 0, "NONE", ""))
        tone = 8000 * np.sin(2 * np.pi * 440 * np.arange(96_000) / 48_000)
        sound.writeframes(tone.astype("<i2").tobytes())
    return folder


def maker(reading, **more):
    """What gives the bytes of a way out of a reading."""

    def made(kind, **options):
        out = io.BytesIO()
        hand_over(reading, kind, options, out, **more)
        return out.getvalue()

    return made


@pytest.fixture
def make(files):
    """The bytes of a way out of the shot."""
    return maker(files / "r.json", sound=files / "s.wav")
