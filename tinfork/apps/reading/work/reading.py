"""The reading job of a shot: its script along its voices, only what changed, and back into its soundtrack."""

from collections.abc import Callable

from django.db import transaction
from django.urls import reverse

from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.actions.soundtracks import keep, locked
from tinfork.apps.reading.casting import texts_of
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.work.follow import Partly, read_plan
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.errors import Cancelled, SoundError
from tinfork.core.soundtrack.assembly import Region, assemble, gather, spread
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.rereading import plan_rereading, whole_plan


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Read the shot's voices with its script; lines that stayed the same stay as they were read."""
    shot = job.shot
    assert shot is not None
    report("Opening the sound", 0.0)
    st = soundtrack_of(shot).content
    regions = assemble(st)
    if not regions:
        raise SoundError("The shot has no voice to read. Bring the recording of it first.")
    texts = texts_of(shot, job.options["words"])
    old = gather(st, regions)
    keys = [(text.speaker, text.text, text.language) for text in texts]
    plan = whole_plan(old, keys) if job.options.get("all") else plan_rereading(old, keys)
    try:
        with row_of(regions) as voice:
            reading, warnings = read_plan(voice, texts, old, plan, report)
    except Partly as partly:
        store_reading(job, regions, partly.reading, ())
        job.kept = f"{partly.done} of {partly.total} lines were read by then, and are kept."
        raise Cancelled(str(partly)) from partly
    report("Keeping the reading", 0.98)
    store_reading(job, regions, reading, warnings)


@transaction.atomic
def store_reading(job: Job, regions: tuple[Region, ...], reading: Reading, warnings: tuple[str, ...]) -> Soundtrack:
    """Give what was read to the soundtrack as it is now: clips may have been moved meanwhile."""
    assert job.shot is not None
    row = locked(job.shot)
    st = row.content
    there = {v.id: v.take for v in st.voices}
    known = tuple(r for r in regions if there.get(r.voice) == r.take)
    row.warnings = list(warnings)
    row.save()
    after = spread(st, known, reading)
    keep(row, after, name="read", by=job.by, parameters={"words": job.options["words"]})
    return row


def undo(job: Job) -> None:
    """Nothing is kept before the last step but what `run` kept itself."""


def home(job: Job) -> str:
    """The shot's page of words."""
    return reverse("shot", args=[job.shot_id])


def after(job: Job) -> str:
    """Its Desk."""
    return reverse("desk", args=[job.shot_id])
