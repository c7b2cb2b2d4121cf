"""Odds learnt from what is known of many cases and whether each was right."""

import numpy as np
from numpy.typing import NDArray


def logistic(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weights, shape (columns,), of the likeliest logistic model with a little shrinkage (Newton's method)."""
    weights = np.zeros(x.shape[1])
    shrink = np.eye(x.shape[1]) * 1.0
    shrink[0, 0] = 0.0
    for _ in range(30):
        odds = 1 / (1 + np.exp(-x @ weights))
        slope = x.T @ (y - odds) - shrink @ weights
        bend = (x * (odds * (1 - odds))[:, None]).T @ x + shrink
        weights = weights + np.linalg.solve(bend, slope)
    return weights
