"""Mixing a soundtrack, block by block, and the peaks of its waveform.

Clips are cut and placed to the sample. Fades are straight lines in amplitude; where clips overlap, they add up.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import US_PER_S
from tinfork.core.sound.peaks import PER_SECOND, pyramid_of
from tinfork.core.soundtrack.model import EFFECTS, Clip, Soundtrack

Samples = NDArray[np.float32]
#: Yields a clip's part of its take in blocks of shape (n, channels).
Open = Callable[[Clip], Iterator[Samples]]
BLOCK = 48_000


def sample_at(time_us: int, rate_hz: int) -> int:
    """The sample at a time."""
    return time_us * rate_hz // US_PER_S


def clip_samples(clip: Clip, rate_hz: int) -> tuple[int, int]:
    """The first sample of a clip in its take, and the number of samples."""
    first = sample_at(clip.in_us, rate_hz)
    return first, sample_at(clip.end_us, rate_hz) - sample_at(clip.start_us, rate_hz)


def gain_curve(clip: Clip, first: int, count: int, rate_hz: int, *, extra_db: float = 0.0) -> NDArray[np.float32]:
    """The gain of samples `[first, first + count)` of a clip as a factor, shape (count,)."""
    at = np.arange(first, first + count, dtype=np.float64)
    total = clip_samples(clip, rate_hz)[1]
    curve = np.full(count, 10 ** ((clip.gain_db + extra_db) / 20))
    fade_in, fade_out = (clip.fade_in_us * rate_hz / US_PER_S, clip.fade_out_us * rate_hz / US_PER_S)
    if fade_in:
        curve *= np.clip((at + 0.5) / fade_in, 0.0, 1.0)
    if fade_out:
        curve *= np.clip((total - at - 0.5) / fade_out, 0.0, 1.0)
    return curve.astype(np.float32)


def heard_clips(st: Soundtrack, *, voices_only: bool = False) -> list[Clip]:
    """The clips on tracks that are not muted, by start."""
    quiet = {t.id for t in st.tracks if t.is_muted or (voices_only and t.kind == EFFECTS)}
    return sorted((c for c in st.clips if c.track not in quiet), key=lambda c: (c.start_us, c.id))


@dataclass
class _Playing:
    """A clip that is being played: the rest of its stream."""

    clip: Clip
    stream: Iterator[Samples]
    done: int
    rest: Samples

    def read(self, count: int) -> Samples:
        """The next samples, padded with silence where the take ends early."""
        while len(self.rest) < count:
            block = next(self.stream, None)
            if block is None:
                missing = np.zeros((count - len(self.rest), self.rest.shape[1]), dtype=np.float32)
                self.rest = np.concatenate([self.rest, missing])
                break
            self.rest = np.concatenate([self.rest, _as_stereo(block)])
        out, self.rest = self.rest[:count], self.rest[count:]
        return out


def _as_stereo(block: Samples) -> Samples:
    return np.repeat(block, 2, axis=1) if block.shape[1] == 1 else block


def mix(
    st: Soundtrack, open_clip: Open, rate_hz: int, *, gains_db: Mapping[int, float] | None = None
) -> Iterator[Samples]:
    """The whole shot as stereo blocks of up to `BLOCK` samples, -1 to 1; `gains_db` by take add to the clips' own."""
    waiting = heard_clips(st)
    playing: list[_Playing] = []
    total = sample_at(st.duration_us, rate_hz)
    for start in range(0, total, BLOCK):
        count = min(BLOCK, total - start)
        out = np.zeros((count, 2), dtype=np.float32)
        while waiting and sample_at(waiting[0].start_us, rate_hz) < start + count:
            clip = waiting.pop(0)
            playing.append(_Playing(clip, open_clip(clip), 0, np.zeros((0, 2), dtype=np.float32)))
        for entry in list(playing):
            at = max(0, sample_at(entry.clip.start_us, rate_hz) - start)
            length = clip_samples(entry.clip, rate_hz)[1]
            part = min(count - at, length - entry.done)
            extra = (gains_db or {}).get(entry.clip.take, 0.0)
            curve = gain_curve(entry.clip, entry.done, part, rate_hz, extra_db=extra)
            out[at : at + part] += entry.read(part) * curve[:, None]
            entry.done += part
            if entry.done >= length:
                playing.remove(entry)
        yield np.clip(out, -1.0, 1.0)


def mix_peaks(
    st: Soundtrack, peaks: Mapping[int, NDArray[np.int8]], *, voices_only: bool = False
) -> list[NDArray[np.int8]]:
    """The shot's waveform pyramid from the finest level of its takes' (a pair a millisecond), by take."""
    bins = max(1, -(-st.duration_us * PER_SECOND // US_PER_S))
    low, high = np.zeros(bins, dtype=np.float32), np.zeros(bins, dtype=np.float32)
    for clip in heard_clips(st, voices_only=voices_only):
        source = peaks.get(clip.take)
        at = round(clip.start_us * PER_SECOND / US_PER_S)
        first = round(clip.in_us * PER_SECOND / US_PER_S)
        if source is None or at >= bins:
            continue
        count = min(-(-clip.length_us * PER_SECOND // US_PER_S), bins - at, len(source) - first)
        if count <= 0:
            continue
        part = source[first : first + count].astype(np.float32) / 127
        curve = gain_curve(clip, 0, count, PER_SECOND)
        low[at : at + count] += part[:, 0] * curve
        high[at : at + count] += part[:, 1] * curve
    return pyramid_of(low, high)
