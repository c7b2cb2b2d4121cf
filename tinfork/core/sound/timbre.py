"""The timbre of a voice per 10 ms: mel-frequency cepstra, and the pitch.

Mel-frequency cepstra after Davis & Mermelstein (1980); the pitch by normalised autocorrelation (Boersma 1993, without
its window correction).
"""

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import mel_bands

CEPSTRA = 19
_BANDS = 32
_BLOCK_S = 20
_LOWEST_HZ, _HIGHEST_HZ = 60.0, 450.0


def cepstra(samples: NDArray[np.float32], rate_hz: int) -> NDArray[np.float32]:
    """Cepstra 1 to 19 per 10 ms (windows of 25 ms), shape (hops, 19); the 0th, loudness, is left out."""
    size, hop = rate_hz // 40, rate_hz // 100
    hops = max(1, len(samples) // hop)
    padded = np.pad(samples, (size // 2, size + hop))
    window, bands = np.hanning(size), mel_bands(size, rate_hz, _BANDS)
    k = np.arange(1, CEPSTRA + 1)[:, None]
    cosines = np.cos(np.pi * k * (np.arange(_BANDS) + 0.5) / _BANDS).T
    out = np.empty((hops, CEPSTRA), dtype=np.float32)
    for first in range(0, hops, _BLOCK_S * 100):
        last = min(hops, first + _BLOCK_S * 100)
        starts = np.arange(first, last) * hop
        frames = padded[starts[:, None] + np.arange(size)]
        power = np.abs(np.fft.rfft(frames * window, axis=1)) ** 2
        out[first:last] = np.log(power @ bands + 1e-7) @ cosines
    return out


def pitches(samples: NDArray[np.float32], rate_hz: int) -> NDArray[np.float32]:
    """The pitch in octaves above 1 Hz (log2) per 10 ms, shape (hops,); NaN where nothing is voiced."""
    size, hop = rate_hz // 25, rate_hz // 100
    hops = max(1, len(samples) // hop)
    padded = np.pad(samples, (size // 2, size + hop))
    low, high = int(rate_hz / _HIGHEST_HZ), int(rate_hz / _LOWEST_HZ)
    out = np.full(hops, np.nan, dtype=np.float32)
    fold = 1 << (2 * size - 1).bit_length()
    for first in range(0, hops, _BLOCK_S * 100):
        last = min(hops, first + _BLOCK_S * 100)
        starts = np.arange(first, last) * hop
        frames = padded[starts[:, None] + np.arange(size)].astype(np.float64)
        frames -= frames.mean(axis=1, keepdims=True)
        spectrum = np.fft.rfft(frames, fold, axis=1)
        match = np.fft.irfft(np.abs(spectrum) ** 2, axis=1)[:, : high + 1]
        # Fewer samples overlap at longer lags: correct for that.
        match = match / (match[:, :1] + 1e-9) * (size / (size - np.arange(high + 1)))
        lags = low + np.argmax(match[:, low:], axis=1)
        voiced = match[np.arange(len(lags)), lags] > 0.55
        out[first:last][voiced] = np.log2(rate_hz / lags[voiced])
    return out
