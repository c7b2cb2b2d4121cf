"""The exposure sheet: a row per frame with the sounds and the drawing."""

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from tinfork.core.clock import FrameRate, timecode
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import drawing_on
from tinfork.core.speech.reading import Reading, Word


@dataclass(frozen=True, slots=True)
class SheetRow:
    """One frame, or one hold when `frames` is more than 1: what it shows and what is heard on it.

    `others` is what the other parts of the face show, in the sheet's order.
    """

    frame: int
    frames: int
    timecode: str
    drawing: int
    set: str
    viseme: str
    word: str
    phoneme: str
    note: str = ""
    others: tuple[int, ...] = ()


class _InOrder:
    """Words by start, to look up words in a stretch of time; speakers may overlap."""

    def __init__(self, reading: Reading) -> None:
        self._words = sorted(reading.words(), key=lambda word: word.start_us)
        self._starts = [word.start_us for word in self._words]
        self._longest_us = max((word.end_us - word.start_us for word in self._words), default=0)

    def between(self, from_us: int, to_us: int) -> list[Word]:
        """The words that sound in a stretch."""
        first = bisect_left(self._starts, from_us - self._longest_us)
        last = bisect_left(self._starts, to_us)
        return [word for word in self._words[first:last] if word.end_us > from_us]


@dataclass(frozen=True)
class Sheet:
    """A reading and its holds at a rate; frames are numbered from `first_frame`.

    `others` are the holds of the other parts of the face, by name; `notes` by frame, counted from 0.
    """

    reading: Reading
    holds: tuple[Hold, ...]
    rate: FrameRate
    first_frame: int = 1
    drop: bool = False
    others: Mapping[str, tuple[Hold, ...]] = field(default_factory=dict)
    notes: Mapping[int, str] = field(default_factory=dict)

    @cached_property
    def _words(self) -> "_InOrder":
        return _InOrder(self.reading)

    def frame_rows(self) -> Iterator[SheetRow]:
        """A row per frame: the word and the sounds heard on it."""
        for hold in self.holds:
            for frame in range(hold.start, hold.end):
                yield self._row(hold, frame, frame + 1)

    def hold_rows(self) -> Iterator[SheetRow]:
        """A row per hold, with its length and every word and sound heard during it."""
        for hold in self.holds:
            yield self._row(hold, hold.start, hold.end)

    def _row(self, hold: Hold, start: int, end: int) -> SheetRow:
        words, phonemes = self._heard(self.rate.first_us(start), self.rate.first_us(end))
        return SheetRow(
            frame=self.first_frame + start,
            frames=end - start,
            timecode=timecode(start, self.rate, drop=self.drop),
            drawing=hold.drawing,
            set=hold.set,
            viseme=hold.viseme,
            word=" ".join(words),
            phoneme=" ".join(phonemes),
            note=" / ".join(self.notes[frame] for frame in range(start, end) if frame in self.notes),
            others=tuple(drawing_on(holds, start).drawing for holds in self.others.values()),
        )

    def _heard(self, from_us: int, to_us: int) -> tuple[list[str], list[str]]:
        heard = self._words.between(from_us, to_us)
        sounds = [p.ipa for word in heard for p in word.phonemes if p.start_us < to_us and p.end_us > from_us]
        return [word.text for word in heard], sounds
