"""Where a long recording can be cut: stretches of speech between silences, and the pieces around lines."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import HOP_US, SILENCE_DB

#: A silence at least this long ends a stretch.
PAUSE_US = 350_000
#: Speech shorter than this is a click.
LEAST_US = 80_000
#: How much sound before and after a line goes with it, if available.
HANDLE_US = 500_000
#: A rest is at most so much above the quietest level, and so many hops long without its edges. If the voice is not so
#: much above the room, no rest is sure.
_ROOM_DB, _REST_HOPS, _EDGE_HOPS, _CLEAR_DB = 7.0, 15, 2, 25.0
#: Levels this near the loudest are always voice.
_LOUD_DB = 14.0
#: A tenth of a second.
_QUIET_HOPS = 10


@dataclass(frozen=True, slots=True)
class SoundSpan:
    """A span of sound."""

    start_us: int
    end_us: int


def speech_level_db(levels_db: NDArray[np.float64]) -> float:
    """The level that separates voice from background: a third of the way from the 5 % to the 95 % quantile."""
    quiet, loud = np.percentile(levels_db, [5, 95])
    return max(SILENCE_DB, float(quiet + (loud - quiet) / 3)) if loud - quiet > 12 else SILENCE_DB


def rests(levels_db: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Where nobody speaks, for longer than the closure of a stop: as quiet as the room, shape (hops,)."""
    quiet, loud = np.percentile(levels_db, [3, 98])
    out = np.zeros(len(levels_db), dtype=bool)
    if loud - quiet < _CLEAR_DB:
        return out
    edges = np.diff(np.concatenate([[0], levels_db < quiet + _ROOM_DB, [0]]).astype(np.int8))
    for first, last in zip(np.flatnonzero(edges > 0), np.flatnonzero(edges < 0), strict=True):
        if last - first >= _REST_HOPS:
            out[first + _EDGE_HOPS : last - _EDGE_HOPS] = True
    return out


def is_loud(levels_db: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Where it is so loud that there is a voice for sure, shape (hops,)."""
    quiet, loud = np.percentile(levels_db, [3, 98])
    return np.asarray((levels_db > loud - _LOUD_DB) & (loud - quiet >= _CLEAR_DB), dtype=np.bool_)


def speech_stretches(levels_db: NDArray[np.float64], *, pause_us: int = PAUSE_US) -> list[SoundSpan]:
    """Stretches of speech, by level alone; `levels_db` has one value per 10 ms, shape (hops,)."""
    voiced = levels_db > speech_level_db(levels_db)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], voiced, [False]]).astype(np.int8)))
    spans = [(int(a) * HOP_US, int(b) * HOP_US) for a, b in edges.reshape(-1, 2)]
    joined: list[list[int]] = []
    for start, end in spans:
        if joined and start - joined[-1][1] < pause_us:
            joined[-1][1] = end
        else:
            joined.append([start, end])
    return [SoundSpan(start, end) for start, end in joined if end - start >= LEAST_US]


def quiet_cuts(levels_db: NDArray[np.float64], start_us: int, end_us: int, *, most_us: int) -> list[int]:
    """Times that cut a span of sound into parts no longer than `most_us`, from its start to its end.

    Each cut is in the quietest tenth of a second of the later half of its allowed range. `levels_db`: one value per 10
    ms of all the sound.
    """
    near = np.convolve(levels_db, np.full(_QUIET_HOPS, 1 / _QUIET_HOPS), mode="same")
    cuts = [start_us]
    while end_us - cuts[-1] > most_us:
        # No tiny rest is left over.
        until_us = min(cuts[-1] + most_us, end_us - most_us // 4)
        first, last = (cuts[-1] + most_us // 2) // HOP_US, until_us // HOP_US
        cuts.append((first + int(np.argmin(near[first:last]))) * HOP_US)
    return [*cuts, end_us]


def pieces_around(spans: list[SoundSpan], duration_us: int, *, handle_us: int = HANDLE_US) -> list[SoundSpan]:
    """Each span with handles of sound before and after it, but never past the middle of the pause to its neighbour."""
    out: list[SoundSpan] = []
    for at, span in enumerate(spans):
        before = (spans[at - 1].end_us + span.start_us) // 2 if at else 0
        after = (span.end_us + spans[at + 1].start_us) // 2 if at + 1 < len(spans) else duration_us
        start = max(min(before, span.start_us), span.start_us - handle_us, 0)
        end = min(max(after, span.end_us), span.end_us + handle_us, duration_us)
        out.append(SoundSpan(start, end))
    return out
