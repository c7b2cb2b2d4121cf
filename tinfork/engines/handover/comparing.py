"""Two states of a shot side by side in one movie, so that they play in sync: before on the left, after on the right.

Also finds the stretches of frames in which they differ.
"""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.scene.exporting import Progress
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.movie import write_mp4
from tinfork.engines.handover.picture_options import size_at
from tinfork.engines.handover.small import plain_frames

#: The width of each half in pixels.
_WIDTH = 640
Pair = tuple[NDArray[np.uint8], NDArray[np.uint8]]


def write_comparison(before: Scene, after: Scene, path: Path, progress: Progress) -> tuple[int, list[tuple[int, int]]]:
    """Write the movie, with the sound of the state after.

    Returns its number of frames and the stretches `[first, end)` that differ. The shorter state freezes on its last
    frame.
    """
    width, height = size_at(after, _WIDTH)
    total = max(before.frames, after.frames)
    differs: list[tuple[int, int]] = []
    pairs = zip(plain_frames(before, width, (0, total)), plain_frames(after, width, (0, total)), strict=True)
    write_mp4(_laid(pairs, differs), total, (2 * width, height), after, path, progress)
    return total, differs


def _laid(pairs: Iterator[Pair], differs: list[tuple[int, int]]) -> Iterator[NDArray[np.uint8]]:
    """Both halves as one picture; the same object is yielded while neither changes.

    Stretches that differ are appended to a list.
    """
    last: Pair | None = None
    laid: NDArray[np.uint8] | None = None
    is_other = False
    for frame, pair in enumerate(pairs):
        if laid is None or last is None or pair[0] is not last[0] or pair[1] is not last[1]:
            laid, last = np.concatenate(pair, axis=1), pair
            is_other = not np.array_equal(*pair)
        if is_other and differs and differs[-1][1] == frame:
            differs[-1] = (differs[-1][0], frame + 1)
        elif is_other:
            differs.append((frame, frame + 1))
        yield laid
