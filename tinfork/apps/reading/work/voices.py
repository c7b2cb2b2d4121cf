"""The job that proposes who speaks when, by the sound of the voices."""

from collections.abc import Callable

from django.urls import reverse

from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reading.actions.speakers import keep_proposal
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.core.soundtrack.assembly import assemble
from tinfork.engines.hearing import EVERYBODY, tell_voices_apart
from tinfork.engines.isolated import run_isolated


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Cluster the shot's voices and store the proposal."""
    shot = job.shot
    assert shot is not None
    report(Message("Opening the sound"), 0.0)
    regions = assemble(soundtrack_of(shot).content)
    if not regions:
        raise SoundError("The shot has no voice to listen to. Import a recording first.")
    with row_of(regions, report) as voice:
        spans, heard = run_isolated(tell_voices_apart, voice, job.options.get("count"), progress=report)
    if not spans:
        raise SoundError("No speech was found in this shot's sound.")
    heard.pop(EVERYBODY, None)
    keep_proposal(shot=shot, regions=regions, spans=spans, voices=heard)


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The shot's sound."""
    return reverse("shot_sound", args=[job.shot_id])


after = home
