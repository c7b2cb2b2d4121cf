"""The reading job: decode, spell, align, store."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import local_copy
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.actions import settle_take, store_reading
from tinfork.apps.sound.actions import drop_take, finish_take
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError
from tinfork.engines.apart import run_apart
from tinfork.engines.decode import decode, write_flac
from tinfork.engines.reader import lines_from_text, read_track

#: Each phase: its words, where it starts and how much of the whole it is.
_PHASES = {
    "open": ("Opening the sound", 0.0, 0.1),
    "spell": ("Looking up the words", 0.1, 0.05),
    "lay out": ("Laying the words along the sound", 0.15, 0.35),
    "align": ("Placing each sound", 0.5, 0.48),
    "store": ("Keeping the reading", 0.98, 0.02),
}


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Read the shot's take with its words."""

    def progress(phase: str, done: float) -> None:
        words, start, share = _PHASES[phase]
        report(words, start + share * done)

    shot = job.shot
    assert shot is not None
    take = Take.objects.filter(pk=job.options["take"]).first()
    if take is None:
        raise SoundError("The recording is gone. Choose it again.")
    lines = lines_from_text(job.options["words"], speaker=shot.character.name)
    progress("open", 0.0)
    with local_copy(take.original) as path, tempfile.TemporaryDirectory() as folder:
        sound = decode(path, take.name)
        if not take.is_ready:
            flac = Path(folder) / "listening.flac"
            write_flac(sound, flac)
            finish_take(take, sound, flac)
    settle_take(shot, take)
    result = run_apart(read_track, sound, lines, progress=progress)
    progress("store", 0.0)
    store_reading(shot=shot, take=take, result=result)


def undo(job: Job) -> None:
    """Drop a take that came with this job and that no shot took over; the words stay."""
    take = Take.objects.filter(pk=job.options["take"], shots__isnull=True).first()
    if take:
        drop_take(take)


def home(job: Job) -> str:
    """The shot's page of words."""
    return reverse("shot", args=[job.shot_id])


def after(job: Job) -> str:
    """Its Desk."""
    return reverse("desk", args=[job.shot_id])
