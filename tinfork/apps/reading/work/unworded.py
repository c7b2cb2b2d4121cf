"""Reading a shot without words: by ear, or as a flap."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.methods import ReadingMethod
from tinfork.apps.reading.work.follow import time_limit_s
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.messages import Message
from tinfork.core.soundtrack.assembly import Region
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.unworded import BY_EAR, FLAP
from tinfork.engines.isolated import run_isolated
from tinfork.engines.unworded import EXPECT_BY_EAR, read_unworded

Report = Callable[[str, float], None]


def read_without_words(
    shot: Shot, regions: Sequence[Region], way: ReadingMethod, report: Report
) -> tuple[Reading, tuple[str, ...]]:
    """The reading by ear or as a flap, all by the shot's first character, with warnings."""
    kind = FLAP if way == ReadingMethod.FLAP else BY_EAR
    with row_of(regions, report) as voice:
        reading = run_isolated(
            read_unworded,
            voice,
            kind,
            shot.language,
            progress=lambda _, done: report(Message("Listening to the sounds"), 0.05 + 0.9 * done),
            limit_s=time_limit_s(voice),
        )
    speaker = str(shot.character.pk)
    lines = tuple(replace(line, speaker=speaker) for line in reading.lines)
    return replace(reading, lines=lines), (EXPECT_BY_EAR,) if way == ReadingMethod.EAR else ()
