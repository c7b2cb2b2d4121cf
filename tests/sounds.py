"""Sounds for tests: spoken by the synthesiser, or broken on purpose."""

import functools
import io
import struct
import wave

import numpy as np

from tinfork.engines.apart import run_apart
from tinfork.engines.decode import Sound
from tinfork.engines.synthesiser import Spoken, speak

SENTENCE = "The last tram leaves the depot before midnight."


@functools.cache
def spoken(text: str = SENTENCE, voice: str = "en-us") -> Spoken:
    """Speech with exactly known phoneme times: the same each time.

    The synthesiser's waves go on where its last sentence ended, so each is spoken by a fresh one.
    """
    return run_apart(_speak, text, voice, progress=lambda phase, done: None)


def _speak(text: str, voice: str, progress) -> Spoken:
    return speak(text, voice)


def as_sound(said: Spoken) -> Sound:
    return Sound(said.samples[:, None], said.rate_hz)


def wav_bytes(samples: np.ndarray, rate_hz: int = 16_000) -> bytes:
    """16-bit WAV of samples of shape (n,) or (n, channels)."""
    data = samples if samples.ndim == 2 else samples[:, None]
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(data.shape[1])
        file.setsampwidth(2)
        file.setframerate(rate_hz)
        file.writeframes((np.clip(data, -1, 1) * 32767).astype("<i2").tobytes())
    return out.getvalue()


def float_wav(samples: np.ndarray, rate_hz: int) -> bytes:
    """32-bit float WAV, shape (n, channels)."""
    body = samples.astype("<f4").tobytes()
    channels = samples.shape[1]
    head = struct.pack("<HHIIHH", 3, channels, rate_hz, rate_hz * channels * 4, channels * 4, 32)
    chunks = b"fmt " + struct.pack("<I", 16) + head + b"data" + struct.pack("<I", len(body)) + body
    return b"RIFF" + struct.pack("<I", 4 + len(chunks)) + b"WAVE" + chunks


def sentence_wav() -> bytes:
    said = spoken()
    return wav_bytes(said.samples, said.rate_hz)


def png_bytes() -> bytes:
    return b"\x89PNG\r\n\x1a\n" + b"\0" * 400


def two_hours() -> bytes:
    """A WAV that is two hours long: 8 kHz, 8 bits, silent."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(1)
        file.setframerate(8000)
        file.writeframes(b"\x80" * (8000 * 7200))
    return out.getvalue()


def film_without_sound(path) -> None:
    """A second of MP4 picture with no sound track."""
    import subprocess

    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            "color=c=gray:s=64x64:d=1",
            "-c:v",
            "mpeg4",
            "-f",
            "mp4",
            str(path),
        ],
        check=True,
    )
