"""Stage 3, align: where the sounds of what is said are, by the ear and by the recogniser, each its own way."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.path import Span, emissions, shares_of
from tinfork.engines import recogniser
from tinfork.engines.reading.hear import FRAME_S, SoundEvidence
from tinfork.engines.reading.rungs import NEARLY
from tinfork.engines.reading.words import Said
from tinfork.engines.recogniser import AlignedWord
from tinfork.engines.wording import Pronounced

#: Aligns words, given by their phones, to samples, for a speaker of some size; None where it finds no way.
Recogniser = Callable[..., list[AlignedWord] | None]


@dataclass(frozen=True, slots=True)
class TimedSound:
    """One sound: seconds; `fit`, what the ear thinks of it (mean log probability).

    `score`, the recogniser (log likelihood a frame, NaN where it was not asked); `apart_s`, how far apart the two began
    it.
    """

    ipa: str
    start_s: float
    end_s: float
    fit: float
    score: float = float("nan")
    apart_s: float = float("nan")


@dataclass(frozen=True)
class Aligned:
    """The sounds of each word that is said, by the ear, and by the recogniser (None where it found no way)."""

    said: Said
    by_ear: tuple[tuple[TimedSound, ...], ...]
    by_recogniser: tuple[tuple[TimedSound, ...], ...] | None
    emission: NDArray[np.float32]


def align(heard: SoundEvidence, said: Said, aligner: Recogniser = recogniser.align) -> Aligned:
    """Where the sounds are.

    A voice that the ear takes for another size's is usual to the recogniser at another speed; where the ear finds that
    way unlikely, the one at the sound's own speed may be likelier.
    """
    emission = emissions(said.evidence)
    ways = [word.ways[taken] for word, taken in zip(said.words, said.found.taken, strict=True)]
    by_ear = tuple(sounds_of_spans(way.ipa, spans) for way, spans in zip(ways, said.found.words, strict=True))
    if not all(way.phones for way in ways):
        # Sounds by ear are no words of the recogniser's.
        return Aligned(said, by_ear, None, emission)
    phones = [way.phone_names for way in ways]
    aligned = aligner(heard.samples, phones, ratio=said.ratio)
    by_recogniser = _sounds(ways, aligned)
    if said.ratio != 1.0 and likelihood(by_recogniser, emission) <= likelihood(by_ear, emission) - NEARLY:
        as_it_is = _sounds(ways, aligner(heard.samples, phones, ratio=1.0))
        if likelihood(as_it_is, emission) > likelihood(by_recogniser, emission):
            by_recogniser = as_it_is
    return Aligned(said, by_ear, by_recogniser, emission)


def sounds_of_spans(ipa: Sequence[str], spans: Sequence[Span | None]) -> tuple[TimedSound, ...]:
    """A word's sounds where the ear found them; those without a place are left out."""
    return tuple(
        TimedSound(symbol, span.first * FRAME_S, span.last * FRAME_S, span.score)
        for symbol, span in zip(ipa, spans, strict=True)
        if span
    )


def _sounds(
    ways: Sequence[Pronounced], aligned: Sequence[AlignedWord] | None
) -> tuple[tuple[TimedSound, ...], ...] | None:
    if aligned is None:
        return None
    return tuple(sounds_of_phones(way, word) for way, word in zip(ways, aligned, strict=True))


def sounds_of_phones(way: Pronounced, aligned: AlignedWord) -> tuple[TimedSound, ...]:
    """A word's sounds where the recogniser found them; phones that make up one symbol are joined."""
    out, at = [], 0
    for symbol, group in zip(way.ipa, way.phones, strict=True):
        part = aligned.phones[at : at + len(group)]
        at += len(group)
        if part:
            out.append(TimedSound(symbol, part[0].start_s, part[-1].end_s, 0.0, min(p.score for p in part)))
    return tuple(out)


def likelihood(words: Sequence[Sequence[TimedSound]] | None, emission: NDArray[np.float32]) -> float:
    """What the ear thinks of sounds where they are put: mean log probability a frame; minus infinity for no way."""
    total, frames = 0.0, 0
    for sound in (sound for word in words or () for sound in word):
        first = round(sound.start_s / FRAME_S)
        for part, a, b in shares_of(sound.ipa, first, max(first + 1, round(sound.end_s / FRAME_S))):
            # Beyond the ends, where the recogniser has silence of its own, it goes on as it is there.
            total += float(emission[np.clip(np.arange(a, b), 0, len(emission) - 1), part].sum())
            frames += b - a
    return total / frames if frames else -np.inf
