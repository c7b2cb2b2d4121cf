"""Connected regions of a mask, and distances inside it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle in pixels, half-open: `[left, right)` x `[top, bottom)`."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def width(self) -> int:
        """Pixels across."""
        return self.right - self.left

    @property
    def height(self) -> int:
        """Pixels down."""
        return self.bottom - self.top

    @property
    def sides(self) -> tuple[int, int, int, int]:
        """Left, top, right, bottom."""
        return self.left, self.top, self.right, self.bottom

    def union(self, other: "Box") -> "Box":
        """The least box that holds both."""
        return Box(
            min(self.left, other.left),
            min(self.top, other.top),
            max(self.right, other.right),
            max(self.bottom, other.bottom),
        )

    def gap(self, other: "Box") -> int:
        """How far apart two boxes are, the larger of across and down; 0 when they touch or overlap."""
        across = max(self.left - other.right, other.left - self.right)
        down = max(self.top - other.bottom, other.top - self.bottom)
        return max(0, across, down)


@dataclass(frozen=True)
class Regions:
    """The 8-connected regions of a mask as runs along its rows, region numbers from 0.

    `rows`, `starts`, `ends`, `numbers` have shape (runs,); a run is `[start, end)` of a row.
    """

    shape: tuple[int, int]
    rows: NDArray[np.int64]
    starts: NDArray[np.int64]
    ends: NDArray[np.int64]
    numbers: NDArray[np.int64]

    @property
    def count(self) -> int:
        """How many regions there are."""
        return int(self.numbers.max()) + 1 if len(self.numbers) else 0

    def boxes(self) -> list[Box]:
        """The box of each region."""
        low = np.full((self.count, 2), np.iinfo(np.int64).max)
        high = np.zeros((self.count, 2), dtype=np.int64)
        np.minimum.at(low, self.numbers, np.stack([self.starts, self.rows], axis=1))
        np.maximum.at(high, self.numbers, np.stack([self.ends, self.rows + 1], axis=1))
        return [Box(int(a), int(b), int(c), int(d)) for (a, b), (c, d) in zip(low, high, strict=True)]

    def touching_edge(self) -> NDArray[np.bool_]:
        """Which regions reach the edge of the picture, shape (regions,)."""
        height, width = self.shape
        at_edge = (self.rows == 0) | (self.rows == height - 1) | (self.starts == 0) | (self.ends == width)
        out = np.zeros(self.count, dtype=bool)
        out[self.numbers[at_edge]] = True
        return out

    def mask_of(self, wanted: NDArray[np.bool_]) -> Mask:
        """The pixels of the regions for which `wanted` is true."""
        flags = np.zeros((self.shape[0], self.shape[1] + 1), dtype=np.int8)
        chosen = wanted[self.numbers]
        np.add.at(flags, (self.rows[chosen], self.starts[chosen]), 1)
        np.add.at(flags, (self.rows[chosen], self.ends[chosen]), -1)
        inside: Mask = np.cumsum(flags, axis=1)[:, :-1] > 0
        return inside


def find_regions(mask: Mask) -> Regions:
    """The 8-connected regions of a mask, shape (height, width): runs joined where rows touch."""
    height, width = mask.shape
    edges = np.diff(np.pad(mask.astype(np.int8), ((0, 0), (1, 1))), axis=1)
    rows, starts = np.nonzero(edges == 1)
    ends = np.nonzero(edges == -1)[1]
    span = width + 2
    # Runs of the next row that touch a run: they end at or after its start, and start at or before its end.
    low = np.searchsorted(rows * span + ends, (rows + 1) * span + starts, "left")
    high = np.searchsorted(rows * span + starts, (rows + 1) * span + ends, "right")
    counts = np.maximum(0, high - low)
    above = np.repeat(np.arange(len(rows)), counts)
    below = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts) + np.repeat(low, counts)
    return Regions((height, width), rows, starts, ends, _joined(len(rows), above, below))


def _joined(count: int, a: NDArray[np.int64], b: NDArray[np.int64]) -> NDArray[np.int64]:
    """Numbers of the groups joined by the edges a-b, found by spreading the least number."""
    parent = np.arange(count)
    while True:
        least = np.minimum(parent[a], parent[b])
        before = parent.copy()
        np.minimum.at(parent, parent[a], least)
        np.minimum.at(parent, parent[b], least)
        parent = parent[parent]
        if np.array_equal(parent, before):
            break
    numbers: NDArray[np.int64] = np.unique(parent, return_inverse=True)[1].astype(np.int64)
    return numbers


def inner_distance(mask: Mask, most: int) -> NDArray[np.float32]:
    """For each pixel of a mask its distance in pixels to the nearest pixel outside, up to `most`; 0 outside.

    Exact Euclidean distance in two passes, rows then columns (as Felzenszwalb & Huttenlocher, *Distance
    Transforms of Sampled Functions*, 2012, bounded). Beyond the picture counts as outside.
    """
    inside = np.pad(mask, 1)
    across = np.arange(inside.shape[1])
    left = np.maximum.accumulate(np.where(inside, 0, across), axis=1)
    right = np.minimum.accumulate(np.where(inside, inside.shape[1], across)[:, ::-1], axis=1)[:, ::-1]
    line = np.minimum(np.minimum(across - left, right - across), most + 1).astype(np.float32) ** 2
    square = line.copy()
    for away in range(1, min(most, inside.shape[0] - 1) + 1):
        np.minimum(square[away:], line[:-away] + away * away, out=square[away:])
        np.minimum(square[:-away], line[away:] + away * away, out=square[:-away])
    distances: NDArray[np.float32] = np.minimum(np.sqrt(square), most)[1:-1, 1:-1].astype(np.float32)
    return distances
