"""The picture sequence: a transparent PNG of the mouth for each frame, with the sound cut to match."""

import io
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image

from tinfork.core.clock import US_PER_S, FrameRate
from tinfork.core.mouths.placement import Laid
from tinfork.core.pictures.ground import Picture
from tinfork.core.solver.problem import Hold
from tinfork.engines.decode import Sound, write_wav


def mouth_picture(drawing: Picture, laid: Laid, size: tuple[int, int]) -> bytes:
    """PNG of the picture's size, transparent but for the drawing where it is laid.

    `drawing` is the drawing's pixels, at any size; `laid` where it goes (see `core.mouths.placement.lay`).
    """
    canvas = Image.new("RGBA", size, (0, 0, 0, 0))
    wanted = (max(1, round(laid.width)), max(1, round(laid.height)))
    image = Image.fromarray(drawing)
    if image.size != wanted:
        image = image.resize(wanted, Image.Resampling.LANCZOS)
    if laid.angle:
        image = image.rotate(-laid.angle, Image.Resampling.BICUBIC, expand=True)
    canvas.paste(image, (round(laid.x - image.width / 2), round(laid.y - image.height / 2)))
    out = io.BytesIO()
    canvas.save(out, "PNG", optimize=True)
    return out.getvalue()


def cut_to_frames(sound: Sound, rate: FrameRate, frames: int) -> Sound:
    """The sound, exactly `frames` frames long: cut, or filled up with silence."""
    wanted = -(-rate.first_us(frames) * sound.rate_hz // US_PER_S)
    samples = sound.samples[:wanted]
    missing = wanted - len(samples)
    return Sound(np.pad(samples, ((0, missing), (0, 0))) if missing else samples, sound.rate_hz)


def write_sequence(
    target: Path,
    *,
    name: str,
    holds: tuple[Hold, ...],
    pictures: dict[tuple[str, int], bytes],
    sound: Sound,
    rate: FrameRate,
    first_frame: int,
    progress: Callable[[float], None] = lambda done: None,
) -> None:
    """Write a ZIP of `NAME.0001.png` ... and `NAME.wav`; numbers run from `first_frame`.

    `pictures` are PNG bytes by set and drawing number. PNG is stored as it is: it does not shrink further.
    """
    frames = holds[-1].end if holds else 0
    digits = max(4, len(str(first_frame + frames)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for hold in holds:
            progress(hold.start / frames)
            for frame in range(hold.start, hold.end):
                archive.writestr(
                    _entry(f"{name}.{first_frame + frame:0{digits}d}.png"), pictures[hold.set, hold.drawing]
                )
        with tempfile.TemporaryDirectory() as folder:
            wav = Path(folder) / "sound.wav"
            write_wav(cut_to_frames(sound, rate, frames), wav)
            archive.writestr(_entry(f"{name}.wav"), wav.read_bytes())
    progress(1.0)


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry with a fixed date, so that the same shot gives the same bytes."""
    return zipfile.ZipInfo(name, date_time=(2026, 1, 1, 0, 0, 0))
