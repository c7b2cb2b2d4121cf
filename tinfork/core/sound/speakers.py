"""Who speaks when, by the sound of the voices alone: a proposal for people to correct.

Speech is cut into short pieces, the pieces are clustered by timbre and pitch (Ward 1963), and each cluster is then
modelled by a Gaussian over cepstra; with these models all speech is assigned, at a price for each change of speaker
(Viterbi).
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.silence import speech_level_db, speech_stretches
from tinfork.core.sound.timbre import cepstra, pitches
from tinfork.core.sound.voice import HOP_US, level_db

MAX_SPEAKERS = 8
#: Speech is cut into pieces of about this length (hops of 10 ms).
_PIECE = 120
_LEAST_PIECE = 30
#: The price of a change of speaker inside speech, and across a pause (log likelihood).
_CHANGE_INSIDE, _CHANGE_AT_PAUSE = 90.0, 12.0
#: The weight of pitch; that of timbre is 1.
_PITCH_WEIGHT = 3.0
_ROUNDS = 4
#: More pieces than this are thinned out before clustering, which is quadratic.
_MOST_PIECES = 900
#: If the last merge costs less than the first share of the total, there is one voice; if more than the second, two.
_ONE_VOICE, _CLEAR = 0.24, 0.07


@dataclass(frozen=True, slots=True)
class Voiced:
    """A stretch of one voice; voices are numbered from 0 in the order in which they are first heard."""

    voice: int
    start_us: int
    end_us: int


def propose_speakers(samples: NDArray[np.float32], rate_hz: int, count: int | None = None) -> list[Voiced]:
    """Stretches of speech with the voice each seems to be; `count` voices, or as many as seem to be there.

    `samples`: mono, shape (n,). A silent sound gives an empty list.
    """
    levels = level_db(samples, rate_hz)
    stretches = [(s.start_us // HOP_US, s.end_us // HOP_US) for s in speech_stretches(levels, pause_us=200_000)]
    if not stretches:
        return []
    loud = levels > speech_level_db(levels)
    timbre, pitch = cepstra(samples, rate_hz)[: len(levels)], pitches(samples, rate_hz)[: len(levels)]
    pieces = _pieces(stretches)
    features = np.array([_feature(timbre[a:b], pitch[a:b], loud[a:b]) for a, b in pieces])
    labels = _cluster(features, count)
    owner = np.full(len(levels), -1, dtype=np.int64)
    for (a, b), label in zip(pieces, labels, strict=True):
        owner[a:b] = label
    for _ in range(_ROUNDS):
        owner = _share_out(timbre, pitch, loud, stretches, owner)
    return _stretches(owner, stretches)


def _pieces(stretches: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Stretches cut into about equal pieces, none much longer than `_PIECE`."""
    out: list[tuple[int, int]] = []
    for start, end in stretches:
        parts = max(1, round((end - start) / _PIECE))
        cuts = np.linspace(start, end, parts + 1).round().astype(int)
        out += [(int(a), int(b)) for a, b in pairwise(cuts)]
    return out


def _feature(timbre: NDArray[np.float32], pitch: NDArray[np.float32], loud: NDArray[np.bool_]) -> NDArray[np.float64]:
    """One piece: the middle and the spread of its cepstra, and its pitch (NaN where it has none)."""
    kept = timbre[loud] if loud.sum() >= 5 else timbre
    voiced = pitch[loud & ~np.isnan(pitch)]
    high = float(np.median(voiced)) if len(voiced) >= 5 else np.nan
    return np.concatenate([kept.mean(axis=0), 0.5 * kept.std(axis=0), [high]])


def _scaled(features: NDArray[np.float64]) -> NDArray[np.float64]:
    out = features.copy()
    high = out[:, -1]
    out[np.isnan(high), -1] = np.nanmedian(high) if not np.isnan(high).all() else 0.0
    scaled: NDArray[np.float64] = (out - out.mean(axis=0)) / (out.std(axis=0) + 1e-6)
    scaled[:, -1] *= _PITCH_WEIGHT
    return scaled


def _cluster(features: NDArray[np.float64], count: int | None) -> NDArray[np.int64]:
    """A cluster for each piece: Ward's method on some of them, the rest to the nearest middle."""
    points = _scaled(features)
    thin = np.arange(len(points))[:: -(-len(points) // _MOST_PIECES)]
    merges, labels = _ward(points[thin])
    clusters = count or _guess(merges)
    found = labels(min(clusters, len(thin)))
    middles = np.array([points[thin][found == c].mean(axis=0) for c in range(found.max() + 1)])
    nearest: NDArray[np.int64] = ((points[:, None, :] - middles[None]) ** 2).sum(axis=2).argmin(axis=1)
    return nearest


def _ward(points: NDArray[np.float64]):  # type: ignore[no-untyped-def]
    """Ward's clustering: the rise of each merge, and a function from a number of clusters to labels."""
    n = len(points)
    sizes, middles = np.ones(n), points.copy()
    alive = np.ones(n, dtype=bool)
    distance = ((points[:, None, :] - points[None]) ** 2).sum(axis=2) / 2
    np.fill_diagonal(distance, np.inf)
    steps: list[tuple[int, int, float]] = []
    for _ in range(n - 1):
        at = int(np.argmin(distance))
        a, b = divmod(at, n)
        steps.append((a, b, float(distance[a, b])))
        middles[a] = (middles[a] * sizes[a] + middles[b] * sizes[b]) / (sizes[a] + sizes[b])
        sizes[a] += sizes[b]
        alive[b] = False
        distance[b, :] = distance[:, b] = np.inf
        rise = ((middles - middles[a]) ** 2).sum(axis=1) * sizes * sizes[a] / (sizes + sizes[a])
        rise[~alive] = np.inf
        rise[a] = np.inf
        distance[a, :] = distance[:, a] = rise

    def labels(clusters: int) -> NDArray[np.int64]:
        parent = np.arange(n)
        for a, b, _ in steps[: n - clusters]:
            parent[parent == b] = a
        _, numbered = np.unique(parent, return_inverse=True)
        return numbered.astype(np.int64)

    return [rise for *_, rise in steps], labels


def _guess(rises: list[float]) -> int:
    """The number of voices: at the last merge that costs at least twice as much as the one before it.

    The cost of the last merge as a share of the total, measured on speech of one to four voices: one voice up to 0.19,
    more from 0.29 on.
    """
    last = [rise / max(sum(rises), 1e-9) for rise in rises[-MAX_SPEAKERS:][::-1]]
    if len(last) < 2 or last[0] < _ONE_VOICE:
        return 1
    clear = [at + 2 for at in range(len(last) - 1) if last[at] >= 2 * last[at + 1] and last[at] > _CLEAR]
    return max(clear, default=2)


def _share_out(
    timbre: NDArray[np.float32],
    pitch: NDArray[np.float32],
    loud: NDArray[np.bool_],
    stretches: list[tuple[int, int]],
    owner: NDArray[np.int64],
) -> NDArray[np.int64]:
    """Assign each hop of speech to the voice that it fits best, at a price for changes."""
    voices = np.unique(owner[owner >= 0])
    if len(voices) < 2:
        return owner
    seen = np.zeros((len(owner), len(voices)))
    for column, voice in enumerate(voices):
        seen[:, column] = _fit(timbre, pitch, loud & (owner == voice))
    seen[~loud] = 0.0
    out = np.full(len(owner), -1, dtype=np.int64)
    best = np.zeros(len(voices))
    back: list[NDArray[np.int64]] = []
    hops: list[int] = []
    for number, (start, end) in enumerate(stretches):
        for hop in range(start, end):
            price = _CHANGE_AT_PAUSE if hop == start and number else _CHANGE_INSIDE
            top = int(best.argmax())
            stay = best >= best[top] - price
            back.append(np.where(stay, np.arange(len(voices)), top))
            best = np.where(stay, best, best[top] - price) + seen[hop]
            hops.append(hop)
    state = int(best.argmax())
    for hop, came_from in zip(reversed(hops), reversed(back), strict=True):
        out[hop] = voices[state]
        state = int(came_from[state])
    return out


def _fit(timbre: NDArray[np.float32], pitch: NDArray[np.float32], mine: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Log likelihood per hop under a Gaussian of the hops in `mine`.

    Divided by ten, since neighbouring hops are alike.
    """
    own = timbre[mine].astype(np.float64)
    if len(own) < 2 * timbre.shape[1]:
        return np.full(len(timbre), -1e3)
    spread = np.cov(own.T) + 0.05 * np.eye(own.shape[1])
    inverse = np.linalg.inv(spread)
    away = timbre - own.mean(axis=0)
    out: NDArray[np.float64] = -0.5 * (np.einsum("ij,jk,ik->i", away, inverse, away) + np.linalg.slogdet(spread)[1])
    voiced = pitch[mine & ~np.isnan(pitch)]
    if len(voiced) > 20:
        middle, wide = float(np.median(voiced)), max(0.12, float(voiced.std()))
        high = -0.5 * ((pitch - middle) / wide) ** 2 - np.log(wide)
        out = out + np.where(np.isnan(pitch), 0.0, np.maximum(high, -8.0))
    return out / 10


def _stretches(owner: NDArray[np.int64], stretches: list[tuple[int, int]]) -> list[Voiced]:
    order: dict[int, int] = {}
    out: list[Voiced] = []
    for start, end in stretches:
        cuts = [start, *(start + 1 + np.flatnonzero(np.diff(owner[start:end]))).tolist(), end]
        for a, b in pairwise(cuts):
            voice = order.setdefault(int(owner[a]), len(order))
            out.append(Voiced(voice, a * HOP_US, b * HOP_US))
    return out
