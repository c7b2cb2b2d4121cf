"""Where the jaw, lips, teeth and tongue are in each sound, as seen from the front.

A vector has seven parts, each 0 to 1: jaw opening, lip spread, lip rounding,
lips closed, lip on teeth, tongue visible, teeth visible. Vowels follow height and
rounding on the IPA vowel chart; consonants follow place of articulation and the
lip shapes in Ladefoged & Johnson, *A Course in Phonetics* (7th ed., 2014), ch. 1 and 4.
"""

import numpy as np
from numpy.typing import NDArray

from tinfork.core.speech.visemes import SOUNDS, class_of

PARTS = ("jaw", "spread", "rounding", "closed", "lip_on_teeth", "tongue", "teeth")

#: How much each part counts in a distance: contact of the lips is what eyes catch first.
WEIGHTS = np.array([1.0, 0.6, 0.9, 2.0, 2.0, 0.35, 0.35])

VECTORS: dict[str, tuple[float, ...]] = {
    #                 jaw  spread round closed l-t  tongue teeth
    "rest":          (0.00, 0.15, 0.00, 0.80, 0.0, 0.0, 0.0),
    "bilabial":      (0.00, 0.00, 0.05, 1.00, 0.0, 0.0, 0.0),
    "labiodental":   (0.10, 0.15, 0.00, 0.15, 1.0, 0.0, 0.7),
    "dental":        (0.22, 0.25, 0.00, 0.00, 0.0, 0.9, 0.6),
    "alveolar":      (0.20, 0.35, 0.00, 0.00, 0.0, 0.4, 0.8),
    "sibilant":      (0.08, 0.50, 0.00, 0.00, 0.0, 0.1, 1.0),
    "lateral":       (0.35, 0.25, 0.00, 0.00, 0.0, 0.9, 0.5),
    "velar":         (0.28, 0.30, 0.00, 0.00, 0.0, 0.3, 0.5),
    "postalveolar":  (0.18, 0.00, 0.60, 0.00, 0.0, 0.1, 0.8),
    "rhotic":        (0.22, 0.05, 0.55, 0.00, 0.0, 0.3, 0.4),
    "close-rounded": (0.12, 0.00, 1.00, 0.00, 0.0, 0.0, 0.0),
    "mid-rounded":   (0.55, 0.00, 0.80, 0.00, 0.0, 0.2, 0.1),
    "close-spread":  (0.22, 0.90, 0.00, 0.00, 0.0, 0.3, 0.8),
    "mid":           (0.45, 0.40, 0.00, 0.00, 0.0, 0.4, 0.5),
    "open":          (1.00, 0.40, 0.00, 0.00, 0.0, 0.6, 0.5),
}  # fmt: skip


#: Vowels and glides by their own height, spread and rounding (IPA vowel chart): jaw, spread, rounding.
_VOWELS: dict[str, tuple[float, float, float]] = {
    "w": (0.08, 0.00, 1.00), "u": (0.12, 0.00, 1.00), "ʊ": (0.22, 0.00, 0.80), "y": (0.12, 0.00, 0.95),
    "ʏ": (0.20, 0.05, 0.78), "ʉ": (0.12, 0.05, 0.85), "ø": (0.32, 0.05, 0.80),
    "o": (0.42, 0.00, 0.88), "ɔ": (0.62, 0.00, 0.74), "ɵ": (0.42, 0.05, 0.78), "œ": (0.55, 0.10, 0.68),
    "ɒ": (0.85, 0.05, 0.55), "ɞ": (0.55, 0.10, 0.60), "ɶ": (0.90, 0.10, 0.55),
    "i": (0.15, 1.00, 0.00), "ɪ": (0.25, 0.78, 0.00), "j": (0.12, 0.90, 0.00), "e": (0.34, 0.82, 0.00),
    "ɨ": (0.20, 0.65, 0.00), "ɯ": (0.20, 0.60, 0.00), "ᵻ": (0.22, 0.65, 0.00),
    "ɛ": (0.55, 0.52, 0.00), "ə": (0.36, 0.34, 0.00), "ʌ": (0.52, 0.32, 0.00), "ɜ": (0.45, 0.36, 0.00),
    "ɘ": (0.38, 0.42, 0.00), "ɤ": (0.42, 0.36, 0.00), "ᵊ": (0.32, 0.32, 0.00),
    "æ": (0.85, 0.58, 0.00), "a": (0.95, 0.45, 0.00), "ɑ": (1.00, 0.28, 0.00), "ɐ": (0.82, 0.36, 0.00),
    "ä": (1.00, 0.38, 0.00),
}  # fmt: skip


def vector(sound: str) -> NDArray[np.float64]:
    """The articulation of a viseme class or of a single sound, shape (7,)."""
    if sound in VECTORS:
        return np.array(VECTORS[sound])
    own = np.array(VECTORS[class_of(sound)])
    if sound in _VOWELS:
        own[:3] = _VOWELS[sound]
    return own


def distance(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weighted Euclidean distance over the last axis; 0 for equal articulations."""
    apart: NDArray[np.float64] = np.sqrt((((a - b) ** 2) * WEIGHTS).sum(axis=-1))
    return apart


SOUND_VECTORS: NDArray[np.float64] = np.stack([vector(s) for s in SOUNDS])
