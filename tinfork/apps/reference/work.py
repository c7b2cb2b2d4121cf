"""The jobs on reference films: opening one, and following the face in it."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.db import transaction
from django.urls import reverse

from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.common.upkeep import remove_now
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reference.actions import keep_face
from tinfork.apps.reference.models import Reference
from tinfork.core.errors import EngineError, SoundError
from tinfork.core.messages import Message
from tinfork.engines.film import open_film
from tinfork.engines.isolated import run_isolated
from tinfork.engines.limits import FILM_TIMEOUT_S, MAX_REFERENCE_S
from tinfork.engines.probing import film_info
from tinfork.engines.tracking.watching import watch

Report = Callable[[str, float], None]
_SLOW = EngineError("Following the face took too long and was stopped. Try a shorter film.")


def run(job: Job, report: Report) -> None:
    """Open the film, or follow the face in it."""
    reference = Reference.objects.filter(pk=job.options["reference"]).first()
    if reference is None:
        raise SoundError("The film was removed meanwhile.")
    if job.kind == Job.Kind.REFERENCE:
        _open(reference, report)
    else:
        _follow(reference, report)


def _open(reference: Reference, report: Report) -> None:
    with local_copy(reference.original) as path, tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        if (film_info(path, reference.name).duration_s or 0) > MAX_REFERENCE_S:
            raise SoundError(
                "“{name}” is longer than {max_reference_s} minutes. Trim it to the shot.",
                name=reference.name,
                max_reference_s=MAX_REFERENCE_S // 60,
            )
        target = Path(folder) / "reference.webm"
        opened = open_film(
            path, target, reference.name, lambda done: report(Message("Copying the picture"), done), MAX_REFERENCE_S
        )
        with transaction.atomic():
            # It may have been deleted or replaced meanwhile: then nothing is stored.
            still = Reference.objects.select_for_update().filter(pk=reference.pk).first()
            if still is None:
                raise SoundError("The film was removed meanwhile.")
            original = str(still.original.name)
            still.film.name, still.duration_us, still.original.name = keep_file(target, ".webm"), opened.duration_us, ""
            still.save()
            # It shows somebody's face: keep nothing that is not needed.
            transaction.on_commit(lambda: remove_now([original]))


def _follow(reference: Reference, report: Report) -> None:
    with local_copy(reference.film) as path:
        track, notes = run_isolated(
            watch, path, reference.name, progress=report, limit_s=FILM_TIMEOUT_S, too_much=_SLOW
        )
    with transaction.atomic():
        still = Reference.objects.select_for_update().filter(pk=reference.pk).first()
        if still is None:
            raise SoundError("The film was removed meanwhile.")
        keep_face(still, track, notes)


def undo(job: Job, ending: Ending) -> None:
    """Delete an invalid file at once; if our side failed, keep it, to be opened again."""
    if job.kind == Job.Kind.REFERENCE and ending is not Ending.BROKE:
        for reference in Reference.objects.filter(pk=job.options["reference"], film=""):
            keys = reference.keys
            reference.delete()
            remove_now(keys)


def home(job: Job) -> str:
    """The shot's Desk."""
    return reverse("desk", args=[job.shot_id])


after = home
