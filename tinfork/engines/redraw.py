"""Editing drawings: removing the background, changing the canvas, cutting up a page."""

from pathlib import Path
from xml.etree.ElementTree import tostring

import numpy as np
from defusedxml.ElementTree import fromstring
from PIL import Image

from tinfork.core.errors import FormatError
from tinfork.core.pictures import cutting
from tinfork.core.pictures.ground import Picture, clear_ground
from tinfork.core.pictures.regions import Box
from tinfork.engines.drawings import Prepared, Report, frames, from_pixels, from_svg, picture_of, png_of
from tinfork.engines.limits import MAX_PICTURE_BYTES
from tinfork.engines.svg import clean_svg


def clear(data: bytes, suffix: str) -> Prepared:
    """A drawing with its plain ground made transparent; an SVG becomes PNG."""
    return from_pixels("drawing", clear_ground(picture_of(data, suffix, width=1600)))


def recanvas(data: bytes, suffix: str, box: Box) -> Prepared:
    """Change the canvas of a drawing: `box` is the new canvas in pixels of the old, and may extend beyond it."""
    if suffix == ".svg":
        return from_svg("drawing", _recanvas_svg(data, box), "The drawing")
    pixels = picture_of(data, suffix)
    out = np.zeros((box.height, box.width, 4), dtype=np.uint8)
    height, width = pixels.shape[:2]
    left, top, right, bottom = max(0, box.left), max(0, box.top), min(width, box.right), min(height, box.bottom)
    if left < right and top < bottom:
        out[top - box.top : bottom - box.top, left - box.left : right - box.left] = pixels[top:bottom, left:right]
    return from_pixels("drawing", out)


def _recanvas_svg(data: bytes, box: Box) -> bytes:
    """Change the canvas of a cleaned SVG, which has a view box, and units equal to our pixels."""
    root = fromstring(data)
    x, y, width, height = (float(n) for n in root.get("viewBox", "").replace(",", " ").split())
    across, down = width / float(root.get("width", width)), height / float(root.get("height", height))
    shown = (x + box.left * across, y + box.top * down, box.width * across, box.height * down)
    root.set("viewBox", " ".join(f"{n:g}" for n in shown))
    root.set("width", str(box.width))
    root.set("height", str(box.height))
    return tostring(root)


def _open_page(path: Path, name: str) -> Picture:
    """The pixels of a page with many drawings."""
    with path.open("rb") as file:
        head = file.read(4096)
    if b"<svg" in head:
        text, _, _ = clean_svg(path.read_bytes(), name)
        return picture_of(text.encode(), ".svg", name, width=2400)
    return next(frames(path, name))[0]


def find_on_page(path: Path, name: str, progress: Report) -> tuple[bytes, tuple[int, int], list[Box]]:
    """Make a page safe (PNG); returns it, its size, and the boxes of connected regions.

    Raises
    ------
    FormatError
        For a file that is too large, or no picture.
    """
    if path.stat().st_size > MAX_PICTURE_BYTES:
        raise FormatError("drawing.too_large", name=name, max_picture_bytes=MAX_PICTURE_BYTES // 2**20)
    pixels = _open_page(path, name)
    progress("find", 0.5)
    return png_of(pixels), (pixels.shape[1], pixels.shape[0]), cutting.find_parts(pixels)


def cut_page(path: Path, boxes: list[Box], progress: Report) -> list[Prepared]:
    """Cut the drawings from a page and make its plain ground transparent."""
    pixels = clear_ground(np.asarray(Image.open(path, formats=("PNG",)).convert("RGBA")))
    margin = max(4, max(max(b.width, b.height) for b in boxes) // 16)
    out = []
    for at, piece in enumerate(cutting.cut(pixels, boxes, margin), start=1):
        out.append(from_pixels(f"{at:02d}", piece))
        progress("cut", at / len(boxes))
    return out
