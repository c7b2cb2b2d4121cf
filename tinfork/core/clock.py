"""The one clock: integer microseconds, integer frames, exact rates.

Conventions: a time is an `int` number of microseconds from the start of the
sound; a frame index is an `int` from 0; frame f covers `[first_us(f), first_us(f + 1))`.
`FrameRate.frame_at` floors and `first_us` takes the ceiling, so that
`frame_at(first_us(f)) == f` for every rate. Timecode follows SMPTE ST 12-1,
drop-frame included; feet and frames are 35 mm, 16 frames a foot.
`static/js/lib/clock.js` repeats `frame_at`, `first_us` and `timecode`; both are
tested on `tests/golden/clock.json`.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import TimingError

US_PER_S = 1_000_000
FRAMES_PER_FOOT = 16

#: The rates a production may have, by the name people use: exact values.
STANDARD_RATES: dict[str, Fraction] = {
    "12": Fraction(12),
    "23.976": Fraction(24000, 1001),
    "24": Fraction(24),
    "25": Fraction(25),
    "29.97": Fraction(30000, 1001),
    "30": Fraction(30),
    "48": Fraction(48),
    "50": Fraction(50),
    "59.94": Fraction(60000, 1001),
    "60": Fraction(60),
}


def us_from_seconds(seconds: float) -> int:
    """Round seconds to the nearest microsecond."""
    return round(seconds * US_PER_S)


def seconds_from_us(time_us: int) -> float:
    """Seconds of a time in microseconds; six decimals hold it exactly for over a century."""
    return round(time_us / US_PER_S, 6)


@dataclass(frozen=True, slots=True)
class FrameRate:
    """Frames per second as an exact fraction (Hz)."""

    value: Fraction

    def __post_init__(self) -> None:
        if not 1 <= self.value <= 240:
            raise TimingError("clock.rate_outside", value=self.value)

    @classmethod
    def parse(cls, text: str) -> "FrameRate":
        """Read "24", "23.976", "29.97" or "30000/1001".

        A decimal that names a standard rate is that rate exactly; any other
        decimal stands for itself.

        Raises
        ------
        TimingError
            For what is no frame rate.
        """
        text = text.strip()
        if text in STANDARD_RATES:
            return cls(STANDARD_RATES[text])
        if not re.fullmatch(r"\d{1,6}(\.\d{1,6}|/[1-9]\d{0,5})?", text):
            raise TimingError("clock.not_a_rate", text=text[:40])
        return cls(Fraction(text))

    @property
    def nominal(self) -> int:
        """The whole number of frames that timecode counts in a second (30 for 29.97)."""
        return -(-self.value.numerator // self.value.denominator)

    @property
    def label(self) -> str:
        """The name people use for it."""
        for name, value in STANDARD_RATES.items():
            if value == self.value:
                return name
        return str(self)

    @property
    def can_drop(self) -> bool:
        """Whether drop-frame timecode is defined: 29.97 and 59.94 only."""
        return self.value in (Fraction(30000, 1001), Fraction(60000, 1001))

    def __str__(self) -> str:
        return f"{self.value.numerator}/{self.value.denominator}"

    def frame_at(self, time_us: int) -> int:
        """The frame that covers a time in microseconds."""
        return (time_us * self.value.numerator) // (US_PER_S * self.value.denominator)

    def frames_at(self, times_us: NDArray[np.int64]) -> NDArray[np.int64]:
        """`frame_at` of many times."""
        frames: NDArray[np.int64] = (times_us * self.value.numerator) // (US_PER_S * self.value.denominator)
        return frames

    def first_us(self, frame: int) -> int:
        """The first whole microsecond of a frame."""
        return -((-frame * US_PER_S * self.value.denominator) // self.value.numerator)

    def nearest_span(self, start_us: int, end_us: int) -> tuple[int, int]:
        """The frames `[first, end)` whose edges are nearest to two times; at least one frame.

        What starts and ends on whole frames still does after a move by whole frames, whatever the rounding of
        microseconds.
        """
        half = self.first_us(1) // 2
        first = self.frame_at(start_us + half)
        return first, max(first + 1, self.frame_at(end_us + half))

    def starts_us(self, frames: int) -> NDArray[np.int64]:
        """`first_us` of frames 0 to `frames`, both included, shape (frames + 1,)."""
        return self.starts_of(np.arange(frames + 1, dtype=np.int64))

    def starts_of(self, frames: NDArray[np.int64]) -> NDArray[np.int64]:
        """`first_us` of many frames."""
        starts: NDArray[np.int64] = -((-frames * (US_PER_S * self.value.denominator)) // self.value.numerator)
        return starts

    def frames_in(self, duration_us: int) -> int:
        """How many frames begin before `duration_us`; at least one for any sound."""
        return max(1, self.frame_at(duration_us - 1) + 1) if duration_us > 0 else 0


def timecode(frame: int, rate: FrameRate, *, drop: bool = False) -> str:
    """SMPTE timecode of a frame index counted from 00:00:00:00.

    Drop-frame leaves out the frame *numbers* 0 and 1 (0 to 3 at 59.94) of each minute but every tenth; it is written
    with a semicolon.

    Raises
    ------
    TimingError
        For a negative frame, or drop-frame at a rate that has none.
    """
    if frame < 0:
        raise TimingError("clock.negative_frame")
    if drop and not rate.can_drop:
        raise TimingError("clock.no_drop_frame", label=rate.label)
    fps = rate.nominal
    if drop:
        left_out = fps // 15
        per_minute = 60 * fps - left_out
        per_ten = 10 * 60 * fps - 9 * left_out
        tens, rest = divmod(frame, per_ten)
        frame += 9 * left_out * tens
        if rest >= 60 * fps:
            frame += left_out * (1 + (rest - 60 * fps) // per_minute)
    seconds, ff = divmod(frame, fps)
    minutes, ss = divmod(seconds, 60)
    hh, mm = divmod(minutes, 60)
    return f"{hh:02d}:{mm:02d}:{ss:02d}{';' if drop else ':'}{ff:02d}"


def feet_and_frames(frame: int) -> str:
    """35 mm footage of a frame index, as FEET+FRAMES."""
    feet, rest = divmod(frame, FRAMES_PER_FOOT)
    return f"{feet}+{rest:02d}"
