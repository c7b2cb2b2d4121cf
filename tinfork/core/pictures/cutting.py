"""Cutting a page with many drawings: finding their boxes by what is connected and what is close together."""

from collections.abc import Sequence

import numpy as np

from tinfork.core.pictures.ground import Picture, drawn_mask
from tinfork.core.pictures.regions import Box, Mask, find_regions

#: The page is scaled down to at most this many pixels on its longer side.
LOOKED_AT = 1400
#: Parts closer than this share of a usual part belong to one drawing.
CLOSE = 0.16
#: Parts smaller than this share of the largest are specks, unless they lie close to another.
_SPECK = 0.02
#: More parts than this are noise, not drawings.
_MOST_PARTS = 4000


def find_parts(page: Picture) -> list[Box]:
    """The boxes of connected regions on a page, largest first, in its pixels."""
    step = max(1, -(-max(page.shape[:2]) // LOOKED_AT))
    mask = drawn_mask(page)
    height, width = (size // step * step for size in mask.shape)
    small: Mask = mask[:height, :width].reshape(height // step, step, width // step, step).max(axis=(1, 3))
    boxes = [Box(b.left * step, b.top * step, b.right * step, b.bottom * step) for b in find_regions(small).boxes()]
    boxes.sort(key=lambda b: -(b.width * b.height))
    return boxes[:_MOST_PARTS]


def usual_gap(parts: Sequence[Box]) -> int:
    """The distance in pixels below which parts belong to one drawing."""
    if not parts:
        return 1
    sides = np.array([max(b.width, b.height) for b in parts])
    usual = float(np.median(sides[sides >= 0.25 * sides.max()]))
    return max(1, round(CLOSE * usual))


def _merged(boxes: Sequence[Box], gap: int) -> list[Box]:
    """Boxes joined until none is closer than `gap` to another."""
    out: list[Box] = []
    for box in boxes:
        joined, again = box, True
        while again:
            close = [other for other in out if joined.gap(other) < gap]
            again = bool(close)
            for other in close:
                out.remove(other)
                joined = joined.union(other)
        out.append(joined)
    return out


def _in_reading_order(boxes: list[Box]) -> list[Box]:
    """Boxes row by row from the top, each row from the left.

    Boxes that overlap the middle of its first box are in a row.
    """
    left, out = sorted(boxes, key=lambda b: (b.top + b.bottom, b.left)), []
    while left:
        first = left[0]
        row = [b for b in left if b.top < (first.top + first.bottom) / 2 < b.bottom or b is first]
        out += sorted(row, key=lambda b: b.left)
        left = [b for b in left if b not in row]
    return out


def find_boxes(parts: Sequence[Box], gap: int | None = None) -> list[Box]:
    """The boxes of drawings, in reading order, from their parts; parts closer than `gap` pixels are one drawing."""
    merged = _merged(parts, usual_gap(parts) if gap is None else gap)
    if not merged:
        return []
    largest = max(max(b.width, b.height) for b in merged)
    return _in_reading_order([b for b in merged if max(b.width, b.height) >= _SPECK * 4 * largest])


def cut(page: Picture, boxes: list[Box], margin: int = 0) -> list[Picture]:
    """The pieces of a page on one canvas size, each box at the centre of its own, with `margin` around.

    Pixels outside a box are not in its piece.
    """
    width = max(b.width for b in boxes) + 2 * margin
    height = max(b.height for b in boxes) + 2 * margin
    pieces = []
    for box in boxes:
        piece = np.zeros((height, width, 4), dtype=np.uint8)
        top, left = (height - box.height) // 2, (width - box.width) // 2
        piece[top : top + box.height, left : left + box.width] = page[box.top : box.bottom, box.left : box.right]
        pieces.append(piece)
    return pieces
