"""Faults of a recording, found by measurement, and what they mean for its reading."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.messages import Message
from tinfork.core.sound.meter import Measured
from tinfork.core.sound.silence import speech_level_db
from tinfork.core.sound.voice import HOP_US, SILENCE_DB

#: Half a second at 16 kHz: bins are 2 Hz apart, so that 50 and 60 Hz can be told apart.
_WINDOW = 8192
_MOST_WINDOWS = 120


@dataclass(frozen=True, slots=True)
class SoundFinding:
    """A fault: a stable `kind`, and what it is and means, in the user's words."""

    kind: str
    text: str


def check_sound(measured: Measured, voice: NDArray[np.float32], rate_hz: int) -> list[SoundFinding]:
    """Find the faults of a take: `measured` is of the whole take, `voice` its mono samples at `rate_hz` (16 kHz)."""
    levels = measured.levels_db
    if not len(levels) or float(levels.max()) < SILENCE_DB:
        return [SoundFinding("silent", Message("finding.silent"))]
    found = [_clipped(measured), _one_sided(measured), _quiet(levels)]
    ground = _ground_spectra(voice, levels, rate_hz)
    hum, music = _hum(ground, rate_hz), _music(ground, levels, rate_hz)
    found += [hum, music, None if music else _noisy(levels)]
    return [finding for finding in found if finding]


def _clipped(measured: Measured) -> SoundFinding | None:
    """Whether samples pile up at the largest value: in speech they get fewer and fewer towards the peak."""
    top = round(measured.peak * len(measured.spread))
    step = max(2, round(top * 0.03))
    if top < 4 * step:
        return None
    at_top, below = (
        int(measured.spread[top - step : top].sum()),
        int(measured.spread[top - 2 * step : top - step].sum()),
    )
    loud = int(measured.spread[top // 4 :].sum())
    if at_top < 40 or at_top < 3 * max(below, 1) or at_top < 0.002 * loud:
        return None
    return SoundFinding(
        "clipped",
        Message("finding.clipped", percent=100 * at_top / max(loud, 1)),
    )


def _one_sided(measured: Measured) -> SoundFinding | None:
    power = measured.channel_power
    if len(power) < 2 or power.min() > 1e-4 * power.max():
        return None
    return SoundFinding("one-sided", Message("finding.right_empty" if power.argmin() else "finding.left_empty"))


def _quiet(levels: NDArray[np.float64]) -> SoundFinding | None:
    loud = float(np.percentile(levels, 95))
    if loud > -45:
        return None
    return SoundFinding(
        "quiet",
        Message("finding.quiet", loud=loud),
    )


def _noisy(levels: NDArray[np.float64]) -> SoundFinding | None:
    loud, ground = np.percentile(levels, [92, 8])
    apart = float(loud - ground)
    if apart > 22 or ground < SILENCE_DB:
        return None
    return SoundFinding(
        "noise",
        Message("finding.noise", apart=apart),
    )


def _ground_spectra(voice: NDArray[np.float32], levels: NDArray[np.float64], rate_hz: int) -> NDArray[np.float64]:
    """Power spectra (dB) of the quieter half seconds, shape (windows, bins)."""
    hops = _WINDOW * 1_000_000 // rate_hz // HOP_US
    count = min(len(levels) // max(hops, 1), len(voice) // _WINDOW)
    if count == 0:
        return np.zeros((0, _WINDOW // 2 + 1))
    loudest = levels[: count * hops].reshape(count, hops).max(axis=1)
    quiet = np.flatnonzero(loudest < speech_level_db(levels))
    if len(quiet) == 0:
        quiet = np.argsort(loudest)[: max(1, count // 10)]
    quiet = quiet[:: -(-len(quiet) // _MOST_WINDOWS)]
    window = np.hanning(_WINDOW)
    starts = quiet * hops * HOP_US * rate_hz // 1_000_000
    frames = np.array([voice[s : s + _WINDOW] * window for s in starts if s + _WINDOW <= len(voice)])
    if not len(frames):
        return np.zeros((0, _WINDOW // 2 + 1))
    power: NDArray[np.float64] = 10 * np.log10(np.abs(np.fft.rfft(frames, axis=1)) ** 2 / (window**2).sum() + 1e-12)
    return power


def _above(spectrum: NDArray[np.float64], hz: float, rate_hz: int) -> float:
    """How far the strongest bin near a frequency is above the bins around it (dB)."""
    per_bin = rate_hz / _WINDOW
    at = round(hz / per_bin)
    near = spectrum[max(0, at - 1) : at + 2]
    around = np.concatenate([spectrum[max(1, at - 9) : max(1, at - 3)], spectrum[at + 4 : at + 10]])
    return float(near.max() - np.median(around)) if len(around) and len(near) else 0.0


def _hum(ground: NDArray[np.float64], rate_hz: int) -> SoundFinding | None:
    # With fewer quiet moments, a low voice could be mistaken for mains hum.
    if len(ground) < 3:
        return None
    middle = np.median(ground, axis=0)
    for mains in (50, 60):
        if (
            float(middle[round(mains * _WINDOW / rate_hz)]) < -75
            and float(middle[round(2 * mains * _WINDOW / rate_hz)]) < -75
        ):
            continue
        clear = [h for h in range(1, 6) if _above(middle, mains * h, rate_hz) > 12]
        if len(clear) >= 2 and (1 in clear or 2 in clear):
            return SoundFinding(
                "hum",
                Message("finding.hum", mains=mains),
            )
    return None


def _music(ground: NDArray[np.float64], levels: NDArray[np.float64], rate_hz: int) -> SoundFinding | None:
    """Whether there is music: most quiet half seconds have several tones that are not mains hum."""
    if len(ground) < 4 or float(np.percentile(levels, 95)) - float(np.percentile(levels, 10)) > 45:
        return None
    low, high = round(140 * _WINDOW / rate_hz), round(2500 * _WINDOW / rate_hz)
    tonal = 0
    for spectrum in ground:
        band = spectrum[low:high]
        floor = np.array([np.median(band[max(0, at - 20) : at + 20]) for at in range(0, len(band), 4)]).repeat(4)[
            : len(band)
        ]
        inner = band[1:-1]
        is_peak = (inner > band[:-2]) & (inner >= band[2:]) & (inner > floor[1:-1] + 18) & (inner > -70)
        hz = (np.flatnonzero(is_peak) + 1 + low) * rate_hz / _WINDOW
        mains = np.minimum(np.abs(hz % 50 - 25), np.abs(hz % 60 - 30))
        tonal += int((mains < 21).sum() >= 3)
    if tonal < 0.5 * len(ground):
        return None
    return SoundFinding(
        "music",
        Message("finding.music"),
    )
