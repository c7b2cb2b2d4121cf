"""The job that assigns a long script to shots."""

from collections.abc import Callable

from django.urls import reverse

from tinfork.apps.jobs.actions import stop_if_asked
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.casting import people_of
from tinfork.apps.script.actions import lay_script
from tinfork.core.messages import Message
from tinfork.engines.scripts import read_script_apart


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Import the script in one transaction."""
    production = job.production
    assert production is not None
    given = job.options
    people = people_of(production.studio)
    report(Message("Adding the lines"), 0.1)
    lines, _ = read_script_apart(given["words"].encode(), "script.txt", people)
    shots = lay_script(
        production=production,
        lines=lines,
        names=given["names"],
        shot=Shot.objects.filter(pk=given["shot"] or 0, production=production).first(),
        new_name=given["new_name"],
        beat=lambda: stop_if_asked(job),
    )
    job.notes = [Message("{count} lines were imported into {count2} shots.", count=len(lines), count2=len(shots))]


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The page of the script."""
    return reverse("script", args=[job.production_id])


def after(job: Job) -> str:
    """The shots."""
    return reverse("production", args=[job.production_id])
