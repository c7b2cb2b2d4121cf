"""Degrading clean speech so that it sounds like real recordings.

Other voices, rooms, noise, telephones and bad copies.
"""

import numpy as np
import soxr
from numpy.typing import NDArray

from tools.ear.speaking import RATE_HZ, LabelledSpeech

Samples = NDArray[np.float32]


def faster(heard: LabelledSpeech, ratio: float) -> LabelledSpeech:
    """Play faster by a factor: pitch and formants rise with it."""
    samples = np.asarray(soxr.resample(heard.samples, RATE_HZ * ratio, RATE_HZ), dtype=np.float32)
    return LabelledSpeech(samples, tuple((ipa, a / ratio, b / ratio) for ipa, a, b in heard.segments))


def shifted(samples: Samples, ratio: float, size: int) -> Samples:
    """The whole voice so many times as high, at the same speed, as pitch shifters do it: pitch and formants move.

    A phase vocoder (Flanagan & Golden 1966) with windows of `size` samples: long ones blur what is short.
    """
    hop = size // 4
    window = np.hanning(size + 1)[:-1]
    padded = np.pad(samples.astype(np.float64), size)
    spectra = np.fft.rfft(np.lib.stride_tricks.sliding_window_view(padded, size)[::hop] * window, axis=1)
    at = np.arange(0, len(spectra) - 1, 1 / ratio)
    low = at.astype(int)
    part = (at - low)[:, None]
    level = np.abs(spectra[low]) * (1 - part) + np.abs(spectra[low + 1]) * part
    turned = np.angle(spectra[low + 1]) - np.angle(spectra[low])
    phase = np.angle(spectra[0]) + np.concatenate((np.zeros((1, spectra.shape[1])), np.cumsum(turned, axis=0)[:-1]))
    frames = np.fft.irfft(level * np.exp(1j * phase), size, axis=1) * window
    quarters = np.zeros((len(frames) + 3, hop))
    for quarter in range(4):
        quarters[quarter : quarter + len(frames)] += frames[:, quarter * hop : (quarter + 1) * hop]
    # Middles of windows are stretched from the first one's; the sound begins a window after the padding.
    begin = round(size / 2 * (ratio + 1))
    out = soxr.resample(quarters.ravel()[begin:] / 1.5, RATE_HZ * ratio, RATE_HZ)
    return np.asarray(np.pad(out, (0, max(0, len(samples) - len(out))))[: len(samples)], dtype=np.float32)


def _quick(length: int) -> int:
    """At least as long, and quick to transform: a length with a large prime in it takes ten times as long."""
    return -(-length // 4096) * 4096


def levelled(samples: Samples, rms: float = 0.08) -> Samples:
    """Set a usual level."""
    loud = float(np.sqrt(np.mean(samples**2))) or 1.0
    return np.asarray(samples * (rms / loud), dtype=np.float32)


def tilted(samples: Samples, pick: np.random.Generator) -> Samples:
    """Another microphone or voice effort: a smooth random curve over frequency, up to some 12 dB, in one go."""
    size = _quick(len(samples))
    spectrum = np.fft.rfft(samples, size)
    hz = np.linspace(0, RATE_HZ / 2, len(spectrum))
    octaves = np.log2(np.maximum(hz, 60) / 1000)
    curve = pick.uniform(-4, 4) * octaves
    for _ in range(3):
        at, width, gain = pick.uniform(-3, 3), pick.uniform(0.3, 1.2), pick.uniform(-9, 9)
        curve = curve + gain * np.exp(-(((octaves - at) / width) ** 2))
    return np.asarray(np.fft.irfft(spectrum * 10 ** (curve / 20), size)[: len(samples)], dtype=np.float32)


def banded(samples: Samples, low_hz: float, high_hz: float) -> Samples:
    """Nothing under and over two frequencies: a telephone, a small loudspeaker, a low sampling rate."""
    size = _quick(len(samples))
    spectrum = np.fft.rfft(samples, size)
    hz = np.linspace(0, RATE_HZ / 2, len(spectrum))
    keep = 1 / (1 + (low_hz / np.maximum(hz, 1)) ** 8) / (1 + (hz / high_hz) ** 16)
    return np.asarray(np.fft.irfft(spectrum * np.sqrt(keep), size)[: len(samples)], dtype=np.float32)


def roomy(samples: Samples, pick: np.random.Generator) -> Samples:
    """A room: early reflections and a tail of noise that fades; what is said keeps its time."""
    fade_s = pick.uniform(0.08, 0.45)
    length = int(fade_s * RATE_HZ)
    times = np.arange(length) / RATE_HZ
    tail = pick.normal(size=length) * 10 ** (-3 * times / fade_s)
    tail[: int(0.002 * RATE_HZ)] = 0
    tail *= pick.uniform(0.15, 0.7) / np.sqrt((tail**2).sum())
    tail[0] = 1.0
    size = _quick(len(samples) + length)
    wet = np.fft.irfft(np.fft.rfft(samples, size) * np.fft.rfft(tail, size), size)
    return np.asarray(wet[: len(samples)], dtype=np.float32)


def noise_like(pick: np.random.Generator, length: int, others: list[Samples]) -> Samples:
    """Noise of many colours, hum and tones, music of chords with a beat, or other people talking; level 1."""
    kind = pick.choice(["colour", "colour", "hum", "music", "babble"])
    times = np.arange(length) / RATE_HZ
    if kind == "babble" and others:
        noise = np.zeros(length)
        for _ in range(int(pick.integers(3, 8))):
            one = others[int(pick.integers(len(others)))]
            noise += np.resize(np.roll(one, int(pick.integers(len(one)))), length)
    elif kind == "music":
        noise = np.zeros(length)
        beat = pick.uniform(0.2, 0.6)
        for first in range(0, length, int(beat * RATE_HZ)):
            # A tone that has faded by 30 dB is over.
            tone = noise[first : first + int(1.2 * RATE_HZ)]
            since = times[: len(tone)]
            fade = np.exp(-since / 0.35)
            for hz in pick.choice([110, 131, 147, 165, 196, 220, 262, 294, 330, 392, 440, 523], 3, replace=False):
                for harmonic in (1, 2, 3):
                    tone += fade * np.sin(2 * np.pi * hz * harmonic * since) / harmonic
    else:
        spectrum = np.fft.rfft(pick.normal(size=_quick(length)))
        hz = np.maximum(np.linspace(0, RATE_HZ / 2, len(spectrum)), 40)
        noise = np.fft.irfft(spectrum * (hz / 1000) ** pick.uniform(-1.2, 0.3))[:length]
        if kind == "hum":
            mains = pick.choice([50, 60])
            noise *= 0.2
            for harmonic in range(1, 12):
                noise += pick.uniform(0, 1) / harmonic * np.sin(2 * np.pi * mains * harmonic * times) * noise.std() * 8
    return np.asarray(noise / (np.sqrt(np.mean(noise**2)) or 1.0), dtype=np.float32)


def breath(length: int, pick: np.random.Generator) -> Samples:
    """Air drawn in or let out: noise through an open or a narrow mouth, swelling and fading; level 1."""
    spectrum = np.fft.rfft(pick.normal(size=_quick(length)))
    octaves = np.log2(np.maximum(np.linspace(0, RATE_HZ / 2, len(spectrum)), 60) / 1000)
    curve = -4.0 * np.abs(octaves - pick.uniform(-0.5, 1.2))
    for _ in range(3):
        curve = curve + pick.uniform(0, 10) * np.exp(-(((octaves - pick.uniform(-1, 2.5)) / 0.3) ** 2))
    noise = np.fft.irfft(spectrum * 10 ** (curve / 20))[:length]
    peak = pick.uniform(0.2, 0.8)
    at = np.linspace(0, 1, length)
    noise *= np.where(at < peak, at / peak, (1 - at) / (1 - peak)) ** pick.uniform(0.4, 1.2)
    return np.asarray(noise / (np.sqrt(np.mean(noise**2)) or 1.0), dtype=np.float32)


def augmented(samples: Samples, pick: np.random.Generator, others: list[Samples]) -> Samples:
    """Degrade a recording in one of many random ways; about one in five stays clean."""
    out = levelled(samples)
    if pick.random() < 0.2:
        return levelled(out, 10 ** pick.uniform(-2.2, -0.7))
    if pick.random() < 0.6:
        out = levelled(tilted(out, pick))
    if pick.random() < 0.35:
        out = roomy(out, pick)
    if pick.random() < 0.15:
        out = np.asarray(np.tanh(out * pick.uniform(4, 25)), dtype=np.float32)
    if pick.random() < 0.6:
        noise = noise_like(pick, len(out), others)
        voice = np.sqrt(np.mean(out**2))
        out = out + noise * np.float32(voice * 10 ** (-pick.uniform(0, 30) / 20))
    if pick.random() < 0.25:
        out = banded(out, pick.uniform(20, 350), pick.choice([3400, 3800, 4000, 5500, 7000]))
    if pick.random() < 0.1:
        peak = np.abs(out).max() * pick.uniform(0.15, 0.6)
        out = np.clip(out, -peak, peak)
    if pick.random() < 0.15:
        out = pressed(out, pick)
    if pick.random() < 0.1:
        # Few bits.
        steps = 2 ** int(pick.integers(6, 9))
        out = np.round(out / np.abs(out).max() * steps) / np.float32(steps)
    return levelled(np.asarray(out, dtype=np.float32), 10 ** pick.uniform(-2.2, -0.7))


def pressed(samples: Samples, pick: np.random.Generator) -> Samples:
    """What lossy coders do to speech at low rates: in each short block, bands far under the loudest are lost.

    Computed here (a modulated lapped transform with a sine window, as perceptual coders use), in step with the sound.
    """
    size = 512
    window = np.sin(np.pi * (np.arange(2 * size) + 0.5) / (2 * size))
    padded = np.pad(samples.astype(np.float64), (size, 2 * size))
    blocks = np.lib.stride_tricks.sliding_window_view(padded, 2 * size)[::size]
    spectra = np.fft.rfft(blocks * window, axis=1)
    power = np.abs(spectra) ** 2
    lost = power < np.quantile(power, pick.uniform(0.5, 0.85), axis=1, keepdims=True)
    back = np.fft.irfft(np.where(lost, 0, spectra), 2 * size, axis=1) * window
    out = np.zeros((len(back) + 1) * size)
    for at, block in enumerate(back):
        out[at * size : at * size + 2 * size] += block
    return np.asarray(out[size : size + len(samples)], dtype=np.float32)
