"""Measures of a drawing: its canvas, the box of its ink, its line weight, a thumbnail to compare it by."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.pictures.ground import Picture, drawn_mask, ground_colour, widened
from tinfork.core.pictures.regions import Box, Mask, inner_distance

#: The thumbnail has this many cells a side.
LOOK = 24
#: The line is measured no larger than this, and lines up to `_WIDEST` of that.
_MEASURED_AT = 800
_WIDEST = 40
#: Colours closer than this to the darkest belong to the line.
_LINE_NEAR = 34.0


@dataclass(frozen=True)
class Measures:
    """A drawing in pixels of its own canvas.

    `box` holds the ink (None for an empty picture); `line` is the line weight, 0 where no line was found;
    `opaque` says that a plain or mixed ground covers the canvas; `look` is the drawing in `LOOK` x `LOOK` cells of
    four values (premultiplied), for telling near-duplicates.
    """

    width: int
    height: int
    box: Box | None
    line: float
    opaque: bool
    plain_ground: bool
    look: bytes

    def to_dict(self) -> dict[str, Any]:
        """As plain values, for keeping."""
        box = [self.box.left, self.box.top, self.box.right, self.box.bottom] if self.box else None
        return {
            "width": self.width,
            "height": self.height,
            "box": box,
            "line": round(self.line, 2),
            "opaque": self.opaque,
            "plain": self.plain_ground,
            "look": self.look.hex(),
        }

    @classmethod
    def from_dict(cls, kept: dict[str, Any]) -> "Measures":
        """What `to_dict` wrote."""
        box = Box(*kept["box"]) if kept["box"] else None
        look = bytes.fromhex(kept["look"])
        return cls(kept["width"], kept["height"], box, kept["line"], kept["opaque"], kept["plain"], look)


def measure(picture: Picture) -> Measures:
    """Measure a drawing, shape (height, width, 4)."""
    height, width = picture.shape[:2]
    mask = drawn_mask(picture)
    box = box_of(mask)
    border = np.concatenate([picture[0, :, 3], picture[-1, :, 3], picture[:, 0, 3], picture[:, -1, 3]])
    return Measures(
        width=width,
        height=height,
        box=box,
        line=_line_in(picture, mask, box) if box else 0.0,
        opaque=bool((border >= 250).mean() > 0.9),
        plain_ground=ground_colour(picture) is not None,
        look=_look(picture, mask),
    )


def _line_in(picture: Picture, mask: Mask, box: Box) -> float:
    """The line weight, looked for in the ink's box."""
    step = max(1, -(-max(box.width, box.height) // _MEASURED_AT))
    part = (slice(max(0, box.top - 1), box.bottom + 1, step), slice(max(0, box.left - 1), box.right + 1, step))
    return line_weight(picture[part], mask[part]) * step


def box_of(mask: Mask) -> Box | None:
    """The box of a mask's true pixels."""
    rows, columns = np.flatnonzero(mask.any(axis=1)), np.flatnonzero(mask.any(axis=0))
    if not len(rows):
        return None
    return Box(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)


def line_weight(picture: Picture, mask: Mask) -> float:
    """The commonest width in pixels of the lines of the darkest colour; 0 where there are none.

    The distance inside the line's mask has its ridge on the line's middle: twice the ridge is the width.
    """
    solid = mask & (picture[:, :, 3] >= 128)
    if not solid.any():
        return 0.0
    colours = picture[:, :, :3].astype(np.float32)
    light = colours @ np.array([0.299, 0.587, 0.114], dtype=np.float32)
    dark = colours[solid & (light <= np.percentile(light[solid], 2) + 1)].mean(axis=0)
    line = _line_mask(solid, np.sqrt(((colours - dark) ** 2).sum(axis=2)))
    inside = inner_distance(line, _WIDEST)
    padded = np.pad(inside, 1)
    ridge = inside > 0
    height, width = inside.shape
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            ridge &= inside >= padded[1 + dy : 1 + dy + height, 1 + dx : 1 + dx + width]
    widths = 2 * inside[ridge & (inside < _WIDEST)] - 0.5
    # Soft edges and specks make ridges of a pixel everywhere; a line is wider.
    widths = widths[widths > 1.5]
    if len(widths) < 12:
        return 0.0
    # Bins of an eighth of an octave, weighed by area: a thin line inside counts for less than the outline.
    bins = np.rint(8 * np.log2(widths)).astype(np.int64)
    smooth = np.convolve(np.bincount(bins, weights=widths**2), [0.5, 1.0, 0.5], "same")
    return float(widths[np.abs(bins - int(np.argmax(smooth))) <= 1].mean())


def _line_mask(solid: Mask, away: NDArray[np.float32]) -> Mask:
    """The pixels of the line by their distance from its colour, soft edges to half their coverage."""
    core = solid & (away < _LINE_NEAR)
    edge = (widened(core.astype(np.float32), 1) > 0) & solid & (away < 0.5 * widened(away, 2))
    mask: Mask = core | edge
    return mask


def _look(picture: Picture, mask: Mask) -> bytes:
    """The mean of each cell, colour times alpha; a plain ground counts as transparent."""
    height, width = picture.shape[:2]
    step = max(1, max(height, width) // 400)
    small = picture[::step, ::step].astype(np.float32)
    alpha = np.where(mask[::step, ::step], small[:, :, 3], 0.0)[..., None]
    cells = np.concatenate([small[:, :, :3] * alpha / 255, alpha], axis=2)
    rows = np.linspace(0, cells.shape[0], LOOK + 1).astype(int)[:-1]
    columns = np.linspace(0, cells.shape[1], LOOK + 1).astype(int)[:-1]
    sums = np.add.reduceat(np.add.reduceat(cells, rows, axis=0), columns, axis=1)
    ones = np.add.reduceat(np.add.reduceat(np.ones(cells.shape[:2]), rows, axis=0), columns, axis=1)
    return bytes(np.rint(sums / ones[..., None]).astype(np.uint8).tobytes())


def looks_apart(a: Measures, b: Measures) -> float:
    """How different two drawings look, 0 (the same) to about 1 (nothing in common)."""
    first, second = (np.frombuffer(m.look, np.uint8).astype(np.float64) for m in (a, b))
    ink: NDArray[np.float64] = np.maximum(first, second)
    total = float(ink.sum())
    return float(np.abs(first - second).sum()) / total if total else 0.0
