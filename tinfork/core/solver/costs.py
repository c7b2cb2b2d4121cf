"""What it costs to show each drawing on each frame.

The mouth on frame f shows what is heard in `[t(f) + lead, t(f + 1) + lead)`:

    E(f, d) = sum over sounds p heard there: overlap(p, f) * salience(p) * distance(d, p)

in units of one frame of a wrong, unstressed vowel. Where a chart has small and big drawings of a
sound, the wrong size adds `WRONG_SIZE` a step. Silence of `gap_us` or longer is the
resting mouth, as is all before the first sound and after the last; a shorter one between
sounds is no reason to close. The frame at the middle of a closure (p b m, f v) must show a
drawing of its class: any other costs `MISSED` there.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.articulation import vector
from tinfork.core.mouths.chart import ANY, BIG, SMALL, Chart
from tinfork.core.solver.problem import Dials, Problem
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Phoneme
from tinfork.core.speech.visemes import CLOSURES, GLIDE_AT, REST, SOUNDS, class_of, is_vowel, sound_parts, strip_marks

#: Cost units in one frame of a wrong, unstressed vowel at distance 1.
UNIT = 10_000
#: More than any run of frames between two closures could save by leaving one out.
MISSED = 1_000 * UNIT

_ORDER = {sound: at for at, sound in enumerate(SOUNDS)}

#: The distance that one step between small, any and big adds.
WRONG_SIZE = 0.12
#: From here on a vowel is big (and below the negative, small); 1 is twice the usual length, or 6 dB.
_SIZE_FROM = 0.8


@dataclass(frozen=True, slots=True)
class Heard:
    """A stretch with one sound; `salience` is what a frame of it counts, `size` how big its mouth should be."""

    start_us: int
    end_us: int
    sound: str
    salience: float
    size: int = ANY

    @property
    def viseme(self) -> str:
        """The class of the sound."""
        return class_of(self.sound)


@dataclass(frozen=True)
class Demand:
    """What is due on each frame.

    `weights` has shape (frames, wants): how much of each of `wants`, a sound and a size, is due. `closures` are
    (frame of its middle, sound).
    """

    wants: tuple[tuple[str, int], ...]
    weights: NDArray[np.float64]
    closures: tuple[tuple[int, str], ...]


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


def vowel_sizes(phonemes: tuple[Phoneme, ...], loudness: Loudness | None = None, strength: int = 50) -> list[int]:
    """How big the mouth of each phoneme should be: louder and longer vowels open wider.

    Each vowel against the middle of its kin: its length, and its level where the sound is at hand. Consonants are
    of any size. `strength` is how much that counts: 50 as measured, at 0 all are of any size.
    """
    is_one = [is_vowel(p.ipa.lstrip("ˈˌ")) for p in phonemes]
    vowels = [p for p, one in zip(phonemes, is_one, strict=True) if one]
    if len(vowels) < 3:
        return [ANY] * len(phonemes)
    usual_us = float(np.median([p.end_us - p.start_us for p in vowels]))
    usual_db = float(np.median([loudness.level_db(p.start_us, p.end_us) for p in vowels])) if loudness else 0.0

    def size_of(vowel: Phoneme) -> int:
        force = float(np.log2((vowel.end_us - vowel.start_us) / usual_us))
        if loudness:
            force += (loudness.level_db(vowel.start_us, vowel.end_us) - usual_db) / 6
        force *= strength / 50
        return BIG if force >= _SIZE_FROM else SMALL if force <= -_SIZE_FROM else ANY

    return [size_of(p) if one else ANY for p, one in zip(phonemes, is_one, strict=True)]


def heard_parts(
    phonemes: tuple[Phoneme, ...], duration_us: int, dials: Dials, loudness: Loudness | None = None
) -> list[Heard]:
    """Sounds and long silences in time order; short gaps between sounds are left out. Before the first sound and after
    the last there is rest, however short.
    """
    gap_us = dials.gap_us
    parts: list[Heard] = []
    last = 0
    for phoneme, size in zip(phonemes, vowel_sizes(phonemes, loudness, dials.strength), strict=True):
        if phoneme.start_us - last >= (gap_us if parts else 1):
            parts.append(Heard(last, phoneme.start_us, REST, 1.0))
        sounds = sound_parts(phoneme.ipa)
        salience = salience_of(phoneme)
        if len(sounds) == 1:
            parts.append(Heard(phoneme.start_us, phoneme.end_us, sounds[0], salience, size))
        else:
            turn = phoneme.start_us + round((phoneme.end_us - phoneme.start_us) * GLIDE_AT)
            parts.append(Heard(phoneme.start_us, turn, sounds[0], salience, size))
            parts.append(Heard(turn, phoneme.end_us, sounds[1], 0.7 * salience))
        last = max(last, phoneme.end_us)
    if duration_us > last or not phonemes:
        parts.append(Heard(last, duration_us, REST, 1.0))
    return parts


def frame_weights(parts: list[Heard], rate: FrameRate, frames: int, dials: Dials) -> Demand:
    """How much of each sound is due on each frame, and the closures."""
    lead = dials.lead
    due = [*parts, *approaches(parts, rate, dials.approach)]
    wants = tuple(sorted({(part.sound, part.size) for part in due}, key=lambda w: (_ORDER[w[0]], w[1])))
    column_of = {want: column for column, want in enumerate(wants)}
    weights = np.zeros((frames, len(wants)))
    if due and frames:
        _spread(weights, due, [column_of[part.sound, part.size] for part in due], rate, lead)
    closures = [
        (min(max(rate.frame_at((part.start_us + part.end_us) // 2) - lead, 0), frames - 1), part.sound)
        for part in parts
        if frames and part.viseme in CLOSURES
    ]
    # Past the last sound that lead reaches, the mouth keeps what the last frame asks for.
    if lead and frames > lead:
        weights[frames - lead :] = weights[frames - lead - 1]
    return Demand(wants, weights, tuple(closures))


def _spread(weights: NDArray[np.float64], parts: list[Heard], columns: list[int], rate: FrameRate, lead: int) -> None:
    """Add each part to the frames it is heard on, by the share of the frame that it fills."""
    starts = np.array([part.start_us for part in parts])
    ends = np.array([part.end_us for part in parts])
    edges = rate.starts_us(len(weights) + lead)
    first = np.searchsorted(edges, starts, side="right") - 1
    last = np.searchsorted(edges, ends - 1, side="right") - 1
    counts = last - first + 1
    of_part = np.repeat(np.arange(len(parts)), counts)
    heard_on = first[of_part] + np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    inside = (heard_on >= lead) & (heard_on - lead < len(weights))
    of_part, heard_on = of_part[inside], heard_on[inside]
    from_us, to_us = edges[heard_on], edges[heard_on + 1]
    overlap = np.minimum(to_us, ends[of_part]) - np.maximum(from_us, starts[of_part])
    share = overlap / (to_us - from_us) * np.array([part.salience for part in parts])[of_part]
    np.add.at(weights, (heard_on - lead, np.array(columns)[of_part]), share)


#: A jump of the jaw by this much (of 1) is one that is approached, over a mouth half open.
_WIDE_JUMP, _APPROACH_SOUND, _APPROACH_SALIENCE = 0.6, "ɛ", 0.7


def approaches(parts: list[Heard], rate: FrameRate, frames: int) -> list[Heard]:
    """Stretches before wide mouths in which they are come near to: anticipation, as in any animation book.

    Only where the mouth jumps open from nearly closed, and from the sounds themselves: no closure gives time to it.
    """
    out: list[Heard] = []
    for before, part in pairwise(parts):
        jump = vector(part.sound)[0] - vector(before.sound)[0]
        if frames and jump >= _WIDE_JUMP and part.salience >= 1.0 and before.viseme not in CLOSURES:
            frame_us = rate.first_us(1)
            out.append(
                Heard(max(0, part.start_us - frames * frame_us), part.start_us, _APPROACH_SOUND, _APPROACH_SALIENCE)
            )
    return [each for each in out if each.end_us > each.start_us]


def distances_to(wants: tuple[tuple[str, int], ...], chart: Chart) -> NDArray[np.float64]:
    """How far each speaking drawing is from each wanted sound and size, shape (drawings, wants)."""
    columns = [_ORDER[sound] for sound, _ in wants]
    sizes = np.array([size for _, size in wants], dtype=np.int64)
    # A size counts only among drawings that are made in sizes: others are right for any.
    steps = np.where(chart.sizes[:, None] == ANY, sizes[None, :] != ANY, np.abs(chart.sizes[:, None] - sizes[None, :]))
    away: NDArray[np.float64] = chart.distances[:, columns] + WRONG_SIZE * steps
    return away


def build_problem(demand: Demand, chart: Chart, dials: Dials) -> Problem:
    """The solver's problem: distances weighed by what is heard, closures demanded."""
    costs = np.rint(demand.weights @ distances_to(demand.wants, chart).T * UNIT).astype(np.int64)
    for frame, sound in demand.closures:
        fits = chart.distances[:, _ORDER[sound]]
        costs[frame, fits > fits.min()] += MISSED
    return Problem(costs, change=round(dials.change_cost * UNIT), shortest=dials.shortest, grid=dials.grid)
