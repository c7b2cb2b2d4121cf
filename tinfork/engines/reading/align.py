"""Stage 3, align: the times of the sounds, found by the ear and by the recogniser separately."""

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

#: Aligns words, given by their phones, to samples, for a speaker of some size; None if there is no path.
Recogniser = Callable[..., list[AlignedWord] | None]


@dataclass(frozen=True, slots=True)
class TimedSound:
    """A sound with its times in seconds.

    `fit`: mean log probability by the ear; `score`: log likelihood per frame by the recogniser (NaN if it did not run);
    `apart_s`: the difference between the two starts.
    """

    ipa: str
    start_s: float
    end_s: float
    fit: float
    score: float = float("nan")
    apart_s: float = float("nan")


@dataclass(frozen=True)
class Aligned:
    """The sounds of each spoken word, by the ear, and by the recogniser (None if it found no path)."""

    said: Said
    by_ear: tuple[tuple[TimedSound, ...], ...]
    by_recogniser: tuple[tuple[TimedSound, ...], ...] | None
    emission: NDArray[np.float32]


def align(heard: SoundEvidence, said: Said, aligner: Recogniser = recogniser.align) -> Aligned:
    """Align the words.

    For a speaker of another size, the recogniser gets the sound at another speed; if the ear finds that result
    unlikely, the one at the original speed may be likelier.
    """
    emission = emissions(said.evidence)
    ways = [word.ways[taken] for word, taken in zip(said.words, said.found.taken, strict=True)]
    by_ear = tuple(sounds_of_spans(way.ipa, spans) for way, spans in zip(ways, said.found.words, strict=True))
    if not all(way.phones for way in ways):
        # The recogniser cannot align sounds that were read by ear.
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
    """A word's sounds as the ear found them; sounds without a span are left out."""
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
    """A word's sounds as the recogniser found them; phones of one symbol are joined."""
    out, at = [], 0
    for symbol, group in zip(way.ipa, way.phones, strict=True):
        part = aligned.phones[at : at + len(group)]
        at += len(group)
        if part:
            out.append(TimedSound(symbol, part[0].start_s, part[-1].end_s, 0.0, min(p.score for p in part)))
    return tuple(out)


def likelihood(words: Sequence[Sequence[TimedSound]] | None, emission: NDArray[np.float32]) -> float:
    """The mean log probability per frame, by the ear, of sounds at given times; minus infinity for no path."""
    total, frames = 0.0, 0
    for sound in (sound for word in words or () for sound in word):
        first = round(sound.start_s / FRAME_S)
        for part, a, b in shares_of(sound.ipa, first, max(first + 1, round(sound.end_s / FRAME_S))):
            # The recogniser adds silence at both ends: there the evidence of the first and last frame is repeated.
            total += float(emission[np.clip(np.arange(a, b), 0, len(emission) - 1), part].sum())
            frames += b - a
    return total / frames if frames else -np.inf
