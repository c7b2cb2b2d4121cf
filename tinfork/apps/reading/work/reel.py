"""The job that opens a story reel: a small copy for stepping, and its sound as a take."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reading.actions.placing import show_reel
from tinfork.apps.reading.work.opening import open_take
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.engines.film import open_film


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Convert the picture, open the sound, delete the original."""
    reel = Reel.objects.filter(pk=job.options["reel"]).first()
    if reel is None:
        raise SoundError("The story reel is missing. Import it again.")
    with local_copy(reel.original) as path, tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        film = Path(folder) / "reel.webm"
        opened = open_film(path, film, reel.name, lambda done: report(Message("Copying the picture"), 0.7 * done))
        if opened.has_sound and reel.take is None:
            reel.take = Take.objects.create(
                production=reel.production, name=f"{reel.name}, sound"[:200], source=Take.Source.REEL
            )
            try:
                open_take(reel.take, path, lambda done: report(Message("Opening the sound"), 0.7 + 0.25 * done))
            except SoundError as error:
                reel.take.delete()
                reel.take, reel.note = None, error.message
        elif not opened.has_sound:
            reel.note = Message("There is no sound in this film.")
        reel.duration_us, reel.width, reel.height = opened.duration_us, opened.width, opened.height
        reel.film.name = keep_file(film, ".webm")
    reel.original.name, reel.trouble = "", ""
    reel.save()
    show_reel(reel=reel, options=job.options)


def undo(job: Job, ending: Ending) -> None:
    """Delete an invalid file; if our side failed, keep it with an error message."""
    reels = Reel.objects.filter(pk=job.options["reel"], film="")
    if ending is Ending.BROKE:
        reels.update(trouble=job.error)
    else:
        reels.delete()


def home(job: Job) -> str:
    """The page of the upload: the library, or a shot."""
    if job.options.get("shot"):
        return reverse("shot_sound", args=[job.options["shot"]])
    return reverse("takes", args=[job.production_id])


after = home
