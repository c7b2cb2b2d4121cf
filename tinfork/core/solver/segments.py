"""The sounds of one speaker as arrays of segments, so that the solver computes an hour of them at once.

Silence of `gap_us` or longer is rest, as is everything before the first sound and after the last; shorter silence
between sounds is left out. A diphthong is two segments. Times are microseconds, spans half-open.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import overload

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.kept import kept, of_each
from tinfork.core.mouths.articulation import vector
from tinfork.core.mouths.chart import ANY, BIG, SMALL
from tinfork.core.solver.dials import Dials
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Line, Phoneme, Reading
from tinfork.core.speech.visemes import CLOSURES, GLIDE_AT, REST, SOUNDS, class_of, is_vowel, sound_parts, strip_marks

#: The index of each sound in `SOUNDS`.
SOUND_AT = {sound: at for at, sound in enumerate(SOUNDS)}
#: By sound: whether it is a closure (lips meet, or lip and teeth); how far the jaw is open.
IS_CLOSURE = np.array([class_of(sound) in CLOSURES for sound in SOUNDS])
_JAW = np.array([vector(sound)[0] for sound in SOUNDS])

#: A vowel above this is big (below the negative, small); 1 is twice the usual length, or 6 dB.
_SIZE_FROM = 0.8
#: What is usual is told so finely only (doublings of length, dB): else every edit of a word would move it, and with it
#: the sizes of vowels far away.
_USUAL_LENGTH, _USUAL_DB = 1 / 16, 0.5
#: The factor of a vowel's weight in the second part of a diphthong.
_GLIDE = 0.7
#: A jump of the jaw by this much (of 1) is approached over a half-open mouth.
_WIDE_JUMP, _APPROACH_SOUND, _APPROACH_SALIENCE = 0.6, "ɛ", 0.7

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class SoundSegment:
    """A segment with one sound; `salience` is the weight of a frame of it, `size` how big its mouth should be."""

    start_us: int
    end_us: int
    sound: str
    salience: float
    size: int = ANY

    @property
    def viseme(self) -> str:
        """The class of the sound."""
        return class_of(self.sound)


@dataclass(frozen=True, eq=False)
class SoundSegments(Sequence[SoundSegment]):
    """Segments in time order as arrays of shape (segments,); `sounds` are indices in `SOUNDS`."""

    starts_us: Ints
    ends_us: Ints
    sounds: Ints
    saliences: NDArray[np.float64]
    sizes: Ints

    def __len__(self) -> int:
        return len(self.starts_us)

    @overload
    def __getitem__(self, at: int) -> SoundSegment: ...
    @overload
    def __getitem__(self, at: slice) -> "SoundSegments": ...
    def __getitem__(self, at: int | slice) -> "SoundSegment | SoundSegments":
        if isinstance(at, slice):
            return self.taken(np.arange(len(self))[at])
        return SoundSegment(
            int(self.starts_us[at]),
            int(self.ends_us[at]),
            SOUNDS[self.sounds[at]],
            float(self.saliences[at]),
            int(self.sizes[at]),
        )

    def __iter__(self) -> Iterator[SoundSegment]:
        columns = (
            column.tolist() for column in (self.starts_us, self.ends_us, self.sounds, self.saliences, self.sizes)
        )
        for start, end, sound, salience, size in zip(*columns, strict=True):
            yield SoundSegment(start, end, SOUNDS[sound], salience, size)

    @cached_property
    def wants(self) -> Ints:
        """Sound and size of each segment as one number, ordered by sound and then by size."""
        return want_number(self.sounds, self.sizes)

    def taken(self, which: NDArray[np.bool_] | NDArray[np.integer]) -> "SoundSegments":
        """Some of the segments, by a mask or indices."""
        return SoundSegments(
            self.starts_us[which], self.ends_us[which], self.sounds[which], self.saliences[which], self.sizes[which]
        )

    def followed_by(self, others: "SoundSegments") -> "SoundSegments":
        """These segments followed by others."""
        return SoundSegments(
            np.concatenate([self.starts_us, others.starts_us]),
            np.concatenate([self.ends_us, others.ends_us]),
            np.concatenate([self.sounds, others.sounds]),
            np.concatenate([self.saliences, others.saliences]),
            np.concatenate([self.sizes, others.sizes]),
        )

    def differing_us(self, other: "SoundSegments") -> tuple[int, int] | None:
        """The time `[start, end)` that covers all segments that only one of the two has; None if there are none."""
        shorter = min(len(self), len(other))
        first = _same_from(self[:shorter], other[:shorter])
        if first == len(self) == len(other):
            return None
        rests = [segments.taken(np.arange(first, len(segments))[::-1]) for segments in (self, other)]
        shorter = min(map(len, rests))
        same = _same_from(rests[0][:shorter], rests[1][:shorter])
        apart = [rest[same:] for rest in rests]
        return (
            min(int(part.starts_us.min()) for part in apart if len(part)),
            max(int(part.ends_us.max()) for part in apart if len(part)),
        )


def _same_from(one: SoundSegments, other: SoundSegments) -> int:
    """The number of equal segments before the first different one, of two arrays of the same length."""
    different = (
        (one.starts_us != other.starts_us)
        | (one.ends_us != other.ends_us)
        | (one.wants != other.wants)
        | (one.saliences != other.saliences)
    )
    return int(different.argmax()) if different.any() else len(one)


#: The number of sizes.
_SIZES = BIG - SMALL + 1


def want_number(sounds: Ints, sizes: Ints) -> Ints:
    """Sounds (indices in `SOUNDS`) and sizes as one number each."""
    return sounds * _SIZES + (sizes - SMALL)


def want_of(number: int) -> tuple[str, int]:
    """The sound and the size of such a number."""
    sound, size = divmod(number, _SIZES)
    return SOUNDS[sound], size + SMALL


def salience_of(phoneme: Phoneme) -> float:
    """How much a sound's mouth is noticed: closures most, then stressed vowels."""
    if phoneme.viseme in CLOSURES:
        return 3.0
    if is_vowel(phoneme.ipa.lstrip("ˈˌ")):
        if phoneme.is_stressed:
            return 1.5
        return 0.7 if strip_marks(phoneme.ipa) in ("ə", "ɚ", "ɪ", "ᵻ") else 1.0
    if phoneme.viseme in ("velar", "alveolar"):
        return 0.4
    return 0.9 if phoneme.viseme in ("close-rounded", "postalveolar") else 0.6


# sounds of one speaker ------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class Sounds:
    """The speech sounds of one speaker in time order, as arrays of shape (sounds,).

    The sound it begins with, the one it glides to (-1: none), its salience, whether it is a vowel.
    """

    starts_us: Ints
    ends_us: Ints
    firsts: Ints
    seconds: Ints
    saliences: NDArray[np.float64]
    are_vowels: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.starts_us)


@lru_cache(maxsize=4096)
def _kind(ipa: str) -> tuple[int, int, float, bool]:
    """The properties of a phoneme that do not depend on its times."""
    first, *second = (SOUND_AT[sound] for sound in sound_parts(ipa))
    return first, (second or [-1])[0], salience_of(Phoneme(ipa, 0, 1)), is_vowel(ipa.lstrip("ˈˌ"))


@kept
def _line_rows(line: Line) -> NDArray[np.float64]:
    """The sounds of a line, shape (sounds, 6), a column for each field of `Sounds`.

    Floats of 53 bits hold times exactly.
    """
    rows = [(p.start_us, p.end_us, *_kind(p.ipa)) for word in line.words for p in word.phonemes]
    return np.array(rows, dtype=np.float64).reshape(-1, 6)


@kept
def lines_of(reading: Reading, speaker: str | None = None) -> tuple[Line, ...]:
    """The lines that a speaker says, alone or with others; all lines for None."""
    if speaker is None:
        return reading.lines
    return tuple(line for line in reading.lines if line.speaker == speaker or speaker in line.co_speakers)


def sounds_of(reading: Reading, speaker: str | None = None) -> Sounds:
    """The speech sounds of a reading, or of one speaker in it."""
    rows = np.concatenate([np.empty((0, 6)), *of_each(_line_rows, lines_of(reading, speaker))])
    starts, ends, firsts, seconds, saliences, are_vowels = rows[np.argsort(rows[:, 0], kind="stable")].T
    starts, ends, firsts, seconds = (column.astype(np.int64) for column in (starts, ends, firsts, seconds))
    return Sounds(starts, ends, firsts, seconds, np.ascontiguousarray(saliences), are_vowels.astype(np.bool_))


def vowel_sizes(sounds: Sounds, loudness: Loudness | None, strength: int) -> Ints:
    """The size of each sound's mouth, shape (sounds,): louder and longer vowels open wider.

    Each vowel is compared with the median of all in length, and in level if the sound is at hand. Consonants have
    any size. `strength`: 50 as measured, at 0 all have any size.
    """
    sizes = np.full(len(sounds), ANY, dtype=np.int64)
    starts, ends = sounds.starts_us[sounds.are_vowels], sounds.ends_us[sounds.are_vowels]
    if len(starts) < 3:
        return sizes
    lengths = np.log2(ends - starts)
    force = lengths - _usual(lengths, _USUAL_LENGTH)
    if loudness:
        levels = loudness.levels_db(starts, ends)
        force += (levels - _usual(levels, _USUAL_DB)) / 6
    force *= strength / 50
    sizes[sounds.are_vowels] = np.where(force >= _SIZE_FROM, BIG, np.where(force <= -_SIZE_FROM, SMALL, ANY))
    return sizes


def _usual(values: NDArray[np.float64], step: float) -> float:
    """The median, to the nearest multiple of a step."""
    return step * round(float(np.median(values)) / step)


# segments -------------------------------------------------------------------------------------------------------------


def segments_of(sounds: Sounds, duration_us: int, dials: Dials, loudness: Loudness | None = None) -> SoundSegments:
    """Sounds and long silences in time order."""
    count = len(sounds)
    latest = np.maximum.accumulate(sounds.ends_us) if count else sounds.ends_us
    # The end of all sounds before each one; 0 before the first.
    before = np.concatenate([[0], latest[:-1]]).astype(np.int64) if count else latest
    rests = sounds.starts_us - before >= np.where(np.arange(count), dials.gap_us, 1)
    glides = sounds.seconds >= 0
    turns = np.where(
        glides,
        sounds.starts_us + np.rint((sounds.ends_us - sounds.starts_us) * GLIDE_AT).astype(np.int64),
        sounds.ends_us,
    )
    rest = np.full(count, SOUND_AT[REST], dtype=np.int64)
    ones, any_size = np.ones(count), np.full(count, ANY, dtype=np.int64)
    # Three rows a sound: the rest before it, the sound, the one it glides to; only the existing ones are kept.
    is_there = np.column_stack([rests, np.ones(count, dtype=np.bool_), glides])
    end_us = int(latest[-1]) if count else 0

    def laid(*columns: NDArray[np.generic]) -> NDArray[np.generic]:
        return np.column_stack(columns)[is_there]

    sizes = vowel_sizes(sounds, loudness, dials.strength)
    spoken = SoundSegments(
        laid(before, sounds.starts_us, turns).astype(np.int64),
        laid(sounds.starts_us, turns, sounds.ends_us).astype(np.int64),
        laid(rest, sounds.firsts, sounds.seconds).astype(np.int64),
        laid(ones, sounds.saliences, _GLIDE * sounds.saliences).astype(np.float64),
        laid(any_size, sizes, any_size).astype(np.int64),
    )
    if duration_us <= end_us and count:
        return spoken
    return spoken.followed_by(_segments([(end_us, duration_us, REST, 1.0)]))


def _segments(rows: Sequence[tuple[int, int, str, float]]) -> SoundSegments:
    starts, ends, sounds, saliences = zip(*rows, strict=True) if rows else ((),) * 4
    return SoundSegments(
        np.array(starts, dtype=np.int64),
        np.array(ends, dtype=np.int64),
        np.array([SOUND_AT[sound] for sound in sounds], dtype=np.int64),
        np.array(saliences, dtype=np.float64),
        np.full(len(rows), ANY, dtype=np.int64),
    )


def approaches(segments: SoundSegments, rate: FrameRate, frames: int) -> SoundSegments:
    """Stretches that approach wide mouths: anticipation, as in any animation book.

    Only where the mouth jumps open from nearly closed, and never at the expense of a closure.
    """
    jaw = _JAW[segments.sounds]
    is_one = (
        (np.diff(jaw) >= _WIDE_JUMP)
        & (segments.saliences[1:] >= 1.0)
        & ~IS_CLOSURE[segments.sounds[:-1]]
        & (frames > 0)
    )
    ends = segments.starts_us[1:][is_one]
    starts = np.maximum(0, ends - frames * rate.first_us(1))
    has_time = ends > starts
    count = int(has_time.sum())
    return SoundSegments(
        starts[has_time],
        ends[has_time],
        np.full(count, SOUND_AT[_APPROACH_SOUND], dtype=np.int64),
        np.full(count, _APPROACH_SALIENCE),
        np.full(count, ANY, dtype=np.int64),
    )
