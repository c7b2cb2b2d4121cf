"""Rendering a shot's frames: each drawing is rasterised once at the size shown, and frames are composited."""

import io
import math
from collections import OrderedDict
from dataclasses import dataclass

import cv2
import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.scene.drawing import Placed
from tinfork.core.scene.layout import Affine, box_of
from tinfork.core.scene.scene import Column, Ground, Sprite
from tinfork.engines.handover.rasters import Rasters, raster

#: The most pixels of placed drawings and of frames in the caches: 100 MB each.
_PATCH_PIXELS, _FRAME_PIXELS = 25_000_000, 25_000_000


@dataclass(frozen=True, slots=True)
class Patch:
    """A part of a frame, and the position of its upper left corner in the frame.

    Pixels have the shape (height, width, 4) and premultiplied alpha.
    """

    pixels: NDArray[np.uint8]
    at: tuple[int, int]

    @property
    def image(self) -> Image.Image:
        """The patch as a picture, RGBA."""
        return Image.fromarray(_plain(self.pixels))

    def laid_on(self, frame: NDArray[np.uint8]) -> None:
        """Draw it over a frame (Porter and Duff 1984: *over*)."""
        (x, y), (high, wide) = self.at, self.pixels.shape[:2]
        below = frame[y : y + high, x : x + wide]
        clear = cv2.bitwise_not(cv2.extractChannel(self.pixels, 3))
        below[:] = cv2.add(cv2.multiply(below, cv2.merge([clear] * 4), scale=1 / 255), self.pixels)


class Renderer:
    """Renders frames of `size` pixels on a ground (None: transparent)."""

    def __init__(self, size: tuple[int, int], ground: Ground | None) -> None:
        self.size = size
        base = Image.new("RGBA", size, (0, 0, 0, 0)) if ground is None else ground_picture(ground, size)
        self._base, self._is_clear = np.asarray(base), ground is None
        self._patches: OrderedDict[Placed, Patch | None] = OrderedDict()
        self._frames: OrderedDict[tuple[Placed, ...], NDArray[np.uint8]] = OrderedDict()
        self._kept = 0
        # Moving drawings are rasterised only once, too.
        self._rasters = Rasters()

    def pixels(self, drawn: tuple[Placed, ...]) -> NDArray[np.uint8]:
        """Render a frame from its drawings, RGBA of shape (height, width, 4).

        The result is shared and must not be modified.
        """
        found = self._frames.get(drawn)
        if found is None:
            found = self._base.copy()
            for placed in drawn:
                patch = self._patch(placed)
                if patch:
                    patch.laid_on(found)
            found = _plain(found) if self._is_clear else found
            self._frames[drawn] = found
            while len(self._frames) * self.size[0] * self.size[1] > _FRAME_PIXELS and len(self._frames) > 1:
                self._frames.popitem(last=False)
        return found

    def frame(self, drawn: tuple[Placed, ...]) -> Image.Image:
        """Render a frame from its drawings as a picture, RGBA."""
        return Image.fromarray(self.pixels(drawn))

    def _patch(self, placed: Placed) -> Patch | None:
        if placed in self._patches:
            self._patches.move_to_end(placed)
            return self._patches[placed]
        patch = patch_of(placed, self.size, self._rasters)
        self._patches[placed] = patch
        self._kept += patch.pixels.size // 4 if patch else 0
        while self._kept > _PATCH_PIXELS and len(self._patches) > 1:
            _, old = self._patches.popitem(last=False)
            self._kept -= old.pixels.size // 4 if old else 0
        return patch


def _plain(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Convert premultiplied to straight alpha."""
    high, wide = pixels.shape[:2]
    weighed = Image.frombuffer("RGBa", (wide, high), np.ascontiguousarray(pixels), "raw", "RGBa", 0, 1)
    return np.asarray(weighed.convert("RGBA"))


def patch_of(placed: Placed, size: tuple[int, int], rasters: Rasters | None = None) -> Patch | None:
    """A placed picture cut to a frame of `size`; None if it is outside."""
    rasters = rasters or Rasters()
    # Never more pixels than the frame can show, however large it is.
    most = 4 * max(size)
    shrunk = min(1.0, most / max(placed.size))
    width, height = (max(1, math.ceil(side * shrunk)) for side in placed.size)
    # From pixels of the picture at that size to those of the frame.
    onto = placed.matrix @ Affine.scaled(placed.size[0] / width, placed.size[1] / height)
    if (shift := _whole_pixels(onto)) is not None:
        ink = rasters.ink(placed.picture, (width, height), placed.variant, placed.bend)
        return _cut(ink.pixels, (shift[0] + ink.at[0], shift[1] + ink.at[1]), size)
    finer = round(width * _FINER), round(height * _FINER)
    ink = rasters.ink(placed.picture, finer, placed.variant, placed.bend)
    onto = placed.matrix @ Affine.scaled(placed.size[0] / finer[0], placed.size[1] / finer[1]) @ Affine.moved(*ink.at)
    # A clear pixel around keeps edges soft.
    high, wide = ink.pixels.shape[:2]
    left, top, right, bottom = box_of(onto @ Affine.moved(-1, -1), (wide + 2, high + 2))
    x, y = max(0, math.floor(left)), max(0, math.floor(top))
    wide, high = min(size[0], math.ceil(right)) - x, min(size[1], math.ceil(bottom)) - y
    if wide <= 0 or high <= 0:
        return None
    # In OpenCV the centres of pixels are at whole numbers.
    back = Affine.moved(-0.5, -0.5) @ onto.inverse @ Affine.moved(x + 0.5, y + 0.5)
    rows = np.array([[back.a, back.c, back.e], [back.b, back.d, back.f]])
    moved = cv2.warpAffine(ink.pixels, rows, (wide, high), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    return Patch(np.asarray(moved, np.uint8), (x, y))


#: Pictures that are turned or moved by fractions of a pixel are rasterised this many times as fine and sampled
#: bilinearly: more exact than cubic sampling at the size shown, in a third of the time.
_FINER = 1.5


def _whole_pixels(onto: Affine) -> tuple[int, int] | None:
    """The shift of a map, if it only shifts by whole pixels."""
    values = (onto.a, onto.b, onto.c, onto.d, onto.e, onto.f)
    near = [round(value) for value in values]
    whole = near[:4] == [1, 0, 0, 1] and all(abs(v - n) < 1e-3 for v, n in zip(values, near, strict=True))
    return (near[4], near[5]) if whole else None


def _cut(pixels: NDArray[np.uint8], at: tuple[int, int], size: tuple[int, int]) -> Patch | None:
    """The part of a picture at a position that is inside the frame."""
    left, top = max(0, -at[0]), max(0, -at[1])
    right, bottom = min(pixels.shape[1], size[0] - at[0]), min(pixels.shape[0], size[1] - at[1])
    if right <= left or bottom <= top:
        return None
    return Patch(pixels[top:bottom, left:right], (at[0] + left, at[1] + top))


def ground_picture(ground: Ground, size: tuple[int, int]) -> Image.Image:
    """The background scaled to fill a frame of `size`, and cropped."""
    base = Image.new("RGBA", size, ground.colour)
    if ground.picture is None:
        return base
    if ground.picture.suffix == ".svg":
        natural = raster(ground.picture, _svg_size(ground.picture, size))
    else:
        natural = Image.open(io.BytesIO(ground.picture.data)).convert("RGBA")
    scale = max(size[0] / natural.width, size[1] / natural.height)
    wide, high = (max(1, round(side * scale)) for side in natural.size)
    fitted = natural.convert("RGBa").resize((wide, high), Image.Resampling.LANCZOS).convert("RGBA")
    left, top = (wide - size[0]) // 2, (high - size[1]) // 2
    base.alpha_composite(fitted.crop((left, top, left + size[0], top + size[1])))
    return base


def _svg_size(picture: AnyPicture, size: tuple[int, int]) -> tuple[int, int]:
    """The size at which an SVG is rasterised to fill a frame."""
    small = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=picture.data.decode(), width=256))))
    width = max(size[0], math.ceil(size[1] * small.width / small.height))
    return width, max(1, round(width * small.height / small.width))


def plates(column: Column, pixels: int, rasters: Rasters | None = None) -> dict[tuple[str, int], Image.Image]:
    """The visible drawings of a column, in register.

    All are cropped to the common box of their ink; the usual canvas is `pixels` wide.
    """
    rasters = rasters or Rasters()
    squares = {(s.set, s.number): _square(s, pixels, rasters) for s in column.used()}
    boxes = [box for square in squares.values() if (box := square.getchannel("A").getbbox())]
    if not boxes:
        return {}
    left, top, right, bottom = zip(*boxes, strict=True)
    box = (min(left), min(top), max(right), max(bottom))
    return {key: square.crop(box) for key, square in squares.items()}


def _square(sprite: Sprite, pixels: int, rasters: Rasters) -> Image.Image:
    """A drawing on a square around its registration point, two usual canvases wide."""
    at = sprite.registration
    scale = pixels / at.canvas_width
    size = max(1, round(at.width * scale)), max(1, round(at.height * scale))
    image = rasters.image(sprite.picture, size)
    square = Image.new("RGBA", (2 * pixels, 2 * pixels))
    square.paste(image, (round(pixels - (at.x - at.dx) * scale), round(pixels - (at.y - at.dy) * scale)))
    return square
