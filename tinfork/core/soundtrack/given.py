"""What a command is given: parameters as a page sent them, asked for by name and kind, and what it must know."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.problem import Hold
from tinfork.core.soundtrack.model import LONGEST_US
from tinfork.core.speech.reading import Reading

#: Frames are numbers up to this.
MOST_FRAMES = 1_000_000


@dataclass(frozen=True)
class TakeInfo:
    """What a command must know of a take that it places."""

    length_us: int
    reading: Reading | None = None
    #: Where its voice begins, for a take without words.
    voice_from_us: int = 0


@dataclass(frozen=True)
class Given:
    """The parameters of a command, asked for by name and kind; raises `FormatError` for what is missing or wrong."""

    values: Mapping[str, Any]
    rate: FrameRate
    takes: Mapping[int, TakeInfo]
    speakers: frozenset[str]
    #: A character's mouths as they are shown now, and their charts by set ("" the first).
    holds: Callable[[str], tuple[Hold, ...]] = lambda _: ()
    charts: Callable[[str], Mapping[str, Chart]] = lambda _: {}
    #: The sounds of a written word in a language, as the production says it; raises `WordsError` for what is no word.
    sounds: Callable[[str, str], tuple[str, ...]] = lambda text, language: ()

    def whole(self, name: str, low: int = 0, high: int = LONGEST_US) -> int:
        """A whole number in bounds."""
        value = self.values.get(name)
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            raise FormatError(f"“{name}” must be a whole number from {low} to {high}.")
        return value

    def frame(self, name: str) -> int:
        """The time at which a frame, counted from 0, begins."""
        return self.rate.first_us(self.whole(name, 0, self.rate.frame_at(LONGEST_US)))

    def maybe_frame(self, name: str) -> int | None:
        """The same, or nothing."""
        return None if self.values.get(name) is None else self.frame(name)

    def span(self) -> tuple[int, int]:
        """The frames `[first, end)` that a command is about: it names the first and the last."""
        first, last = self.whole("first", 0, MOST_FRAMES), self.whole("last", 0, MOST_FRAMES)
        if last < first:
            raise FormatError("A stretch of frames ends after it starts.")
        return first, last + 1

    def number(self, name: str, low: float, high: float) -> float:
        """A number in bounds."""
        value = self.values.get(name)
        if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
            raise FormatError(f"“{name}” must be a number from {low:g} to {high:g}.")
        return float(value)

    def one_of(self, name: str, choices: tuple[str, ...]) -> str:
        """One of some words."""
        value = self.values.get(name, choices[0])
        if value not in choices:
            raise FormatError(f"“{name}” must be one of: {', '.join(choices)}.")
        return str(value)

    def flag(self, name: str) -> bool:
        """Yes or no."""
        return self.values.get(name) is True

    def text(self, name: str, most: int) -> str:
        """A short text."""
        value = self.values.get(name)
        if not isinstance(value, str) or not value.strip() or len(value) > most:
            raise FormatError(f"“{name}” must be a text of up to {most} characters.")
        return " ".join(value.split())

    def speaker(self, values: Mapping[str, Any] | None = None) -> str:
        """A character of this shot."""
        value = (self.values if values is None else values).get("speaker")
        if not isinstance(value, str) or value not in self.speakers:
            raise TimingError("That character is not in this shot. Add them first.")
        return value

    def take(self) -> tuple[int, TakeInfo]:
        """A take that can be placed."""
        number = self.whole("take", 1, 2**62)
        if number not in self.takes:
            raise TimingError("That take is not there any more, or is still being opened.")
        return number, self.takes[number]

    def table(self, name: str, most: int) -> dict[str, Any]:
        """Values by name."""
        value = self.values.get(name)
        if not isinstance(value, dict) or len(value) > most:
            raise FormatError(f"“{name}” must be up to {most} values by name.")
        return value

    def rows(self, name: str, most: int) -> list["Given"]:
        """A list of things with parameters of their own."""
        values = self.values.get(name)
        if not isinstance(values, list) or not 0 < len(values) <= most or not all(isinstance(v, dict) for v in values):
            raise FormatError(f"“{name}” must be a list of up to {most:,}.")
        return [replace(self, values=value) for value in values]
