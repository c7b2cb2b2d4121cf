"""The shot's picture in pixels: each drawing is rasterised once at the size it is seen, frames are laid together."""

import io
import math
from collections import OrderedDict
from dataclasses import dataclass
from typing import Literal

import resvg_py
from PIL import Image

from tinfork.core.errors import FormatError
from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.scene.drawing import Placed
from tinfork.core.scene.layout import Affine, box_of
from tinfork.core.scene.scene import Column, Ground, Sprite

#: So many pixels of drawings and of frames are kept: 400 and 100 MB.
_SPRITE_PIXELS, _FRAME_PIXELS = 100_000_000, 25_000_000


@dataclass(frozen=True, slots=True)
class Patch:
    """A picture with the frame's pixel that its upper left corner lies on."""

    image: Image.Image
    at: tuple[int, int]


class Renderer:
    """Frames of `size` pixels on a ground (None: transparent)."""

    def __init__(self, size: tuple[int, int], ground: Ground | None) -> None:
        self.size = size
        self._base = Image.new("RGBA", size, (0, 0, 0, 0)) if ground is None else ground_picture(ground, size)
        self._patches: OrderedDict[Placed, Patch | None] = OrderedDict()
        self._frames: OrderedDict[tuple[Placed, ...], Image.Image] = OrderedDict()
        self._pixels = 0
        #: Drawings at the size they are seen: what moves is rasterised once, too.
        self._rasters: Rasters = {}

    def frame(self, drawn: tuple[Placed, ...]) -> Image.Image:
        """The frame with what is drawn on it, RGBA; what comes back is shared, and not to be drawn on."""
        found = self._frames.get(drawn)
        if found is None:
            found = self._base.copy()
            for placed in drawn:
                patch = self._patch(placed)
                if patch:
                    found.alpha_composite(patch.image, patch.at)
            self._frames[drawn] = found
            while len(self._frames) * self.size[0] * self.size[1] > _FRAME_PIXELS and len(self._frames) > 1:
                self._frames.popitem(last=False)
        return found

    def _patch(self, placed: Placed) -> Patch | None:
        if placed in self._patches:
            self._patches.move_to_end(placed)
            return self._patches[placed]
        patch = patch_of(placed, self.size, self._rasters)
        self._patches[placed] = patch
        self._pixels += patch.image.width * patch.image.height if patch else 0
        while self._pixels > _SPRITE_PIXELS and len(self._patches) > 1:
            _, old = self._patches.popitem(last=False)
            self._pixels -= old.image.width * old.image.height if old else 0
        return patch


def patch_of(placed: Placed, size: tuple[int, int], known: "Rasters | None" = None) -> Patch | None:
    """A picture where it is drawn, cut to a frame of `size`; None where nothing of it is inside. What is in `known` is
    not rasterised again.
    """
    left, top, right, bottom = box_of(placed.matrix, placed.size)
    x, y = max(0, math.floor(left)), max(0, math.floor(top))
    wide, high = min(size[0], math.ceil(right)) - x, min(size[1], math.ceil(bottom)) - y
    if wide <= 0 or high <= 0:
        return None
    # Never more pixels than the frame can show, however near one is.
    most = 4 * max(size)
    shrunk = min(1.0, most / max(placed.size))
    width, height = (max(1, math.ceil(side * shrunk)) for side in placed.size)
    known = {} if known is None else known
    # From the patch's pixels to those of the picture at the size it was made for.
    back = placed.matrix.inverse @ Affine.moved(x, y)
    if (shift := _whole_pixels(Affine.scaled(width / placed.size[0], height / placed.size[1]) @ back)) is not None:
        left, top = shift
        image = _rasterised(placed.picture, (width, height), known).crop((left, top, left + wide, top + high))
        return Patch(image, (x, y))
    width, height = round(width * _FINER), round(height * _FINER)
    back = Affine.scaled(width / placed.size[0], height / placed.size[1]) @ back
    data = (back.a, back.c, back.e + 1, back.b, back.d, back.f + 1)
    image = _rasterised(placed.picture, (width, height), known, "RGBa")
    return Patch(
        image.transform((wide, high), Image.Transform.AFFINE, data, Image.Resampling.BILINEAR).convert("RGBA"), (x, y)
    )


#: What is turned or moved by parts of a pixel is taken from a picture so much finer, by straight lines between its
#: pixels: nearer to the true one than a curve through pixels of the size seen, at a third of the time.
_FINER = 1.5


def _rasterised(
    picture: AnyPicture, size: tuple[int, int], known: "Rasters", mode: Literal["RGBA", "RGBa"] = "RGBA"
) -> Image.Image:
    """A picture at a size; as RGBa colours are weighed by their alpha, so that seams are neither dark nor light, and a
    clear pixel around keeps edges soft.
    """
    key = picture.data, size, mode
    if key not in known:
        image = raster(picture, size)
        if mode == "RGBa":
            padded = Image.new("RGBa", (size[0] + 2, size[1] + 2))
            padded.paste(image.convert("RGBa"), (1, 1))
            image = padded
        known[key] = image
        while sum(one.width * one.height for one in known.values()) > _SPRITE_PIXELS and len(known) > 1:
            del known[next(iter(known))]
    return known[key]


def _whole_pixels(back: Affine) -> tuple[int, int] | None:
    """How far a map moves, where it moves by whole pixels and does nothing else."""
    values = (back.a, back.b, back.c, back.d, back.e, back.f)
    near = [round(value) for value in values]
    whole = near[:4] == [1, 0, 0, 1] and all(abs(v - n) < 1e-3 for v, n in zip(values, near, strict=True))
    return (near[4], near[5]) if whole else None


def raster(picture: AnyPicture, size: tuple[int, int]) -> Image.Image:
    """A kept picture (a PNG, a JPEG or cleaned SVG) at a size in pixels, RGBA."""
    try:
        if picture.suffix == ".svg":
            data = bytes(resvg_py.svg_to_bytes(svg_string=picture.data.decode(), width=size[0]))
            image = Image.open(io.BytesIO(data)).convert("RGBA")
        else:
            image = Image.open(io.BytesIO(picture.data)).convert("RGBA")
    except (ValueError, OSError, SyntaxError) as error:
        raise FormatError("A picture of this shot cannot be drawn. Import it again.") from error
    if image.size != size:
        image = image.convert("RGBa").resize(size, Image.Resampling.LANCZOS).convert("RGBA")
    return image


def ground_picture(ground: Ground, size: tuple[int, int]) -> Image.Image:
    """What is behind the characters, filling a frame of `size`: what sticks out is cut off."""
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
    """How large an SVG is rasterised to fill a frame."""
    small = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=picture.data.decode(), width=256))))
    width = max(size[0], math.ceil(size[1] * small.width / small.height))
    return width, max(1, round(width * small.height / small.width))


#: Pictures that were rasterised, by their bytes, size and mode.
Rasters = dict[tuple[bytes, tuple[int, int], str], Image.Image]


def plates(column: Column, pixels: int, known: Rasters | None = None) -> dict[tuple[str, int], Image.Image]:
    """The drawings of a column that are seen, in register: all cut to the one box that their ink fills, the usual
    canvas `pixels` wide. What is in `known` is not rasterised again.
    """
    known = {} if known is None else known
    squares = {(s.set, s.number): _square(s, pixels, known) for s in column.used()}
    boxes = [box for square in squares.values() if (box := square.getchannel("A").getbbox())]
    if not boxes:
        return {}
    left, top, right, bottom = zip(*boxes, strict=True)
    box = (min(left), min(top), max(right), max(bottom))
    return {key: square.crop(box) for key, square in squares.items()}


def _square(sprite: Sprite, pixels: int, known: Rasters) -> Image.Image:
    """A drawing on a square around the point it is registered on, two usual canvases wide."""
    at = sprite.registration
    scale = pixels / at.canvas_width
    size = max(1, round(at.width * scale)), max(1, round(at.height * scale))
    image = _rasterised(sprite.picture, size, known)
    square = Image.new("RGBA", (2 * pixels, 2 * pixels))
    square.paste(image, (round(pixels - (at.x - at.dx) * scale), round(pixels - (at.y - at.dy) * scale)))
    return square
