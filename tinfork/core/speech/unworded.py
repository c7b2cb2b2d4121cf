"""Readings without words: syllables heard by the ear; and a mouth that flaps with the loudness."""

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.loop import HeardSound
from tinfork.core.ear.phones import HEARD
from tinfork.core.sound.silence import speech_stretches
from tinfork.core.sound.voice import HOP_US, SILENCE_DB
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.turns import turns_of
from tinfork.core.speech.visemes import is_vowel

BY_EAR, FLAP = "by ear, no words", "flap"
#: A pause of at least this much ends a line.
_PAUSE_US = 350_000
#: The highest confidence of a reading by ear.
_MOST_SURE = 0.8


def lines_by_ear(sounds: Sequence[HeardSound], language: str, duration_us: int) -> tuple[Line, ...]:
    """Syllables in place of words, with a line between pauses; frames of 10 ms."""
    runs: list[list[Word]] = []
    for syllable in _syllables(sounds):
        word = _word(syllable, duration_us)
        if word is None:
            continue
        if not runs or word.start_us - runs[-1][-1].end_us >= _PAUSE_US:
            runs.append([])
        runs[-1].append(word)
    return tuple(Line("", "", language, tuple(run), method=BY_EAR) for run in runs)


def _syllables(sounds: Sequence[HeardSound]) -> Iterator[list[HeardSound]]:
    """Runs of sounds with one vowel each.

    The last consonant before a vowel begins its syllable, and silence ends one.
    """
    run: list[HeardSound] = []
    for sound in sounds:
        if sound.sound == 0:
            if run:
                yield run
            run = []
            continue
        vowels = [at for at, one in enumerate(run) if is_vowel(HEARD[one.sound])]
        if is_vowel(HEARD[sound.sound]) and vowels:
            cut = max(vowels[-1] + 1, len(run) - 1)
            yield run[:cut]
            run = run[cut:]
        run.append(sound)
    if run:
        yield run


def _word(syllable: list[HeardSound], duration_us: int) -> Word | None:
    phonemes: list[Phoneme] = []
    for sound in syllable:
        start, end = sound.first * HOP_US, min(sound.last * HOP_US, duration_us)
        if start < end:
            sure = float(np.clip(np.exp(sound.score), 0.05, _MOST_SURE))
            phonemes.append(Phoneme(HEARD[sound.sound], start, end, sure))
    if not phonemes:
        return None
    text = "".join(p.ipa for p in phonemes)
    return Word(text, phonemes[0].start_us, phonemes[-1].end_us, tuple(phonemes), min(p.confidence for p in phonemes))


def flapping(reading: Reading, levels: NDArray[np.float64], speaker: str, seed: int = 0) -> Reading:
    """Move one speaker's mouth by loudness alone, replacing everything that was read.

    With turns, the mouth moves in the speaker's own; a speaker without turns moves outside those of the others.
    """
    turns = turns_of(reading)
    own = [t for t in turns if t.speaker == speaker]
    heard = np.zeros(len(levels), dtype=bool) if own else np.ones(len(levels), dtype=bool)
    for turn in own or turns:
        heard[turn.start_us // HOP_US : -(-turn.end_us // HOP_US)] = bool(own)
    muted = np.where(heard, levels, SILENCE_DB - 30)
    return Reading(reading.duration_us, lines_of_flap(muted, "", reading.duration_us, seed, speaker))


#: Loudness is smoothed over this many hops (a syllable is rarely shorter than 120 ms); a dip of this many dB separates
#: two syllables.
_SMOOTH, _DIP_DB = 5, 2.5
_LEAST_HOPS = 9
#: How far below a stretch's loudest syllable one counts as quiet, and as medium (dB).
_QUIET_DB, _MIDDLING_DB = 14.0, 6.0


def lines_of_flap(
    levels: NDArray[np.float64], language: str, duration_us: int, seed: int = 0, speaker: str = ""
) -> tuple[Line, ...]:
    """Alternately open and half-closed, with a syllable for each rise of the level (dB per 10 ms, shape (hops,)).

    Louder syllables open wider, in one of a few random shapes: the same seed gives the same result.
    """
    pick = np.random.default_rng(seed)
    out: list[Line] = []
    for stretch in speech_stretches(levels, pause_us=_PAUSE_US):
        first, last = stretch.start_us // HOP_US, min(stretch.end_us // HOP_US, len(levels))
        part = levels[first:last]
        words = [
            word
            for at, (a, b) in enumerate(pairwise(_dips(part)))
            if (word := _flap(part[a:b], first + a, duration_us, float(part.max()), _BETWEEN[at % 2], pick)) is not None
        ]
        if words:
            out.append(Line(speaker, "", language, tuple(words), method=FLAP))
    return tuple(out)


def _dips(levels: NDArray[np.float64]) -> list[int]:
    """The boundaries between syllables, with both ends, in hops."""
    if len(levels) < 2 * _LEAST_HOPS:
        return [0, len(levels)]
    kernel = np.ones(_SMOOTH) / _SMOOTH
    smooth = np.convolve(np.pad(levels, _SMOOTH // 2, mode="edge"), kernel, mode="valid")
    cuts = [0]
    for at in range(1, len(smooth) - 1):
        if not (smooth[at] <= smooth[at - 1] and smooth[at] < smooth[at + 1]):
            continue
        before = smooth[cuts[-1] : at + 1].max() - smooth[at]
        after = smooth[at : at + 30].max() - smooth[at]
        is_deep = before > _DIP_DB and after > _DIP_DB
        if is_deep and at - cuts[-1] >= _LEAST_HOPS and len(levels) - at >= _LEAST_HOPS:
            cuts.append(at)
    return [*cuts, len(levels)]


#: Vowels of quiet, medium and loud syllables.
_SHAPES = (("ə", "ɪ", "ʊ"), ("ɛ", "ʌ", "o"), ("a", "ɑ", "æ"))


#: Initial consonants of syllables: the lips meet on every other one, so that consecutive loud ones do not merge.
_BETWEEN = ("n", "m")


def _flap(
    levels: NDArray[np.float64], first: int, duration_us: int, top: float, begins: str, pick: np.random.Generator
) -> Word | None:
    """A syllable that starts at hop `first`."""
    peak = float(levels.max())
    shapes = _SHAPES[0 if peak < top - _QUIET_DB else 1 if peak < top - _MIDDLING_DB else 2]
    start, end = first * HOP_US, min((first + len(levels)) * HOP_US, duration_us)
    middle = start + (end - start) // 3
    vowel = shapes[int(pick.integers(len(shapes)))]
    if not start < middle < end:
        return None
    sounds = (Phoneme(begins, start, middle, _MOST_SURE), Phoneme(vowel, middle, end, _MOST_SURE))
    return Word("·", start, end, sounds, _MOST_SURE)
