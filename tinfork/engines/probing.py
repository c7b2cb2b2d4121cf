"""Inspecting files without decoding them, by outside programs with limits.

Everything a person uploads is untrusted: outside programs run in processes of their own, with limited length, size and
time.
"""

import json
import signal
import struct
import subprocess
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tinfork.core.errors import EngineError, SoundError
from tinfork.core.messages import Message
from tinfork.engines import limits
from tinfork.engines.programs import limited, stopped

_DEMUXERS = "wav,w64,aiff,flac,mp3,ogg,mov,mp4,m4a,matroska,webm,aac,caf,au"
SAFE = ["-nostdin", "-hide_banner", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", _DEMUXERS]
KINDS = Message("sound.kinds")


@dataclass(frozen=True, slots=True)
class SoundInfo:
    """What a file says about its first sound: container, seconds (None if unknown), channels, Hz."""

    container: str
    duration_s: float | None
    channels: int
    rate_hz: int
    cut_short: bool


def probe(path: Path, name: str = "") -> SoundInfo:
    """Inspect a sound file without decoding it.

    Raises
    ------
    SoundError
        When it cannot serve.
    """
    name = name or path.name
    size = path.stat().st_size
    if size == 0:
        raise SoundError("sound.empty_file", name=name)
    if size > limits.MAX_SOUND_BYTES:
        raise SoundError("sound.too_large", name=name, max_sound_bytes=limits.MAX_SOUND_BYTES // 1024**2)
    told = _told(path, "a:0", "stream=channels,sample_rate,codec_tag_string:format=format_name,duration", name)
    if told is None:
        raise SoundError("sound.not_a_sound", name=name, kinds=KINDS)
    if not told.get("streams"):
        raise SoundError("sound.none_in_film", name=name, kinds=KINDS)
    if told["streams"][0].get("codec_tag_string") in ("drms", "enca"):
        raise SoundError("sound.protected", name=name)
    cut_short = _wav_is_cut(path)
    stream, container = told["streams"][0], told.get("format", {})
    duration = float(container["duration"]) if container.get("duration", "N/A") != "N/A" else None
    if duration is not None and duration > limits.MAX_SOUND_S:
        raise SoundError(too_long(name, duration))
    if duration is not None and duration < limits.MIN_SOUND_S and not cut_short:
        raise SoundError(too_short(name, duration))
    return SoundInfo(
        container=container.get("format_name", ""),
        duration_s=duration,
        channels=int(stream.get("channels", 0)),
        rate_hz=int(stream.get("sample_rate", 0)),
        cut_short=cut_short,
    )


def too_long(name: str, seconds: float) -> str:
    """The error for a sound that is too long."""
    return Message("sound.too_long", name=name, minutes=seconds / 60, most=limits.MAX_SOUND_S // 60)


def too_short(name: str, seconds: float) -> str:
    """The error for a sound that is too short."""
    return Message("sound.too_short", name=name, ms=seconds * 1000, least=limits.MIN_SOUND_S)


def _wav_is_cut(path: Path) -> bool:
    """Whether a RIFF file's data chunk promises more bytes than the file has."""
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] != b"RIFF" or head[8:] != b"WAVE":
            return False
        while len(chunk := file.read(8)) == 8:
            kind, size = chunk[:4], struct.unpack("<I", chunk[4:])[0]
            if kind == b"data":
                # Programs that write to a pipe set the size to all ones.
                return bool(size != 0xFFFFFFFF and file.tell() + size > path.stat().st_size)
            file.seek(size + size % 2, 1)
    return False


@dataclass(frozen=True, slots=True)
class FilmInfo:
    """What a film says about itself: seconds (None if unknown), picture size in pixels, whether it has sound."""

    duration_s: float | None
    width: int
    height: int
    has_sound: bool


def film_info(path: Path, name: str = "") -> FilmInfo:
    """Inspect a film without decoding it.

    Raises
    ------
    SoundError
        For what has no moving picture.
    """
    name = name or path.name
    if path.stat().st_size == 0:
        raise SoundError("sound.empty_file", name=name)
    told = _told(path, "v:0", "stream=width,height:stream_disposition=attached_pic:format=duration", name)
    streams = [s for s in (told or {}).get("streams", []) if not s.get("disposition", {}).get("attached_pic")]
    if told is None or not streams or not streams[0].get("width"):
        raise SoundError("film.not_a_film", name=name)
    duration = told.get("format", {}).get("duration", "N/A")
    seconds = float(duration) if duration != "N/A" else None
    if seconds is not None and seconds > limits.MAX_SOUND_S:
        raise SoundError(too_long(name, seconds))
    sound = _told(path, "a:0", "stream=channels", name) or {}
    return FilmInfo(seconds, int(streams[0]["width"]), int(streams[0]["height"]), bool(sound.get("streams")))


def _told(path: Path, streams: str, entries: str, name: str) -> dict[str, Any] | None:
    """What ffprobe reports about streams; None if it cannot read the file.

    Raises
    ------
    EngineError
        Where the prober was killed.
    SoundError
        For a file that takes too long.
    """
    command = [
        *limited("ffprobe"), *SAFE[1:], "-select_streams", streams, "-show_entries", entries, "-of", "json", str(path),
    ]  # fmt: skip
    try:
        done = subprocess.run(command, capture_output=True, timeout=limits.PROBE_TIMEOUT_S, check=False)
    except subprocess.TimeoutExpired:
        raise SoundError("sound.too_slow", name=name) from None
    if done.returncode in (-signal.SIGKILL, -signal.SIGTERM):
        raise EngineError(stopped(name))
    try:
        told: dict[str, Any] = json.loads(done.stdout or b"{}")
    except ValueError:
        # Its output was cut.
        return None
    return None if done.returncode else told
