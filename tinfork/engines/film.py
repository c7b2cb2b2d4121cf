"""A story reel: any film converted to a small WebM without sound that can be stepped frame by frame."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from tinfork.core.errors import SoundError
from tinfork.engines import limits
from tinfork.engines.probing import SAFE, film_info
from tinfork.engines.programs import limited, running

_WIDTH, _HEIGHT = 640, 360


@dataclass(frozen=True, slots=True)
class Film:
    """Length, picture size of the copy in pixels, and whether there is sound in the original."""

    duration_us: int
    width: int
    height: int
    has_sound: bool


def open_film(
    path: Path,
    target: Path,
    name: str,
    progress: Callable[[float], None] = lambda done: None,
    longest_s: int = limits.MAX_SOUND_S,
) -> Film:
    """Convert the picture of a film to `target`.

    VP8 in WebM, a key frame every quarter of a second, at most 640 x 360, no longer than `longest_s`.

    Raises
    ------
    SoundError
        For what is no film.
    """
    info = film_info(path, name)
    fit = f"scale=w='min({_WIDTH},iw)':h='min({_HEIGHT},ih)':force_original_aspect_ratio=decrease:force_divisible_by=2"
    command = [
        *limited("ffmpeg"), "-y", *SAFE, "-i", str(path), "-map", "0:v:0", "-an", "-t", str(longest_s),
        "-vf", fit, "-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-threads", "2",
        "-g", "6", "-crf", "12", "-b:v", "1500k", "-fps_mode", "passthrough", "-progress", "pipe:1", str(target),
    ]  # fmt: skip
    share, rest = 0.0, b""
    with running(command, name, limits.FILM_TIMEOUT_S, lambda: progress(share)) as work:
        while told := work.read(65536):
            *rows, rest = (rest + told).split(b"\n")
            for row in rows:
                key, _, value = row.strip().partition(b"=")
                if key == b"out_time_us" and value.isdigit() and info.duration_s:
                    share = min(1.0, int(value) / 1e6 / info.duration_s)
            progress(share)
    if work.status or not target.exists() or not target.stat().st_size:
        raise SoundError("film.damaged", name=name)
    copy = film_info(target, name)
    return Film(round((copy.duration_s or 0) * 1e6), copy.width, copy.height, info.has_sound)
