"""The exposure sheet: a row per frame with what is heard and what is shown."""

from collections.abc import Iterator
from dataclasses import dataclass

from tinfork.core.clock import FrameRate, timecode
from tinfork.core.solver.problem import Hold
from tinfork.core.speech.reading import Reading


@dataclass(frozen=True, slots=True)
class Row:
    """One frame, or one hold when `frames` is more than 1: what it shows and what is heard on it."""

    frame: int
    frames: int
    timecode: str
    drawing: int
    set: str
    viseme: str
    word: str
    phoneme: str


@dataclass(frozen=True)
class Sheet:
    """A reading and its holds at a rate; frames are numbered from `first_frame`."""

    reading: Reading
    holds: tuple[Hold, ...]
    rate: FrameRate
    first_frame: int = 1
    drop: bool = False

    def frame_rows(self) -> Iterator[Row]:
        """A row per frame: the word and the sounds heard on it."""
        for hold in self.holds:
            for frame in range(hold.start, hold.end):
                yield self._row(hold, frame, frame + 1)

    def hold_rows(self) -> Iterator[Row]:
        """A row per hold, with its length and every word and sound heard during it."""
        for hold in self.holds:
            yield self._row(hold, hold.start, hold.end)

    def _row(self, hold: Hold, start: int, end: int) -> Row:
        words, phonemes = self._heard(self.rate.first_us(start), self.rate.first_us(end))
        return Row(
            frame=self.first_frame + start,
            frames=end - start,
            timecode=timecode(start, self.rate, drop=self.drop),
            drawing=hold.drawing,
            set=hold.set,
            viseme=hold.viseme,
            word=" ".join(words),
            phoneme=" ".join(phonemes),
        )

    def _heard(self, from_us: int, to_us: int) -> tuple[list[str], list[str]]:
        words: list[str] = []
        phonemes: list[str] = []
        for word in self.reading.words():
            if word.start_us >= to_us:
                break
            if word.end_us > from_us:
                words.append(word.text)
                phonemes += [p.ipa for p in word.phonemes if p.start_us < to_us and p.end_us > from_us]
        return words, phonemes
