"""Sounds for tests: spoken by the synthesiser, or broken on purpose."""

import functools
import io
import struct
import wave

import numpy as np

from tinfork.engines.decode import Sound
from tinfork.engines.isolated import run_isolated
from tinfork.engines.synthesiser import SynthesisedSpeech, speak

SENTENCE = "The last tram leaves the depot before midnight."


@functools.cache
def spoken(text: str = SENTENCE, voice: str = "en-us") -> SynthesisedSpeech:
    """Speech with exactly known phoneme times: the same each time.

    The synthesiser's waves go on where its last sentence ended, so each is spoken by a fresh one.
    """
    return run_isolated(_speak, text, voice, progress=lambda phase, done: None)


def _speak(text: str, voice: str, progress) -> SynthesisedSpeech:
    return speak(text, voice)


def as_sound(said: SynthesisedSpeech) -> Sound:
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


def sentence_wav(text: str = SENTENCE) -> bytes:
    said = spoken(text)
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


CONVERSATION = (
    ("ODALYS", "The last tram leaves before midnight.", "en-us+f2"),
    ("BRINDLE", "Nobody bakes bread like you do.", "en-gb+m3"),
    ("ODALYS", "She found five small loaves.", "en-us+f2"),
)
CONVERSATION_WORDS = "\n".join(f"{name}: {text}" for name, text, _ in CONVERSATION)


@functools.cache
def conversation() -> tuple[bytes, tuple[tuple[str, float, float], ...]]:
    """A WAV in which two voices take turns, and who speaks from when to when, in seconds."""
    parts = [np.zeros(8_000, dtype=np.float32)]
    turns: list[tuple[str, float, float]] = []
    at = 0.5
    for name, text, voice in CONVERSATION:
        samples = as_sound(spoken(text, voice)).mono_at(16_000)
        pause = np.zeros(9_600, dtype=np.float32)
        turns.append((name, at, at + len(samples) / 16_000))
        parts += [samples, pause]
        at += (len(samples) + len(pause)) / 16_000
    return wav_bytes(np.concatenate(parts)), tuple(turns)


def film_wav(path) -> None:
    """Two seconds of MP4 whose picture tells its frame: white bars for the bits of the frame's number, and a tone."""
    import subprocess

    bars = "+".join(f"255*between(X,{16 * bit},{16 * bit + 15})*mod(floor(N/{2**bit}),2)" for bit in range(8))
    subprocess.run(
        [
            "ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", "color=c=black:s=128x72:r=24:d=6",
            "-f", "lavfi", "-i", "sine=frequency=330:duration=6", "-vf", f"geq=lum='{bars}':cb=128:cr=128",
            "-c:v", "mpeg4", "-q:v", "2", "-c:a", "aac", "-shortest", str(path),
        ],
        check=True,
    )  # fmt: skip
