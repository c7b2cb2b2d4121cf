"""The ear's network: a small stack of dilated convolutions, computed in numpy.

Trained on synthesised speech and on recordings of people, by the project's own tools (`tools/ear`). Dilated
convolutions for speech sounds are those of Waibel et al. 1989 (time-delay networks), with residual paths.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.phones import BREATH, HEARD, SILENCE

Floats = NDArray[np.float32]

#: Added to the log probability of silence where a frame is known to be silent, and where it is known to be loud
#: (logarithms).
_SURELY, _HARDLY = 5.0, 3.0


@dataclass(frozen=True)
class Evidence:
    """What the ear makes of a sound, a row per 10 ms.

    `heard`: log probability of each sound of `HEARD`, shape (frames, sounds); `edge`: probability that a sound begins
    or ends in the frame, shape (frames,).
    """

    heard: Floats
    edge: Floats

    @property
    def voiceless(self) -> Floats:
        """Log probability that nobody speaks: silence or breath, shape (frames,)."""
        return np.logaddexp(self.heard[:, HEARD.index(SILENCE)], self.heard[:, HEARD.index(BREATH)])

    def with_levels(self, is_rest: NDArray[np.bool_], is_loud: NDArray[np.bool_]) -> "Evidence":
        """The same, surely voiceless in some frames, hardly ever in others, shape (frames,) each."""
        heard = self.heard.copy()
        heard[is_rest, HEARD.index(SILENCE)] += _SURELY
        heard[is_loud, HEARD.index(SILENCE)] -= _HARDLY
        heard[is_loud, HEARD.index(BREATH)] -= _HARDLY
        changed = is_rest | is_loud
        heard[changed] -= np.log(np.exp(heard[changed]).sum(axis=1, keepdims=True))
        return Evidence(heard, self.edge)

    def with_gains(self, gains: Floats) -> "Evidence":
        """The same, each sound so much likelier (log probability), shape (sounds,)."""
        heard = self.heard + gains
        heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
        return Evidence(heard, self.edge)

    def part(self, first: int, last: int | None) -> "Evidence":
        """Frames `[first, last)`, or all from the first on."""
        return Evidence(self.heard[first:last], self.edge[first:last])


class Network:
    """The layers of `tools/ear/train.py` with their weights; the same sound gives the same evidence."""

    #: Frames computed at once, and frames around them that the network also looks at.
    _BLOCK, _FIELD = 3000, 80

    def __init__(self, weights: Mapping[str, NDArray[Any]]) -> None:
        """`weights` by name as the training tool writes them.

        `ValueError` when there are none, or they are for other sounds.

        Raises
        ------
        ValueError
            For no weights, or those of another set of sounds.
        """
        if not weights:
            raise ValueError("The ear has no weights.")
        self._dilations = [int(d) for d in weights["dilations"]]
        count = len(self._dilations) + 1
        self._kernels = [weights[f"kernel_{n}"].astype(np.float32) for n in range(count)]
        self._biases = [weights[f"bias_{n}"].astype(np.float32) for n in range(count)]
        self._last = weights["last_kernel"].astype(np.float32)
        self._last_bias = weights["last_bias"].astype(np.float32)
        if self._last.shape[1] != len(HEARD) + 1:
            raise ValueError("The ear's weights are for another set of sounds.")

    def listen_to_bands(self, bands: Floats) -> Evidence:
        """The evidence in a spectrum of `hearing.normalised`."""
        out = np.empty((len(bands), len(HEARD) + 1), dtype=np.float32)
        for first in range(0, len(bands), self._BLOCK):
            begin, end = max(0, first - self._FIELD), min(len(bands), first + self._BLOCK + self._FIELD)
            part = self._forward(bands[begin:end])
            out[first : first + self._BLOCK] = part[first - begin : first - begin + self._BLOCK]
        heard = out[:, :-1]
        heard = heard - heard.max(axis=1, keepdims=True)
        heard -= np.log(np.exp(heard).sum(axis=1, keepdims=True))
        edge = 1 / (1 + np.exp(-out[:, -1]))
        return Evidence(heard, np.asarray(edge, dtype=np.float32))

    def _forward(self, x: Floats) -> Floats:
        """Bands to sounds and one more, whether there is an edge, shape (frames, sounds + 1): logits."""
        x = np.maximum(_convolved(x, self._kernels[0], 1) + self._biases[0], 0)
        for kernel, bias, dilation in zip(self._kernels[1:], self._biases[1:], self._dilations, strict=True):
            x = x + np.maximum(_convolved(x, kernel, dilation) + bias, 0)
        return np.asarray(x @ self._last + self._last_bias, dtype=np.float32)


def _convolved(x: Floats, kernel: Floats, dilation: int) -> Floats:
    """Shape (frames, in) to (frames, out); zeros beyond the ends. `kernel` has shape (taps, in, out)."""
    reach = len(kernel) // 2 * dilation
    padded = np.zeros((len(x) + 2 * reach, x.shape[1]), dtype=np.float32)
    padded[reach : reach + len(x)] = x
    out: Floats = padded[: len(x)] @ kernel[0]
    for tap in range(1, len(kernel)):
        out += padded[tap * dilation : tap * dilation + len(x)] @ kernel[tap]
    return out
