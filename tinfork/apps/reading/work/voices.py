"""The job that proposes who speaks when, by the sound of the voices alone."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from django.urls import reverse

from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.actions.speakers import keep_proposal
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.errors import SoundError
from tinfork.core.sound.speakers import Voiced, propose_speakers
from tinfork.core.soundtrack.assembly import assemble
from tinfork.engines.apart import run_apart
from tinfork.engines.limits import READING_HZ


def listen(voice: Path, count: int | None, report: Callable[[str, float], None]) -> list[Voiced]:
    """In a process of its own: the stretches of each voice."""
    report("Telling the voices apart", 0.2)
    return propose_speakers(np.load(voice), READING_HZ, count)


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Cluster the shot's voices and keep the proposal."""
    shot = job.shot
    assert shot is not None
    report("Opening the sound", 0.0)
    regions = assemble(soundtrack_of(shot).content)
    if not regions:
        raise SoundError("The shot has no voice to listen to. Bring the recording of it first.")
    with row_of(regions) as voice:
        spans = run_apart(listen, voice, job.options.get("count"), progress=report)
    if not spans:
        raise SoundError("There is no speech to be heard in this shot's sound.")
    keep_proposal(shot=shot, regions=regions, spans=spans)


def undo(job: Job) -> None:
    """Nothing is kept before the last step."""


def home(job: Job) -> str:
    """The shot's sound."""
    return reverse("shot_sound", args=[job.shot_id])


after = home
