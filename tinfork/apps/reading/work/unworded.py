"""Reading a shot whose words nobody has: a draft of them, by ear, or a flap."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.ways import Way
from tinfork.apps.reading.work.follow import time_limit_s
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.soundtrack.assembly import Region
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.unworded import BY_EAR, FLAP
from tinfork.engines.apart import run_apart
from tinfork.engines.unworded import EXPECT_BY_EAR, DraftLine, doubts_of_draft, draft_of, read_unworded

Report = Callable[[str, float], None]

_DRAFTED = "This is a draft: put the words right, then read. Names before the lines say who speaks."


def write_draft(job: Job, shot: Shot, regions: Sequence[Region], report: Report) -> None:
    """What seems to be said becomes the shot's words, behind those it has already."""
    with row_of(regions, report) as voice:
        found: list[DraftLine] = run_apart(
            draft_of,
            voice,
            progress=lambda _, done: report("Listening for words", 0.05 + 0.9 * done),
            limit_s=time_limit_s(voice),
        )
    lines = [line.text[0].upper() + line.text[1:] for line in found]
    words = "\n".join([shot.words.strip(), *lines]).strip()
    Shot.objects.filter(pk=shot.pk).update(words=words)
    job.notes = [_DRAFTED, *doubts_of_draft(found)]


def read_without_words(
    shot: Shot, regions: Sequence[Region], way: Way, report: Report
) -> tuple[Reading, tuple[str, ...]]:
    """The reading by ear or of a flap, all of it said by the shot's first character, and what goes with it."""
    kind = FLAP if way == Way.FLAP else BY_EAR
    with row_of(regions, report) as voice:
        reading = run_apart(
            read_unworded,
            voice,
            kind,
            shot.language,
            progress=lambda _, done: report("Listening to the sounds", 0.05 + 0.9 * done),
            limit_s=time_limit_s(voice),
        )
    speaker = str(shot.character.pk)
    lines = tuple(replace(line, speaker=speaker) for line in reading.lines)
    return replace(reading, lines=lines), (EXPECT_BY_EAR,) if way == Way.EAR else ()
