"""A story reel: any film made into a small WebM without sound, every frame of which can be stepped to."""

import select
import subprocess
import tempfile
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from tinfork.core.errors import EngineError, SoundError
from tinfork.engines import limits
from tinfork.engines.probing import SAFE, film_info, limited, stopped

_WIDTH, _HEIGHT = 640, 360


@dataclass(frozen=True, slots=True)
class Film:
    """Length, picture size of the copy in pixels, and whether there is sound in the original."""

    duration_us: int
    width: int
    height: int
    has_sound: bool


def open_film(path: Path, target: Path, name: str, progress: Callable[[float], None] = lambda done: None) -> Film:
    """Copy the picture of a film to `target` (VP8 in WebM, a key frame every quarter of a second, at most 640 x 360).

    Raises `SoundError` for what is no film.
    """
    info = film_info(path, name)
    fit = f"scale=w='min({_WIDTH},iw)':h='min({_HEIGHT},ih)':force_original_aspect_ratio=decrease:force_divisible_by=2"
    command = [
        *limited("ffmpeg"), "-y", *SAFE, "-i", str(path), "-map", "0:v:0", "-an", "-t", str(limits.MAX_SOUND_S),
        "-vf", fit, "-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "8", "-threads", "2",
        "-g", "6", "-crf", "12", "-b:v", "1500k", "-fps_mode", "passthrough", "-progress", "pipe:1", str(target),
    ]  # fmt: skip
    with tempfile.TemporaryFile("w+", errors="replace") as said:
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=said, bufsize=0)
        late = threading.Event()

        def stop() -> None:
            late.set()
            process.kill()

        timer = threading.Timer(limits.FILM_TIMEOUT_S, stop)
        timer.start()
        try:
            _follow(process, info.duration_s or 0.0, progress)
            status = process.wait()
        finally:
            timer.cancel()
            process.kill()
            process.wait()
        if status < 0 and not late.is_set():
            raise EngineError(stopped(name))
        said.seek(0)
        if "No space left on device" in said.read():
            raise EngineError(
                f"There is no room left on the disk to open “{name}”. It is kept: make room, then try again."
            )
    if status or not target.exists() or not target.stat().st_size:
        raise SoundError(f"The picture of “{name}” could not be read: it is damaged or of an unknown kind.")
    copy = film_info(target, name)
    return Film(round((copy.duration_s or 0) * 1e6), copy.width, copy.height, info.has_sound)


def _follow(process: "subprocess.Popen[bytes]", length_s: float, progress: Callable[[float], None]) -> None:
    """Report how far the copy is, at least every second, until the program ends its output."""
    assert process.stdout is not None
    share, rest = 0.0, b""
    while True:
        if select.select([process.stdout], [], [], 1.0)[0]:
            told = process.stdout.read(65536)
            if not told:
                return
            *rows, rest = (rest + told).split(b"\n")
            for row in rows:
                key, _, value = row.strip().partition(b"=")
                if key == b"out_time_us" and value.isdigit() and length_s:
                    share = min(1.0, int(value) / 1e6 / length_s)
        progress(share)
