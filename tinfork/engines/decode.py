"""Sound files in and out through ffmpeg, each call in its own killable process.

Only local files of the formats listed are opened (no playlists, no network), with limits on
length, size and time, because everything a person uploads is untrusted.
"""

import json
import shutil
import struct
import subprocess
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.core.errors import EngineError, SoundError
from tinfork.engines import limits

_DEMUXERS = "wav,w64,aiff,flac,mp3,ogg,mov,mp4,m4a,matroska,webm,aac,caf,au"
_SAFE = ["-nostdin", "-hide_banner", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", _DEMUXERS]
_KINDS = "WAV, MP3, FLAC, AIFF, OGG or M4A"


@dataclass(frozen=True, slots=True)
class SoundInfo:
    """What a file says of its first sound: container, seconds (None if unsaid), channels, Hz."""

    container: str
    duration_s: float | None
    channels: int
    rate_hz: int
    cut_short: bool


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


def _program(name: str) -> str:
    path = shutil.which(name)
    if path is None:
        raise EngineError(f"{name} is not installed; install Debian's package ffmpeg.")
    return path


def _ask(command: list[str], timeout_s: float, name: str) -> subprocess.CompletedProcess[bytes]:
    try:
        return subprocess.run(command, capture_output=True, timeout=timeout_s, check=False)
    except subprocess.TimeoutExpired:
        raise SoundError(f"“{name}” took too long to open; it may be damaged. Save it again as WAV.") from None


def probe(path: Path, name: str = "") -> SoundInfo:
    """What a file holds, without decoding it; raises `SoundError` when it cannot serve."""
    name = name or path.name
    size = path.stat().st_size
    if size == 0:
        raise SoundError(f"“{name}” is empty: it has no bytes. Export it again and choose the new file.")
    if size > limits.MAX_SOUND_BYTES:
        raise SoundError(f"“{name}” is larger than {limits.MAX_SOUND_BYTES // 1024**2} MB. Cut it into parts.")
    entries = "stream=codec_type,channels,sample_rate:format=format_name,duration"
    command = [
        _program("ffprobe"), *_SAFE[1:], "-select_streams", "a:0", "-show_entries", entries, "-of", "json", str(path),
    ]  # fmt: skip
    done = _ask(command, limits.PROBE_TIMEOUT_S, name)
    if done.returncode:
        raise SoundError(f"“{name}” is not a sound that can be read. Bring {_KINDS}.")
    told = json.loads(done.stdout or b"{}")
    if not told.get("streams"):
        raise SoundError(f"“{name}” has no sound in it. Bring the recording itself, as {_KINDS}.")
    cut_short = _wav_is_cut(path)
    stream, container = told["streams"][0], told.get("format", {})
    duration = float(container["duration"]) if container.get("duration", "N/A") != "N/A" else None
    if duration is not None and duration > limits.MAX_SOUND_S:
        raise SoundError(_too_long(name, duration))
    if duration is not None and duration < limits.MIN_SOUND_S and not cut_short:
        raise SoundError(_too_short(name, duration))
    return SoundInfo(
        container=container.get("format_name", ""),
        duration_s=duration,
        channels=int(stream.get("channels", 0)),
        rate_hz=int(stream.get("sample_rate", 0)),
        cut_short=cut_short,
    )


def _too_long(name: str, seconds: float) -> str:
    return (
        f"“{name}” is {seconds / 60:.0f} minutes long; {limits.MAX_SOUND_S // 60} minutes is the most in one file. "
        "Cut it into parts."
    )


def _too_short(name: str, seconds: float) -> str:
    return f"“{name}” lasts {seconds * 1000:.0f} ms; {limits.MIN_SOUND_S:g} s is the least that can be read."


def _wav_is_cut(path: Path) -> bool:
    """Whether a RIFF file's data chunk promises more bytes than the file has."""
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] != b"RIFF" or head[8:] != b"WAVE":
            return False
        while len(chunk := file.read(8)) == 8:
            kind, size = chunk[:4], struct.unpack("<I", chunk[4:])[0]
            if kind == b"data":
                # Writers to a pipe leave the size open with all ones.
                return bool(size != 0xFFFFFFFF and file.tell() + size > path.stat().st_size)
            file.seek(size + size % 2, 1)
    return False


def decode(path: Path, name: str = "") -> Sound:
    """Decode the first sound of a file at 48 kHz, as one or two channels.

    Raises `SoundError` for what is no sound, shorter than 0.1 s or longer than the limit.
    """
    name = name or path.name
    info = probe(path, name)
    channels = 1 if info.channels == 1 else 2
    command = [
        _program("ffmpeg"), *_SAFE, "-i", str(path), "-map", "0:a:0", "-vn", "-t", str(limits.MAX_SOUND_S + 1),
        "-ac", str(channels), "-ar", str(limits.LISTENING_HZ), "-f", "f32le", "pipe:1",
    ]  # fmt: skip
    done = _ask(command, limits.DECODE_TIMEOUT_S, name)
    whole = len(done.stdout) // (4 * channels)
    if whole == 0:
        raise SoundError(f"“{name}” could not be decoded: it is damaged or of an unknown kind. Bring {_KINDS}.")
    samples = np.frombuffer(done.stdout, dtype="<f4", count=whole * channels).reshape(whole, channels)
    samples = np.clip(np.nan_to_num(samples), -1.0, 1.0)
    seconds = whole / limits.LISTENING_HZ
    if seconds > limits.MAX_SOUND_S:
        raise SoundError(_too_long(name, seconds))
    if seconds < limits.MIN_SOUND_S:
        raise SoundError(_too_short(name, seconds))
    return Sound(samples, limits.LISTENING_HZ)


def _encode(samples: NDArray[np.float32], rate_hz: int, target: Path, options: list[str]) -> None:
    pcm = np.rint(samples * 32767).astype("<i2")
    command = [
        _program("ffmpeg"), "-hide_banner", "-v", "error", "-y", "-f", "s16le", "-ar", str(rate_hz),
        "-ac", str(samples.shape[1]), "-i", "pipe:0", *options, str(target),
    ]  # fmt: skip
    done = subprocess.run(
        command, input=pcm.tobytes(), capture_output=True, timeout=limits.DECODE_TIMEOUT_S, check=False
    )
    if done.returncode:
        raise EngineError("The sound could not be written; is the disk full?")


def write_flac(sound: Sound, target: Path) -> None:
    """The listening copy: 16-bit FLAC, sample for sample."""
    _encode(sound.samples, sound.rate_hz, target, ["-c:a", "flac", "-compression_level", "5"])


def write_wav(sound: Sound, target: Path) -> None:
    """16-bit WAV, for hand-over."""
    _encode(sound.samples, sound.rate_hz, target, ["-c:a", "pcm_s16le", "-bitexact"])
