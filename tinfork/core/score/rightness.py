"""Which sounds and words of a reading are right, and how well its confidence predicts that."""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.reading import Phoneme
from tinfork.core.speech.visemes import viseme_parts

_MOMENTS = 9
#: A sound is right if the truth has its class for more than this share of its time; a word, over its sounds together.
SOUND_RIGHT, WORD_RIGHT = 0.5, 0.6


def shares_right(found: Sequence[Phoneme], truth: Sequence[Phoneme]) -> list[float]:
    """For each sound found, the share of its time at which the truth shows one of its viseme classes."""
    starts = np.array([p.start_us for p in truth])
    out = []
    for sound in found:
        classes = set(viseme_parts(sound.ipa))
        moments = np.linspace(sound.start_us, sound.end_us, _MOMENTS + 2)[1:-1]
        shown = 0
        for moment, at in zip(moments, np.searchsorted(starts, moments, side="right") - 1, strict=True):
            if at >= 0 and moment < truth[at].end_us:
                shown += bool(classes & set(viseme_parts(truth[at].ipa)))
        out.append(shown / _MOMENTS)
    return out


def word_share(sounds: Sequence[Phoneme], shares: Sequence[float]) -> float:
    """The share of a word, from the shares of its sounds weighted by length."""
    return float(np.average(shares, weights=[max(1, s.end_us - s.start_us) for s in sounds]))


def reliability(
    sure: Sequence[float], right: Sequence[bool], edges: Sequence[float] = (0.0, 0.5, 0.7, 0.8, 0.9, 0.95, 1.0)
) -> list[tuple[str, int, float, float]]:
    """A reliability diagram: rows of (bin, count, mean confidence, share right).

    After DeGroot & Fienberg (1983). Empty bins are left out.
    """
    confidence, was_right = np.array(sure, dtype=np.float64), np.array(right, dtype=np.float64)
    rows = []
    for low, high in itertools.pairwise(edges):
        inside: NDArray[np.bool_] = (confidence >= low) & ((confidence < high) | (high == edges[-1]))
        if inside.any():
            name = f"{100 * low:.0f}-{100 * high:.0f} %"
            rows.append((name, int(inside.sum()), float(confidence[inside].mean()), float(was_right[inside].mean())))
    return rows
