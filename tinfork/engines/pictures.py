"""The picture sequence: a transparent PNG of the mouth for each frame, with the sound cut to match."""

import io
import shutil
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PIL import Image

from tinfork.core.mouths.placement import Laid
from tinfork.core.pictures.ground import Picture
from tinfork.core.solver.problem import Hold
from tinfork.engines.drawings import picture_of


def empty_picture(size: tuple[int, int]) -> bytes:
    """A frame without a mouth: nothing but its size, as PNG."""
    return _png(Image.new("RGBA", size, (0, 0, 0, 0)))


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
    return _png(canvas)


def draw_mouth(data: bytes, suffix: str, name: str, laid: Laid, size: tuple[int, int]) -> bytes:
    """`mouth_picture` of a kept drawing."""
    return mouth_picture(picture_of(data, suffix, name, width=max(1, round(laid.width))), laid, size)


def _png(canvas: Image.Image) -> bytes:
    out = io.BytesIO()
    canvas.save(out, "PNG", optimize=True)
    return out.getvalue()


@dataclass(frozen=True)
class MouthColumn:
    """One character's mouths: what their files are called, the holds, and PNG bytes by set and drawing number."""

    name: str
    holds: tuple[Hold, ...]
    pictures: dict[tuple[str, int], bytes]


def write_sequence(
    target: Path,
    *,
    columns: list[MouthColumn],
    sound: tuple[str, Path],
    first_frame: int,
    progress: Callable[[float], None] = lambda done: None,
) -> None:
    """Write a ZIP of `NAME.0001.png` ... for each column, and the sound under its name; numbers run from `first_frame`.

    PNG is stored as it is: it does not shrink further.
    """
    frames = max((c.holds[-1].end for c in columns if c.holds), default=0)
    digits = max(4, len(str(first_frame + frames)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for at, column in enumerate(columns):
            for hold in column.holds:
                progress((at + hold.start / frames) / len(columns))
                for frame in range(hold.start, hold.end):
                    name = f"{column.name}.{first_frame + frame:0{digits}d}.png"
                    archive.writestr(_entry(name), column.pictures[hold.set, hold.drawing])
        with archive.open(_entry(sound[0]), "w", force_zip64=True) as entry, sound[1].open("rb") as source:
            shutil.copyfileobj(source, entry)
    progress(1.0)


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry with a fixed date, so that the same shot gives the same bytes."""
    return zipfile.ZipInfo(name, date_time=(2026, 1, 1, 0, 0, 0))
