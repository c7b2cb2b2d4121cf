"""The input of the ear's network: a mel spectrum, a row per 10 ms, without the colour of the room and the level.

Windows of 25 ms (Hann), 64 mel bands to 7.6 kHz, natural logarithm of power. The mean of each band over the frames with
voice nearby is subtracted (cepstral mean subtraction, Atal 1974), so that long recordings that change are heard as well
as short ones.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.sound.voice import mel, mel_bands

RATE_HZ = 16_000
HOP = 160
BANDS = 64
_SIZE, _FFT, _FINE = 400, 512, 4
#: Frames this far below the loudest (natural logarithm of power) say nothing about the voice.
_QUIET = 6.0
#: The mean is taken over at most this many frames, in steps of half as many.
_ABOUT = 3000
_FLOOR = 1e-7
_BLOCK = 4000


def log_mel(samples: NDArray[np.float32], *, higher: float = 1.0) -> NDArray[np.float32]:
    """Log power per band, shape (frames, 64); frame t is centred on sample 160 t + 80. Samples at 16 kHz, -1 to 1.

    `higher` multiplies the frequencies at which the bands are read, as if a voice of another pitch and size had spoken.
    """
    return log_mels(samples, (higher,))[0]


def log_mels(samples: NDArray[np.float32], ratios: Sequence[float]) -> list[NDArray[np.float32]]:
    """What `log_mel` gives for each of several ratios of height, from one spectrum."""
    frames = max(1, len(samples) // HOP)
    before = _SIZE // 2 - HOP // 2
    padded = np.pad(samples.astype(np.float32), (before, _SIZE + HOP))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _SIZE)[::HOP][:frames]
    # Bands that are closer together need a finer spectrum.
    finest = _FFT if all(higher == 1.0 for higher in ratios) else _FINE * _FFT
    looks = [_FFT if higher == 1.0 else finest for higher in ratios]
    bands = [
        mel_bands(fft, RATE_HZ, BANDS, higher=higher).astype(np.float32) * np.float32(_FFT / fft)
        for fft, higher in zip(looks, ratios, strict=True)
    ]
    shape = np.hanning(_SIZE).astype(np.float32)
    out = [np.empty((frames, BANDS), dtype=np.float32) for _ in ratios]
    for first in range(0, frames, _BLOCK):
        part = np.fft.rfft(windows[first : first + _BLOCK] * shape, finest, axis=1)
        power = (part.real**2 + part.imag**2).astype(np.float32)
        for fft, weights, each in zip(looks, bands, out, strict=True):
            each[first : first + _BLOCK] = np.log(power[:, :: finest // fft] @ weights + _FLOOR)
    for higher, each in zip(ratios, out, strict=True):
        # Bands above the highest frequency of the sound are copies of the highest one below it.
        top, limit = mel(np.array([RATE_HZ / 2, min(1.0, 1 / higher) * RATE_HZ / 2]))
        inside = int(limit / top * (BANDS + 1) + 1e-6) - 1
        each[:, inside:] = each[:, inside - 1, None]
    return out


def normalised(bands: NDArray[np.float32]) -> NDArray[np.float32]:
    """Log power less the voice's mean in each band, scaled to about one; shape as given."""
    if len(bands) <= _ABOUT:
        return _less_mean(bands, bands)
    step = _ABOUT // 2
    out = np.empty_like(bands)
    for first in range(0, len(bands), step):
        begin = min(max(0, first - step // 2), len(bands) - _ABOUT)
        out[first : first + step] = _less_mean(bands[first : first + step], bands[begin : begin + _ABOUT])
    return out


def _less_mean(bands: NDArray[np.float32], about: NDArray[np.float32]) -> NDArray[np.float32]:
    level = about.mean(axis=1)
    loud = level > np.quantile(level, 0.95) - _QUIET
    mean = about[loud].mean(axis=0)
    # Everything far below the voice is silence, whatever the room.
    return np.asarray(np.clip((bands - mean) / 3.0, -4.0, 3.0), dtype=np.float32)
