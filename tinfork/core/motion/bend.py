"""A drawing bent by a cage of 3 x 3 points: where each point of it moves, and where it came from.

The same rule is in `static/js/lib/bend.js`; both are tested on `tests/golden/bends.json`. A bend is 18 numbers: how far
each point of the cage is pulled to the right and down, in hundredths of the drawing's width and height, row by row from
the top left. Between them the surface is the quadratic one through all nine (Lagrange's polynomials in both
directions): it passes through every point, and a drawing whose cage is moved as a whole moves as a whole.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Shares = NDArray[np.float64]
Bend = tuple[float, ...]

#: Two numbers for each of nine points, and the limit of each number.
NUMBERS = 18
MOST = 80.0
#: Not bent.
STRAIGHT: Bend = ()
#: At how many points the surface is checked for folds, and how far it may be compressed there.
_LOOKED_AT = np.linspace(0, 1, 9)
_FLATTEST = 0.04
#: Steps of Newton's method, and how near they must come, in shares of the drawing.
_STEPS, _NEAR = 10, 1e-4
#: How far the edge of a drawing may bulge between the points at which it is sampled.
_EDGE = 0.05


def bend_of(values: Sequence[float]) -> Bend:
    """A bend from 18 numbers; no numbers, or only zeros, is not bent.

    Raises
    ------
    ValueError
        For any other count.
    """
    if len(values) not in (0, NUMBERS):
        raise ValueError(f"A bend has {NUMBERS} numbers.")
    return tuple(map(float, values)) if any(values) else STRAIGHT


def mixed(a: Bend, b: Bend, share: float) -> Bend:
    """Interpolate two bends; `share` 0 is the first, 1 the second."""
    if not a and not b:
        return STRAIGHT
    a, b = a or (0.0,) * NUMBERS, b or (0.0,) * NUMBERS
    return tuple(one + (other - one) * share for one, other in zip(a, b, strict=True))


def bent(bend: Bend, across: Shares, down: Shares) -> tuple[Shares, Shares]:
    """Where points of a drawing move to, in shares of its width and height."""
    pulled = _pulled(bend, across, down)
    return across + pulled[0], down + pulled[1]


def straightened(bend: Bend, across: Shares, down: Shares) -> tuple[Shares, Shares]:
    """The points of a drawing that are seen at some places, in shares of its width and height.

    NaN where nothing of it is seen.
    """
    goal_x, goal_y = across.ravel(), down.ravel()
    x, y = _sought(bend, goal_x, goal_y, np.clip(goal_x, 0, 1), np.clip(goal_y, 0, 1))
    missed = np.flatnonzero(np.isnan(x))
    if len(missed):
        # Newton's method may fail from a distant start: try once more from the nearest of some sample points.
        from_x, from_y = (grid.ravel() for grid in np.meshgrid(_LOOKED_AT, _LOOKED_AT))
        at_x, at_y = bent(bend, from_x, from_y)
        # Only solutions inside the drawing count.
        lost = missed[
            (goal_x[missed] > at_x.min() - _EDGE)
            & (goal_x[missed] < at_x.max() + _EDGE)
            & (goal_y[missed] > at_y.min() - _EDGE)
            & (goal_y[missed] < at_y.max() + _EDGE)
        ]
        away = np.hypot(at_x[:, None] - goal_x[lost], at_y[:, None] - goal_y[lost])
        nearest = away.argmin(axis=0) if len(lost) else lost
        x[lost], y[lost] = _sought(bend, goal_x[lost], goal_y[lost], from_x[nearest], from_y[nearest])
    return x.reshape(across.shape), y.reshape(across.shape)


def _sought(bend: Bend, goal_x: Shares, goal_y: Shares, x: Shares, y: Shares) -> tuple[Shares, Shares]:
    """The points that move to the given places, by Newton's method from starting points; NaN where it fails."""
    for _ in range(_STEPS):
        at_x, at_y = bent(bend, x, y)
        (a, c), (b, d) = _slopes(bend, x, y)
        det = a * d - b * c
        det = np.where(np.abs(det) < 1e-6, 1e-6, det)
        away_x, away_y = goal_x - at_x, goal_y - at_y
        x = np.clip(x + (d * away_x - c * away_y) / det, -0.1, 1.1)
        y = np.clip(y + (a * away_y - b * away_x) / det, -0.1, 1.1)
    at_x, at_y = bent(bend, x, y)
    inside = (np.abs(x - 0.5) <= 0.5 + _NEAR) & (np.abs(y - 0.5) <= 0.5 + _NEAR)
    there = inside & (np.hypot(at_x - goal_x, at_y - goal_y) < _NEAR)
    return np.where(there, x, np.nan), np.where(there, y, np.nan)


def folds(bend: Bend) -> bool:
    """Whether a drawing with this bend would fold over itself."""
    if not bend:
        return False
    x, y = np.meshgrid(_LOOKED_AT, _LOOKED_AT)
    (a, c), (b, d) = _slopes(bend, x, y)
    return bool((a * d - b * c).min() < _FLATTEST)


def mirrored(bend: Bend) -> Bend:
    """The same bend, left for right."""
    rows = [bend[n : n + 2] for n in range(0, len(bend), 2)]
    return tuple(
        value for row in range(0, len(rows), 3) for dx, dy in reversed(rows[row : row + 3]) for value in (-dx, dy)
    )


def _pulled(bend: Bend, x: Shares, y: Shares) -> Shares:
    """How far points are pulled, shape (2, points)."""
    cage = np.array(bend or (0.0,) * NUMBERS).reshape(3, 3, 2) / 100
    out: Shares = np.einsum("j...,i...,jik->k...", _lagrange(y), _lagrange(x), cage)
    return out


def _slopes(bend: Bend, x: Shares, y: Shares) -> tuple[tuple[Shares, Shares], tuple[Shares, Shares]]:
    """The Jacobian of `bent`: ((dX/dx, dX/dy), (dY/dx, dY/dy))."""
    cage = np.array(bend or (0.0,) * NUMBERS).reshape(3, 3, 2) / 100
    along = np.einsum("j...,i...,jik->k...", _lagrange(y), _lagrange_slopes(x), cage)
    up = np.einsum("j...,i...,jik->k...", _lagrange_slopes(y), _lagrange(x), cage)
    return (1 + along[0], up[0]), (along[1], 1 + up[1])


def _lagrange(t: Shares) -> Shares:
    """The three quadratic polynomials that are 1 at 0, 1/2 and 1, and 0 at the other two."""
    return np.stack([(2 * t - 1) * (t - 1), 4 * t * (1 - t), t * (2 * t - 1)])


def _lagrange_slopes(t: Shares) -> Shares:
    return np.stack([4 * t - 3, 4 - 8 * t, 4 * t - 1])
