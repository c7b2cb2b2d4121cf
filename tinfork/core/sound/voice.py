"""Where there is a voice: level per 10 ms, and edges corrected by energy and spectral flux."""

import numpy as np
from numpy.typing import NDArray

HOP_US = 10_000
#: Below this level (dB of full scale) nothing is heard: a 16-bit file's noise floor is -96.
SILENCE_DB = -65.0
#: A minute: long sounds are measured in parts.
_BLOCK_HOPS = 6_000


def level_db(samples: NDArray[np.float32], rate_hz: int) -> NDArray[np.float64]:
    """Root mean square per 10 ms in dB of full scale, shape (hops,); -120 at the least."""
    hop = rate_hz * HOP_US // 1_000_000
    hops = len(samples) // hop
    if hops == 0:
        return np.full(1, -120.0)
    frames = samples[: hops * hop].reshape(hops, hop)
    levels = np.empty(hops)
    for first in range(0, hops, _BLOCK_HOPS):
        part = frames[first : first + _BLOCK_HOPS].astype(np.float64)
        levels[first : first + _BLOCK_HOPS] = 20 * np.log10(np.maximum(np.sqrt((part**2).mean(axis=1)), 1e-6))
    return levels


def has_voice(levels_db: NDArray[np.float64]) -> bool:
    """Whether anything is loud enough, long enough (60 ms) to be spoken."""
    return int((levels_db > SILENCE_DB).sum()) >= 6


def mel(hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """Perceived pitch in mel (O'Shaughnessy 1987)."""
    return 2595 * np.log10(1 + hz / 700)


def mel_bands(size: int, rate_hz: int, count: int, *, higher: float = 1.0) -> NDArray[np.float64]:
    """Triangles on a mel scale, shape (size // 2 + 1, count), for the power spectrum of `size` samples.

    `higher` multiplies all their frequencies.
    """
    hz = np.fft.rfftfreq(size, 1 / rate_hz).astype(np.float64)
    edges = np.linspace(0.0, float(mel(np.array([rate_hz / 2]))[0]), count + 2)
    position = mel(hz / higher)[:, None]
    rising = (position - edges[:-2]) / (edges[1:-1] - edges[:-2])
    falling = (edges[2:] - position) / (edges[2:] - edges[1:-1])
    return np.clip(np.minimum(rising, falling), 0, None)


def end_by_level(edge_us: int, levels_db: NDArray[np.float64], *, within_us: int = 60_000) -> int:
    """Move the end of speech before a pause to where the level has fallen half way (in dB)."""
    reach = within_us // HOP_US
    centre = round(edge_us / HOP_US)
    low, high = max(0, centre - reach), min(len(levels_db), centre + reach)
    if high - low < 4:
        return edge_us
    near = levels_db[low:high]
    if near.max() - near.min() < 15:
        return edge_us
    loud = near > (near.max() + near.min()) / 2
    falling = np.flatnonzero(loud[:-1] & ~loud[1:]) + 1
    if len(falling) == 0:
        return edge_us
    nearest = falling[int(np.argmin(np.abs(falling + low - edge_us / HOP_US)))]
    return int(nearest + low) * HOP_US


def risen(
    start_us: int, end_us: int, since_us: int, levels_db: NDArray[np.float64], *, within_us: int = 200_000
) -> int:
    """Move the start of a sound after a pause earlier, to where it is audible.

    It is audible from 22 dB below its own loudest level, if that is above the level of the pause, as in `faded`; but
    not before `since_us`.
    """
    first, last = start_us // HOP_US, end_us // HOP_US
    own = float(levels_db[first : max(last, first + 1)].max(initial=-120.0))
    low = max(own - 22.0, float(np.quantile(levels_db, 0.05)) + 9.0)
    since = max(since_us // HOP_US, (start_us - within_us) // HOP_US, 0)
    quiet = np.flatnonzero(levels_db[since:first] <= low)
    at = since + int(quiet[-1]) + 1 if len(quiet) else since
    return min(start_us, at * HOP_US)


#: A last sound has faded when it is so far below its own loudest level (dB).
_FADED_DB = 27.0
#: By how much a fade falls in a hop of 10 ms (dB), at the least: between 1.8 (people, in rooms) and 4.2 (synthesised).
_FALLS_DB = 2.5
#: A room that hides so much of a stop's level (dB) hides its release, too.
_HIDES_RELEASE_DB = 15.0


def faded(
    start_us: int,
    end_us: int,
    until_us: int,
    levels_db: NDArray[np.float64],
    *,
    usual_us: int = 0,
    is_stop: bool = False,
    within_us: int = 350_000,
) -> int:
    """Move the end of a sound before a pause later, to the end of its fade; but not after `until_us`.

    It fades to 27 dB below its own loudest level. What the room hides of that, below 9 dB above its quietest level, is
    taken to fall on as it did before, but to make the sound no longer than last sounds like it usually are
    (`usual_us`). A stop falls silent at once while its closure lasts: that says nothing about a hidden release.
    """
    first, last = start_us // HOP_US, end_us // HOP_US
    own = float(levels_db[first : max(last, first + 1)].max(initial=-120.0))
    low = max(own - _FADED_DB, float(np.quantile(levels_db, 0.05)) + 9.0)
    limit = min(until_us // HOP_US, (end_us + within_us) // HOP_US, len(levels_db))
    quiet = np.flatnonzero(levels_db[last:limit] <= low)
    at = last + int(quiet[0]) if len(quiet) else limit
    hidden_db = low - (own - _FADED_DB)
    is_told = 0 < at < limit and not (is_stop and hidden_db >= _HIDES_RELEASE_DB)
    falls_db = float(levels_db[at - 1] - levels_db[at]) if is_told else 0.0
    hops = int(hidden_db / max(falls_db, _FALLS_DB))
    usual = (start_us + usual_us) // HOP_US
    return max(end_us, min(at + hops, max(at, usual), limit) * HOP_US)
