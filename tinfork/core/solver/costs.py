"""What it costs to show each drawing on each frame.

The mouth on frame f shows what is heard in `[t(f) + lead, t(f + 1) + lead)`:

    E(f, d) = sum over sounds p heard there: overlap(p, f) * salience(p) * distance(d, p)

in units of one frame of a wrong, unstressed vowel. Silence of `gap_us` or longer is the
resting mouth; a shorter one is no reason to close. The frame at the middle of a
closure (p b m, f v) must show a drawing of its class: any other costs `MISSED` there.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.problem import Dials, Problem
from tinfork.core.speech.reading import Phoneme
from tinfork.core.speech.visemes import CLOSURES, REST, VISEMES, is_vowel, strip_marks, viseme_parts

#: Cost units in one frame of a wrong, unstressed vowel at distance 1.
UNIT = 10_000
#: More than any run of frames between two closures could save by leaving one out.
MISSED = 1_000 * UNIT

#: Where in a diphthong the second part takes over, as a share of its length.
GLIDE_AT = 0.6


@dataclass(frozen=True, slots=True)
class Heard:
    """A stretch of sound with one viseme; `salience` is what a frame of it counts."""

    start_us: int
    end_us: int
    viseme: str
    salience: float


def salience_of(phoneme: Phoneme) -> float:
    """How much a sound's mouth is looked at: closures most, then stressed vowels."""
    if phoneme.viseme in CLOSURES:
        return 3.0
    if is_vowel(phoneme.ipa.lstrip("ˈˌ")):
        if phoneme.is_stressed:
            return 1.5
        return 0.7 if strip_marks(phoneme.ipa) in ("ə", "ɚ", "ɪ", "ᵻ") else 1.0
    if phoneme.viseme in ("velar", "alveolar"):
        return 0.4
    return 0.9 if phoneme.viseme in ("close-rounded", "postalveolar") else 0.6


def heard_parts(phonemes: tuple[Phoneme, ...], duration_us: int, gap_us: int) -> list[Heard]:
    """Sounds and long silences in time order; short gaps are left out."""
    parts: list[Heard] = []
    last = 0
    for phoneme in phonemes:
        if phoneme.start_us - last >= gap_us:
            parts.append(Heard(last, phoneme.start_us, REST, 1.0))
        visemes = viseme_parts(phoneme.ipa)
        salience = salience_of(phoneme)
        if len(visemes) == 1:
            parts.append(Heard(phoneme.start_us, phoneme.end_us, visemes[0], salience))
        else:
            turn = phoneme.start_us + round((phoneme.end_us - phoneme.start_us) * GLIDE_AT)
            parts.append(Heard(phoneme.start_us, turn, visemes[0], salience))
            parts.append(Heard(turn, phoneme.end_us, visemes[1], 0.7 * salience))
        last = max(last, phoneme.end_us)
    if duration_us - last >= gap_us or not phonemes:
        parts.append(Heard(last, duration_us, REST, 1.0))
    return parts


def frame_weights(
    parts: list[Heard], rate: FrameRate, frames: int, lead: int
) -> tuple[NDArray[np.float64], list[tuple[int, str]]]:
    """How much of each class is due on each frame, shape (frames, classes), and the closures.

    A closure is (frame of its middle, class).
    """
    weights = np.zeros((frames, len(VISEMES)))
    closures: list[tuple[int, str]] = []
    for part in parts:
        column = VISEMES.index(part.viseme)
        first, last = rate.frame_at(part.start_us), rate.frame_at(part.end_us - 1)
        for heard_on in range(first, last + 1):
            shown_on = heard_on - lead
            if 0 <= shown_on < frames:
                from_us, to_us = rate.first_us(heard_on), rate.first_us(heard_on + 1)
                overlap = min(to_us, part.end_us) - max(from_us, part.start_us)
                weights[shown_on, column] += overlap / (to_us - from_us) * part.salience
        if part.viseme in CLOSURES:
            middle = rate.frame_at((part.start_us + part.end_us) // 2) - lead
            if frames:
                closures.append((min(max(middle, 0), frames - 1), part.viseme))
    # Past the last sound that lead reaches, the mouth keeps what the last frame asks for.
    if lead and frames > lead:
        weights[frames - lead :] = weights[frames - lead - 1]
    return weights, closures


def build_problem(weights: NDArray[np.float64], closures: list[tuple[int, str]], chart: Chart, dials: Dials) -> Problem:
    """The solver's problem: distances weighed by what is heard, closures demanded."""
    costs = np.rint(weights @ chart.distances.T * UNIT).astype(np.int64)
    for frame, viseme in closures:
        fits = chart.distances[:, VISEMES.index(viseme)]
        costs[frame, fits > fits.min()] += MISSED
    return Problem(costs, change=round(dials.change_cost * UNIT), shortest=dials.shortest)
