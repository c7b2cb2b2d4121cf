"""The picture sequence: a transparent PNG of the mouth for each frame, with the sound cut to match."""

import io
import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from tinfork.core.clock import US_PER_S, FrameRate
from tinfork.core.solver.problem import Hold
from tinfork.engines.decode import Sound, write_wav
from tinfork.engines.raster import png_from_svg


@dataclass(frozen=True, slots=True)
class Placement:
    """Where the mouth sits on the face picture, as shares of that picture's width and height.

    (`x`, `y`) is the drawing's registration point, its centre; `width` is the whole drawing's.
    `aspect` is the face picture's width by its height; it is fitted whole into the frame, centred.
    """

    x: float
    y: float
    width: float
    aspect: float = 16 / 9

    def in_frame(self, size: tuple[int, int]) -> tuple[float, float, float]:
        """The mouth's centre and width in pixels of a frame of `size`."""
        width = min(float(size[0]), size[1] * self.aspect)
        height = width / self.aspect
        left, top = (size[0] - width) / 2, (size[1] - height) / 2
        return left + self.x * width, top + self.y * height, self.width * width


def mouth_picture(svg: str, placement: Placement, size: tuple[int, int]) -> bytes:
    """PNG of the picture's size, transparent but for the mouth in its place."""
    x, y, width = placement.in_frame(size)
    mouth = Image.open(io.BytesIO(png_from_svg(svg, max(1, round(width))))).convert("RGBA")
    canvas = Image.new("RGBA", size, (0, 0, 0, 0))
    corner = (round(x - mouth.width / 2), round(y - mouth.height / 2))
    canvas.paste(mouth, corner)
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
    pictures: dict[int, bytes],
    sound: Sound,
    rate: FrameRate,
    first_frame: int,
    progress: Callable[[float], None] = lambda done: None,
) -> None:
    """Write a ZIP of `NAME.0001.png` ... and `NAME.wav`; numbers run from `first_frame`.

    `pictures` are PNG bytes by drawing number. PNG is stored as it is: it does not shrink further.
    """
    frames = holds[-1].end if holds else 0
    digits = max(4, len(str(first_frame + frames)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for hold in holds:
            progress(hold.start / frames)
            for frame in range(hold.start, hold.end):
                archive.writestr(_entry(f"{name}.{first_frame + frame:0{digits}d}.png"), pictures[hold.drawing])
        with tempfile.TemporaryDirectory() as folder:
            wav = Path(folder) / "sound.wav"
            write_wav(cut_to_frames(sound, rate, frames), wav)
            archive.writestr(_entry(f"{name}.wav"), wav.read_bytes())
    progress(1.0)


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry with a fixed date, so that the same shot gives the same bytes."""
    return zipfile.ZipInfo(name, date_time=(2026, 1, 1, 0, 0, 0))
