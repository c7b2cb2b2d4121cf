"""Reading by ear: the likeliest sequence of sounds where no words are known, by how often sounds follow each other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import SHORTEST
from tinfork.core.ear.phones import BREATH, HEARD, SILENCE

#: How much the evidence of edges, and what usually follows what, count beside the evidence of sounds.
_EDGE_WEIGHT, _TRANSITIONS_WEIGHT = 0.5, 0.8
#: The price of each further sound (log probability): fewer, longer sounds are likelier to be right.
_EACH = 1.0
_NEVER = -1e6


@dataclass(frozen=True, slots=True)
class HeardSound:
    """One sound (its number in `HEARD`, 0 is silence), frames `[first, last)`, mean log probability."""

    sound: int
    first: int
    last: int
    score: float


def sounds_in(evidence: Evidence, transitions: NDArray[np.float32]) -> list[HeardSound]:
    """What is heard, one sound after another; `transitions[a, b]` is the log probability that b comes after a."""
    frames, count = evidence.heard.shape
    emission = evidence.heard.astype(np.float64)
    # Breath is not a speech sound.
    emission[:, HEARD.index(SILENCE)] = evidence.voiceless
    emission[:, HEARD.index(BREATH)] = _NEVER
    change = _EDGE_WEIGHT * np.log(np.maximum(evidence.edge, 1e-3)).astype(np.float64)
    steady = _EDGE_WEIGHT * np.log(np.maximum(1 - evidence.edge, 1e-3)).astype(np.float64)
    cost = (_TRANSITIONS_WEIGHT * transitions - _EACH).astype(np.float64)
    np.fill_diagonal(cost, -np.inf)
    came_from = np.zeros((frames, count), dtype=np.int16)
    stayed = np.zeros((frames, count), dtype=bool)
    best = np.full((SHORTEST, count), -np.inf)
    best[0] = emission[0]
    everyone = np.arange(count)
    for t in range(1, frames):
        reach = best[-1][:, None] + cost
        source = reach.argmax(axis=0)
        came_from[t] = source
        entering = reach[source, everyone] + max(change[t], change[t - 1])
        on = best[-2] + steady[t]
        stay = best[-1] + steady[t]
        stayed[t] = stay > on
        best = np.stack([entering, *(best[:-2] + steady[t]), np.maximum(on, stay)]) + emission[t]
    return _retrace(best, came_from, stayed, evidence)


def _retrace(
    best: NDArray[np.float64], came_from: NDArray[np.int16], stayed: NDArray[np.bool_], evidence: Evidence
) -> list[HeardSound]:
    frames = len(came_from)
    nth, sound = divmod(int(best.argmax()), best.shape[1])
    out: list[HeardSound] = []
    last = frames
    for t in range(frames - 1, -1, -1):
        if nth == SHORTEST - 1 and t > 0 and stayed[t, sound]:
            continue
        if nth > 0 and t > 0:
            nth -= 1
            continue
        out.append(HeardSound(sound, t, last, float(evidence.heard[t:last, sound].mean())))
        last, nth = t, SHORTEST - 1
        sound = int(came_from[t, sound])
    return out[::-1]
