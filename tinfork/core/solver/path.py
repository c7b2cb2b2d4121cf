"""The cheapest sequence of drawings whose holds all last long enough: exact.

Dynamic programming over (frame, drawing), as for hidden semi-Markov models with a
least duration (Ferguson 1980): `ready[f, d]` is the least cost of frames 0..f with drawing
d on f in a hold that may end there. It either continues a ready hold, or a hold that
began exactly `shortest` frames ago becomes ready. O(frames x drawings).
"""

import numpy as np
from numpy.typing import NDArray

from tinfork.core.solver.problem import Problem

_FAR = np.int64(2**62)


def _cheapest_other(row: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.intp]]:
    """For each drawing, the least cost among the other drawings, and which one (lowest index first)."""
    first = int(np.argmin(row))
    best = np.full_like(row, row[first])
    which = np.full(row.shape, first, dtype=np.intp)
    rest = row.copy()
    rest[first] = _FAR
    second = int(np.argmin(rest))
    best[first], which[first] = rest[second], second
    return best, which


def find_path(problem: Problem) -> NDArray[np.intp]:
    """The drawing (column of `costs`) on every frame, shape (frames,); ties go to the lower column."""
    costs, least = problem.costs, problem.shortest
    frames, drawings = costs.shape
    if frames == 0:
        return np.zeros(0, dtype=np.intp)
    if frames < 2 * least or drawings == 1:
        return np.full(frames, int(np.argmin(costs.sum(axis=0))), dtype=np.intp)
    window = np.vstack([np.zeros((1, drawings), np.int64), np.cumsum(costs, axis=0)])
    ready = np.full((frames, drawings), _FAR)
    began = np.zeros((frames, drawings), dtype=bool)
    came_from = np.full((frames, drawings), -1, dtype=np.intp)
    ready[least - 1] = window[least]
    began[least - 1] = True
    for f in range(least, frames):
        ready[f] = ready[f - 1] + costs[f]
        start = f - least + 1
        if start < least:
            continue
        before, which = _cheapest_other(ready[start - 1])
        fresh = before + problem.change + (window[f + 1] - window[start])
        take = fresh < ready[f]
        ready[f][take] = fresh[take]
        began[f] = take
        came_from[f][take] = which[take]
    return _walk_back(ready, began, came_from, least)


def _walk_back(
    ready: NDArray[np.int64], began: NDArray[np.bool_], came_from: NDArray[np.intp], least: int
) -> NDArray[np.intp]:
    path = np.empty(len(ready), dtype=np.intp)
    f, d = len(ready) - 1, int(np.argmin(ready[-1]))
    while f >= 0:
        if began[f, d]:
            path[f - least + 1 : f + 1] = d
            f, d = f - least, int(came_from[f, d])
        else:
            path[f] = d
            f -= 1
    return path


def path_cost(problem: Problem, path: NDArray[np.intp]) -> int:
    """What a sequence of drawings costs, in the problem's units."""
    shown = problem.costs[np.arange(len(path)), path].sum()
    return int(shown) + problem.change * int((np.diff(path) != 0).sum())
