"""Samples as a WAV file in memory."""

import io
import wave

import numpy as np
from numpy.typing import NDArray


def wav_of(samples: NDArray[np.float32], rate_hz: int) -> bytes:
    """Mono samples, -1 to 1, as 16-bit WAV."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate_hz)
        file.writeframes(np.rint(np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
    return out.getvalue()
