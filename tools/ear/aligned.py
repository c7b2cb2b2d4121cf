"""What natural voices say when: the sounds of a recording of known words, placed by the ear as it is.

Such labels are not exact. They are made again with the ear that was learnt from them, round by round (as in training
by realignment: Rabiner 1989), and recordings whose words fit badly are left out: their words are hardly what is said.
A recording is one phrase in a quiet room, so that its silence is known by level, and is no matter of the ear's.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.edges import MetEdge, edge_bands
from tinfork.core.ear.hearing import HOP, log_mels, normalised
from tinfork.core.ear.network import Evidence, Network
from tinfork.core.ear.path import Way, find, ways_of
from tinfork.core.ear.phones import HEARD, SILENCE
from tinfork.core.sound.voice import level_db
from tinfork.engines.ear import edge_network
from tools.ear.speaking import RATE_HZ, LabelledSpeech

Samples = NDArray[np.float32]

#: Speakers so many times as high as usual are tried.
_RATIOS = (1.0, 2 ** (-3 / 12), 2 ** (3 / 12))
#: Speech is what is so far over the quiet and not so far under the loud (dB), for so long; pauses are so long (hops).
_OVER_QUIET, _UNDER_LOUD, _LEAST_HOPS, _PAUSE_HOPS = 8.0, 34.0, 6, 15
_SURE = 8.0


@dataclass(frozen=True)
class AlignedSpeech:
    """Speech with its sounds, and how well they fit where they are (mean log probability a frame)."""

    heard: LabelledSpeech
    fit: float


def speech_span(samples: Samples) -> tuple[int, int] | None:
    """The hops `[first, last)` between which somebody speaks, by level; None where nobody does."""
    voiced = _voiced(level_db(samples, RATE_HZ))
    loud = np.flatnonzero(voiced)
    runs = [run for run in np.split(loud, np.flatnonzero(np.diff(loud) > 1) + 1) if len(run) >= _LEAST_HOPS]
    return (int(runs[0][0]), int(runs[-1][-1]) + 1) if runs else None


def _voiced(levels: NDArray[np.float64]) -> NDArray[np.bool_]:
    quiet, loud = np.quantile(levels, [0.03, 0.98])
    return np.asarray(levels > max(quiet + _OVER_QUIET, loud - _UNDER_LOUD), dtype=np.bool_)


def aligned(samples: Samples, words: Sequence[Way], network: Network) -> AlignedSpeech | None:
    """The sounds of the words in one recorded phrase; None where they find no place."""
    span = speech_span(samples)
    if span is None:
        return None
    silent = _silences(samples, span)
    best: tuple[float, list[tuple[str, int, int]]] | None = None
    for bands in log_mels(samples, _RATIOS):
        evidence = _with_silence(network.listen_to_bands(normalised(bands)), silent)
        found = find(evidence, words)
        if found is None:
            continue
        placed = [
            (symbol, s.first, s.last, s.score)
            for spans, word, taken in zip(found.words, words, found.taken, strict=True)
            for s, symbol in zip(spans, ways_of(word)[taken], strict=True)
            if s
        ]
        fit = float(np.average([p[3] for p in placed], weights=[p[2] - p[1] for p in placed]))
        if best is None or fit > best[0]:
            best = fit, [p[:3] for p in placed]
    if best is None:
        return None
    fit, sounds = best
    return AlignedSpeech(LabelledSpeech(samples, tuple(_at_changes(samples, sounds))), fit)


def _silences(samples: Samples, span: tuple[int, int]) -> NDArray[np.bool_]:
    """The hops before and after the phrase, and inside long pauses in it."""
    voiced = _voiced(level_db(samples, RATE_HZ))
    silent = np.ones(len(voiced), dtype=bool)
    silent[span[0] : span[1]] = False
    quiet = np.flatnonzero(~voiced & ~silent)
    for run in np.split(quiet, np.flatnonzero(np.diff(quiet) > 1) + 1):
        if len(run) >= _PAUSE_HOPS:
            silent[run[2:-2]] = True
    return silent


def _with_silence(evidence: Evidence, silent: NDArray[np.bool_]) -> Evidence:
    """The evidence, as sure of silence as one may be where it is known."""
    heard, edge = evidence.heard.copy(), evidence.edge.copy()
    known = np.zeros(len(heard), dtype=bool)
    count = min(len(heard), len(silent))
    known[:count] = silent[:count]
    heard[known] = -_SURE - np.log(len(HEARD))
    heard[known, HEARD.index(SILENCE)] = -0.01
    at = np.flatnonzero(np.diff(known.astype(np.int8))) + 1
    edge[at] = 0.95
    return Evidence(heard, edge)


def _at_changes(samples: Samples, sounds: list[tuple[str, int, int]]) -> list[tuple[str, float, float]]:
    """Sounds in seconds, edges between two of them where one becomes the other."""
    hop_s = HOP / RATE_HZ
    timed = [(symbol, first * hop_s, last * hop_s) for symbol, first, last in sounds]
    edges = [MetEdge.between(before, now) for before, now in pairwise(timed) if before[2] == now[1]]
    moved = iter(edge_network().moved(edge_bands(samples), edges))
    out: list[tuple[str, float, float]] = []
    for at, (symbol, first, last) in enumerate(sounds):
        start = first * hop_s
        if at and sounds[at - 1][2] == first:
            start = max(next(moved), out[-1][1] + 0.01)
            out[-1] = (out[-1][0], out[-1][1], start)
        out.append((symbol, start, max(last * hop_s, start + 0.01)))
    return out
