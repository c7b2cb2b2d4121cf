"""Rasterised pictures, cached for each size that is shown."""

import io
import math
import zlib
from dataclasses import dataclass

import cv2
import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from tinfork.core.errors import FormatError
from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.motion.bend import STRAIGHT, Bend, bent, straightened
from tinfork.core.scene.boil import Variant, displacement

#: The most pixels in the cache: 400 MB.
_MOST_PIXELS = 100_000_000


@dataclass(frozen=True, slots=True)
class InkColour:
    """The part of a picture that is not transparent, and the position of its upper left corner in pixels.

    `pixels` has the shape (height, width, 4) and premultiplied alpha, so that edges get neither dark nor light.
    """

    pixels: NDArray[np.uint8]
    at: tuple[int, int]


class Rasters:
    """A cache of rasterised pictures, of limited size."""

    def __init__(self) -> None:
        self._images: dict[tuple[bytes, tuple[int, int]], Image.Image] = {}
        self._inks: dict[tuple[bytes, tuple[int, int], Variant | None, Bend], InkColour] = {}

    def image(self, picture: AnyPicture, size: tuple[int, int]) -> Image.Image:
        """A picture at a size in pixels, RGBA."""
        key = picture.data, size
        if key not in self._images:
            self._images[key] = raster(picture, size)
            while sum(one.width * one.height for one in self._images.values()) > _MOST_PIXELS and len(self._images) > 1:
                del self._images[next(iter(self._images))]
        return self._images[key]

    def ink(
        self, picture: AnyPicture, size: tuple[int, int], variant: Variant | None = None, bend: Bend = STRAIGHT
    ) -> InkColour:
        """The visible part of a picture at a size in pixels, with boiled lines and a bend if given."""
        key = picture.data, size, variant, bend
        if key not in self._inks:
            if bend:
                self._inks[key] = bent_ink(self.ink(picture, size, variant), size, bend)
            else:
                image = raster(picture, size)
                image = (boiled(image, picture, variant) if variant else image).convert("RGBa")
                box = image.getbbox(alpha_only=True) or (0, 0, 1, 1)
                self._inks[key] = InkColour(np.asarray(image.crop(box)), box[:2])
            while sum(one.pixels.size // 4 for one in self._inks.values()) > _MOST_PIXELS and len(self._inks) > 1:
                del self._inks[next(iter(self._inks))]
        return self._inks[key]


def bent_ink(ink: InkColour, size: tuple[int, int], bend: Bend) -> InkColour:
    """The visible part of a bent picture; it may extend beyond the original box."""
    (left, top), (high, wide) = ink.at, ink.pixels.shape[:2]
    edges = np.meshgrid(np.linspace(left, left + wide, 17), np.linspace(top, top + high, 17))
    reached = [part * side for part, side in zip(bent(bend, edges[0] / size[0], edges[1] / size[1]), size, strict=True)]
    # A transparent pixel around it keeps edges soft.
    x, y = (math.floor(part.min()) - 1 for part in reached)
    end_x, end_y = (math.ceil(part.max()) + 1 for part in reached)
    down, across = np.mgrid[y:end_y, x:end_x] + 0.5
    sources = [
        np.nan_to_num(part * side - first - 0.5, nan=_NOWHERE).astype(np.float32)
        for part, side, first in zip(straightened(bend, across / size[0], down / size[1]), size, ink.at, strict=True)
    ]
    pixels = cv2.remap(ink.pixels, sources[0], sources[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    return InkColour(np.asarray(pixels, np.uint8), (x, y))


#: Coordinates outside every picture, where nothing is visible.
_NOWHERE = -9.0


def boiled(image: Image.Image, picture: AnyPicture, variant: Variant) -> Image.Image:
    """A rasterised picture with its lines displaced as in a variant; parts cut at its edge stay cut."""
    weighed = np.asarray(image.convert("RGBa"))
    right, down = displacement(variant, zlib.crc32(picture.data), image.size)
    rows, columns = np.indices(right.shape, dtype=np.float32)
    moved = cv2.remap(weighed, columns - right, rows - down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return Image.frombuffer("RGBa", image.size, np.asarray(moved, np.uint8), "raw", "RGBa", 0, 1).convert("RGBA")


def raster(picture: AnyPicture, size: tuple[int, int]) -> Image.Image:
    """Rasterise a stored picture (PNG, JPEG or cleaned SVG) at a size in pixels, RGBA.

    Raises
    ------
    FormatError
        Where it cannot be drawn.
    """
    try:
        if picture.suffix == ".svg":
            data = bytes(resvg_py.svg_to_bytes(svg_string=picture.data.decode(), width=size[0]))
            image = Image.open(io.BytesIO(data)).convert("RGBA")
        else:
            image = Image.open(io.BytesIO(picture.data)).convert("RGBA")
    except (ValueError, OSError, SyntaxError) as error:
        raise FormatError("pictures.not_drawn") from error
    if image.size != size:
        image = image.convert("RGBa").resize(size, Image.Resampling.LANCZOS).convert("RGBA")
    return image
