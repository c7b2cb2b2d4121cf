"""Measures of a reading against the truth: boundary error and frames with the right viseme.

Phonemes are matched in order by viseme class (longest common subsequence), so that two
pronunciations of a word still compare. Times in microseconds, errors in seconds.
"""

from dataclasses import dataclass
from difflib import SequenceMatcher

import numpy as np

from tinfork.core.clock import FrameRate, seconds_from_us
from tinfork.core.speech.reading import Phoneme
from tinfork.core.speech.visemes import GLIDE_AT, REST, viseme_parts


@dataclass(frozen=True, slots=True)
class Score:
    """`mean_s` and `median_s`: boundary error; `exact`, `tolerant`: shares of frames, 0 to 1."""

    mean_s: float
    median_s: float
    exact: float
    tolerant: float
    matched: float


def _class_at(phonemes: tuple[Phoneme, ...], times_us: list[int]) -> list[str]:
    starts = np.array([p.start_us for p in phonemes])
    out = []
    for time_us in times_us:
        at = int(np.searchsorted(starts, time_us, side="right")) - 1
        inside = at >= 0 and time_us < phonemes[at].end_us
        out.append(_shown(phonemes[at], time_us) if inside else REST)
    return out


def _shown(phoneme: Phoneme, time_us: int) -> str:
    """The class at a moment of a phoneme: one symbol may be two classes in sequence, like a diphthong."""
    parts = viseme_parts(phoneme.ipa)
    has_turned = time_us >= phoneme.start_us + GLIDE_AT * (phoneme.end_us - phoneme.start_us)
    return parts[-1 if has_turned else 0]


def score(found: tuple[Phoneme, ...], truth: tuple[Phoneme, ...], duration_us: int, rate: FrameRate) -> Score:
    """Compare a reading with the truth at a frame rate; a frame is sampled at its middle.

    `tolerant`: the true class is heard within half a frame of the sampled moment. Both sequences
    must hold at least one phoneme.
    """
    matcher = SequenceMatcher(None, [p.viseme for p in found], [p.viseme for p in truth], autojunk=False)
    errors = [
        seconds_from_us(abs(found[a + i].start_us - truth[b + i].start_us))
        for a, b, size in matcher.get_matching_blocks()
        for i in range(size)
    ]
    frames = rate.frames_in(duration_us)
    middles = [(rate.first_us(f) + rate.first_us(f + 1)) // 2 for f in range(frames)]
    half = (rate.first_us(1) - rate.first_us(0)) // 2
    shown = _class_at(found, middles)
    near = [_class_at(truth, [m + shift for m in middles]) for shift in (0, -half, -half // 2, half // 2, half)]
    array = np.array(errors or [float("inf")])
    return Score(
        mean_s=float(array.mean()),
        median_s=float(np.median(array)),
        exact=float(np.mean([s == t for s, t in zip(shown, near[0], strict=True)])),
        tolerant=float(np.mean([s in options for s, options in zip(shown, zip(*near, strict=True), strict=True)])),
        matched=len(errors) / len(truth),
    )
