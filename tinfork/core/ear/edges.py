"""Where exactly one sound becomes the next: the ear's edges, which lie on a grid of 10 ms, moved by what is near them.

A small network sees the spectrum 40 ms to both sides of an edge, in steps of 5 ms, which two sounds meet there, and how
long both are (boundary refinement: Toledano et al. 2003). It is trained on voices whose edges are exactly known
(`tools/ear/edges.py`).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.hearing import RATE_HZ, normalised
from tinfork.core.ear.phones import HEARD, heard_as
from tinfork.core.sound.voice import mel_bands

Floats = NDArray[np.float32]
#: A sound: IPA, start and end in seconds.
Timed = tuple[str, float, float]

#: Samples from one spectrum to the next (5 ms) and in each (16 ms); mel bands; spectra to each side of an edge.
HOP, _SIZE, BANDS, REACH = 80, 256, 24, 8
_FFT, _FLOOR = 512, 1e-7
#: No edge is moved further than this (steps of 5 ms).
FURTHEST = 6.0


@dataclass(frozen=True)
class MetEdge:
    """A time in seconds at which one sound becomes another (IPA), and how long both are (seconds)."""

    at_s: float
    before: str
    after: str
    before_s: float
    after_s: float

    @classmethod
    def between(cls, before: Timed, after: Timed) -> "MetEdge":
        """Where one sound ends and the next begins."""
        return cls(after[1], before[0], after[0], before[2] - before[1], after[2] - after[1])

    @property
    def heard(self) -> tuple[int, int] | None:
        """The outputs of the ear's network that meet here; None for a symbol without sound."""
        before, after = heard_as(self.before), heard_as(self.after)
        return (before[-1], after[0]) if before and after else None


def edge_bands(samples: Floats) -> Floats:
    """Log power per mel band, `normalised` as for the ear; shape (steps, 24), step k centred on sample 80 k.

    Samples at 16 kHz, -1 to 1.
    """
    padded = np.pad(samples.astype(np.float32), (_SIZE // 2, _SIZE + HOP))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _SIZE)[::HOP][: len(samples) // HOP + 1]
    spectrum = np.fft.rfft(windows * np.hanning(_SIZE).astype(np.float32), _FFT, axis=1)
    power = (spectrum.real**2 + spectrum.imag**2).astype(np.float32)
    return normalised(np.log(power @ mel_bands(_FFT, RATE_HZ, BANDS).astype(np.float32) + _FLOOR))


def lengths_of(edges: Sequence[MetEdge]) -> Floats:
    """How long the sounds beside each edge are, shape (edges, 2): natural logarithm, 0 for 50 ms."""
    lengths = np.array([(edge.before_s, edge.after_s) for edge in edges], dtype=np.float32)
    return np.asarray(np.log(np.maximum(lengths, 0.005) / 0.05), dtype=np.float32)


def step_of(at_s: float) -> int:
    """The step nearest to a time."""
    return round(at_s * RATE_HZ / HOP)


def windows_at(bands: Floats, steps: Sequence[int]) -> Floats:
    """The bands around each step, shape (edges, 17 * 24); the first and the last step go on beyond the ends."""
    around = np.asarray(steps, dtype=np.int64)[:, None] + np.arange(-REACH, REACH + 1)
    seen: Floats = bands[np.clip(around, 0, len(bands) - 1)].reshape(len(steps), (2 * REACH + 1) * BANDS)
    return seen


class EdgeNetwork:
    """Two layers with the weights of `tools/ear/train_edges.py`; the same sound gives the same edges."""

    def __init__(self, weights: Mapping[str, NDArray[Any]]) -> None:
        """`weights` by name as the training tool writes them.

        Raises
        ------
        ValueError
            For no weights, or those of another set of sounds.
        """
        if not weights:
            raise ValueError("The ear has no weights for edges.")
        own = {name: values.astype(np.float32) for name, values in weights.items()}
        self._seen, self._before, self._after = own["seen"], own["before"], own["after"]
        self._lengths, self._bias = own["lengths"], own["bias"]
        self._hidden, self._hidden_bias = own["hidden"], own["hidden_bias"]
        self._last, self._last_bias = own["last"], own["last_bias"]
        if len(self._before) != len(HEARD) or len(self._after) != len(HEARD):
            raise ValueError("The ear's weights for edges are for another set of sounds.")

    def moved(self, bands: Floats, edges: Sequence[MetEdge]) -> list[float]:
        """The times of edges in a sound with these `edge_bands`, in seconds.

        One between symbols without sound stays.
        """
        out = [edge.at_s for edge in edges]
        known = [(at, pair) for at, edge in enumerate(edges) if (pair := edge.heard)]
        if not known:
            return out
        some = [edges[at] for at, _ in known]
        steps = [step_of(edge.at_s) for edge in some]
        before, after = np.array([pair for _, pair in known]).T
        x = windows_at(bands, steps) @ self._seen + lengths_of(some) @ self._lengths + self._bias
        x = np.maximum(x + self._before[before] + self._after[after], 0)
        x = np.maximum(x @ self._hidden + self._hidden_bias, 0)
        by = FURTHEST * np.tanh((x @ self._last + self._last_bias) / FURTHEST)
        for (at, _), step, steps_on in zip(known, steps, by.tolist(), strict=True):
            out[at] = max(0.0, (step + steps_on) * HOP / RATE_HZ)
        return out
