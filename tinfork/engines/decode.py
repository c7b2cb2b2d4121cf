"""Reading and writing sound files with ffmpeg, each call in its own killable process.

Only local files of the formats listed are opened (no playlists, no network), with limits on
length, size and time, because everything a person uploads is untrusted.
"""

import re
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.core.errors import EngineError, SoundError
from tinfork.core.sound.meter import Measured, Meter
from tinfork.engines import limits
from tinfork.engines.probing import KINDS, SAFE, SoundInfo, probe, too_long, too_short
from tinfork.engines.programs import Running, limited, program, running


@dataclass(frozen=True)
class Sound:
    """Decoded samples, -1 to 1, shape (n, channels), at `rate_hz`."""

    samples: NDArray[np.float32]
    rate_hz: int

    @property
    def duration_us(self) -> int:
        """Length by count of samples, in microseconds."""
        return len(self.samples) * 1_000_000 // self.rate_hz

    def mono_at(self, rate_hz: int) -> NDArray[np.float32]:
        """The mean of the channels, resampled; shape (n,)."""
        mono: NDArray[np.float32] = self.samples.mean(axis=1, dtype=np.float32)
        if rate_hz == self.rate_hz:
            return mono
        out: NDArray[np.float32] = soxr.resample(mono, self.rate_hz, rate_hz).astype(np.float32)
        return out


@dataclass(frozen=True)
class Opened:
    """A sound decoded to its listening copy: length, measures, loudness (LUFS; None if too soft to measure)."""

    info: SoundInfo
    duration_us: int
    measured: Measured
    loudness: float | None
    true_peak_db: float


#: Called with the progress, 0 to 1; may raise `Cancelled`.
Progress = Callable[[float], None]


def open_sound(path: Path, flac: Path, name: str = "", progress: Progress = lambda done: None) -> Opened:
    """Decode the first sound of a file to a FLAC of 48 kHz with one or two channels, and measure it.

    Loudness is integrated after EBU R 128.

    Raises
    ------
    SoundError
        For what is no sound, too short or too long.
    """
    name = name or path.name
    info = probe(path, name)
    channels = 1 if info.channels == 1 else 2
    form = ["-ac", str(channels), "-ar", str(limits.LISTENING_HZ)]
    command = [
        *limited("ffmpeg"), "-y", *SAFE[:2], "-v", "info", "-nostats", *SAFE[4:], "-i", str(path),
        "-map", "0:a:0", "-vn", "-t", str(limits.MAX_SOUND_S + 1), *form, "-sample_fmt", "s16",
        "-c:a", "flac", "-compression_level", "5", str(flac),
        "-map", "0:a:0", "-vn", "-t", str(limits.MAX_SOUND_S + 1), "-af", "ebur128=peak=true:framelog=verbose", *form,
        "-f", "f32le", "pipe:1",
    ]  # fmt: skip
    meter = Meter(limits.LISTENING_HZ)
    total = (info.duration_s or 0) * limits.LISTENING_HZ
    done = 0

    def beat() -> None:
        progress(min(1.0, done / total) if total else 0.5)

    with _stream(command, channels, name, beat) as stream:
        for block in stream.blocks:
            meter.feed(block)
            done += len(block)
            beat()
    measured = meter.finish()
    if measured.frames == 0:
        raise SoundError("sound.damaged", name=name, kinds=KINDS)
    seconds = measured.frames / limits.LISTENING_HZ
    if seconds > limits.MAX_SOUND_S:
        raise SoundError(too_long(name, seconds))
    if seconds < limits.MIN_SOUND_S:
        raise SoundError(too_short(name, seconds))
    return Opened(
        info,
        measured.frames * 1_000_000 // limits.LISTENING_HZ,
        measured,
        _loudness(stream.told),
        _true_peak(stream.told),
    )


def flac_length_us(path: Path) -> int | None:
    """The length in the header of a FLAC file (RFC 9639, section 8.2); None if it is not given."""
    with path.open("rb") as file:
        head = file.read(26)
    if len(head) < 26 or head[:4] != b"fLaC":
        return None
    rate_hz = int.from_bytes(head[18:21]) >> 4
    frames = int.from_bytes(head[21:26]) & (1 << 36) - 1
    return frames * 1_000_000 // rate_hz if rate_hz and frames else None


def _loudness(told: str) -> float | None:
    found = re.findall(r"I:\s+(-?[\d.]+) LUFS", told)
    # -70 is the gate of the measurement: nothing was louder.
    return float(found[-1]) if found and float(found[-1]) > -69.9 else None


def _true_peak(told: str) -> float:
    found = re.findall(r"Peak:\s+(-?[\d.]+|-inf) dBFS", told)
    return float(found[-1]) if found and found[-1] != "-inf" else -120.0


class _Stream:
    """The decoder's output in blocks of shape (n, channels), -1 to 1, and its messages at the end."""

    def __init__(self, work: Running, channels: int) -> None:
        self._work, self._channels = work, channels

    @property
    def told(self) -> str:
        """The decoder's messages, available once everything was read."""
        return self._work.told

    @property
    def blocks(self) -> Iterator[NDArray[np.float32]]:
        """Blocks of about a second."""
        size = 4 * self._channels
        while data := self._read(size * limits.LISTENING_HZ):
            whole = len(data) // size
            block = np.frombuffer(data, dtype="<f4", count=whole * self._channels).reshape(whole, self._channels)
            yield np.clip(np.nan_to_num(block), -1.0, 1.0)

    def _read(self, wanted: int) -> bytes:
        """Read a number of bytes, fewer at the end."""
        out = bytearray()
        while len(out) < wanted and (part := self._work.read(wanted - len(out))):
            out += part
        return bytes(out)


def _no_beat() -> None:
    """For short sounds, which nobody needs to cancel."""


@contextmanager
def _stream(command: list[str], channels: int, name: str, beat: Callable[[], None] = _no_beat) -> Iterator[_Stream]:
    with running(command, name, limits.DECODE_TIMEOUT_S, beat) as work:
        yield _Stream(work, channels)


def _samples_command(path: Path, start_us: int, length_us: int | None, channels: int) -> list[str]:
    cut = ["-ss", f"{start_us / 1e6:.6f}"] if start_us else []
    cut += ["-t", f"{length_us / 1e6:.6f}"] if length_us is not None else []
    return [
        *limited("ffmpeg"), *SAFE, *cut, "-i", str(path), "-map", "0:a:0", "-vn", "-t", str(limits.MAX_SOUND_S + 1),
        "-ac", str(channels), "-ar", str(limits.LISTENING_HZ), "-f", "f32le", "pipe:1",
    ]  # fmt: skip


def decode(path: Path, name: str = "", *, start_us: int = 0, length_us: int | None = None, channels: int = 0) -> Sound:
    """The first sound of a file, or a part of it, at 48 kHz in memory; `channels` 0 keeps one or two.

    For parts and short sounds: an hour would take a gigabyte.

    Raises
    ------
    SoundError
        As `open_sound` does.
    """
    name = name or path.name
    if not channels:
        channels = 1 if probe(path, name).channels == 1 else 2
    with _stream(_samples_command(path, start_us, length_us, channels), channels, name) as stream:
        blocks = list(stream.blocks)
    samples = np.concatenate(blocks) if blocks else np.zeros((0, channels), dtype=np.float32)
    if not len(samples):
        raise SoundError("sound.damaged", name=name, kinds=KINDS)
    return Sound(samples, limits.LISTENING_HZ)


def decode_voice(path: Path, name: str = "", beat: Callable[[], None] = _no_beat) -> Sound:
    """Decode a whole file for reading: mono at 16 kHz, as a stream; an hour takes 230 MB.

    `beat` is called at least every second.

    Raises
    ------
    SoundError
        For what is no sound, too short or too long.
    """
    name = name or path.name
    channels = 1 if probe(path, name).channels == 1 else 2
    resampler = soxr.ResampleStream(limits.LISTENING_HZ, limits.READING_HZ, 1, dtype="float32")
    parts: list[NDArray[np.float32]] = []
    frames = 0
    with _stream(_samples_command(path, 0, None, channels), channels, name, beat) as stream:
        for at, block in enumerate(stream.blocks):
            if at % 50 == 0:
                beat()
            frames += len(block)
            parts.append(resampler.resample_chunk(block.mean(axis=1, dtype=np.float32)))
    parts.append(resampler.resample_chunk(np.zeros(0, dtype=np.float32), last=True))
    seconds = frames / limits.LISTENING_HZ
    if frames == 0:
        raise SoundError("sound.damaged", name=name, kinds=KINDS)
    if seconds > limits.MAX_SOUND_S:
        raise SoundError(too_long(name, seconds))
    if seconds < limits.MIN_SOUND_S:
        raise SoundError(too_short(name, seconds))
    samples = np.concatenate(parts)[: frames * limits.READING_HZ // limits.LISTENING_HZ]
    return Sound(samples[:, None], limits.READING_HZ)


def part_blocks(path: Path, first: int, count: int) -> Iterator[NDArray[np.float32]]:
    """`count` samples of a listening copy from sample `first` on, in blocks of shape (n, 1 or 2)."""
    channels = 1 if probe(path).channels == 1 else 2
    # Seek close, then cut by sample: a seek alone may be a few samples off.
    near_s = max(0, first // limits.LISTENING_HZ - 1)
    skip = first - near_s * limits.LISTENING_HZ
    command = [
        program("ffmpeg"), *SAFE, *(["-ss", str(near_s)] if near_s else []), "-i", str(path), "-map", "0:a:0", "-vn",
        "-af", f"atrim=start_sample={skip}:end_sample={skip + count}", "-f", "f32le", "pipe:1",
    ]  # fmt: skip
    with _stream(command, channels, path.name) as stream:
        yield from stream.blocks


def encoder(target: Path, channels: int, rate_hz: int = limits.LISTENING_HZ) -> list[str]:
    """The command that encodes 16-bit samples from its standard input as FLAC or WAV, by the target's suffix."""
    form = (
        ["-c:a", "flac", "-compression_level", "5"] if target.suffix == ".flac" else ["-c:a", "pcm_s16le", "-bitexact"]
    )
    return [
        program("ffmpeg"), "-hide_banner", "-v", "error", "-y", "-f", "s16le", "-ar", str(rate_hz),
        "-ac", str(channels), "-i", "pipe:0", *form, str(target),
    ]  # fmt: skip


def write_sound(sound: Sound, target: Path) -> None:
    """Write a sound in memory as 16-bit FLAC or WAV, sample for sample.

    Raises
    ------
    EngineError
        Where it cannot be written.
    """
    pcm = np.rint(sound.samples * 32767).astype("<i2")
    command = encoder(target, sound.samples.shape[1], sound.rate_hz)
    done = subprocess.run(
        command, input=pcm.tobytes(), capture_output=True, timeout=limits.DECODE_TIMEOUT_S, check=False
    )
    if done.returncode:
        raise EngineError("sound.not_written")
