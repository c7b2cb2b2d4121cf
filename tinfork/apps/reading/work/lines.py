"""The job that finds the lines of a script in a take with many lines."""

from collections.abc import Callable

from django.urls import reverse

from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.casting import texts_for
from tinfork.apps.reading.work.follow import PartiallyRead, read_plan
from tinfork.apps.reading.work.opening import take_of
from tinfork.apps.reading.work.voice import row_of, whole_take
from tinfork.apps.sound.actions import set_reading
from tinfork.core.errors import Cancelled
from tinfork.core.messages import Message
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.rereading import plan_rereading


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Align the script with the take; lines that are not said are left out."""
    take = take_of(job)
    production = job.production
    assert production is not None
    report(Message("Opening the sound"), 0.0)
    texts = texts_for(production, take.speaker, job.options["words"])
    old = take.content or Reading(take.duration_us)
    plan = plan_rereading(old, [(t.speaker, t.text, t.language) for t in texts])
    try:
        with row_of(whole_take(take), report) as voice:
            reading, warnings = read_plan(
                voice, texts, old, plan, report, may_skip=True, lexicon=lexicon_of(production)
            )
    except PartiallyRead as partly:
        set_reading(take, partly.reading, job.options["words"])
        job.kept = Message(
            "{done} of {total} lines were found before that and are kept.", done=partly.done, total=partly.total
        )
        raise Cancelled(str(partly)) from partly
    job.notes = list(warnings)
    set_reading(take, reading, job.options["words"])


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The take's page."""
    return reverse("take", args=[job.options["take"]])


after = home
