"""Bent drawings rendered as pictures, for formats that can only move, turn and stretch pictures."""

import math
from dataclasses import replace

from tinfork.core.formats.picture_zip import Picture
from tinfork.core.motion.bend import STRAIGHT
from tinfork.core.scene.drawing import Placed, ShownPicture
from tinfork.core.scene.layout import Affine
from tinfork.engines.handover.archive_files import png
from tinfork.engines.handover.rasters import Rasters
from tinfork.engines.handover.rendering import Patch

#: Rendered at this many times the size shown, since bending may stretch it.
_FINER = 1.5


def flattened(shown: list[ShownPicture]) -> list[ShownPicture]:
    """The same pictures; each bent one is replaced by a rendered picture."""
    rasters = Rasters()
    return [replace(one, placed=_flat(one.placed, rasters)) if one.placed.bend else one for one in shown]


def _flat(placed: Placed, rasters: Rasters) -> Placed:
    wide, high = (max(1, math.ceil(_FINER * side)) for side in placed.size)
    ink = rasters.ink(placed.picture, (wide, high), None, placed.bend)
    matrix = placed.matrix @ Affine.scaled(placed.size[0] / wide, placed.size[1] / high) @ Affine.moved(*ink.at)
    image = Patch(ink.pixels, ink.at).image
    return replace(placed, picture=Picture(png(image), ".png"), matrix=matrix, size=image.size, bend=STRAIGHT)
