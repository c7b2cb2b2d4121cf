"""The job that sets an uploaded picture as a shot's background."""

from collections.abc import Callable

from django.db import transaction
from django.urls import reverse

from tinfork.apps.common.storage import keep_bytes, local_copy_of
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reading.actions.layout import hang_background
from tinfork.core.messages import Message
from tinfork.engines.characters import open_face
from tinfork.engines.drawings import picture_apart


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Open the uploaded picture, and set it as background."""
    shot = job.shot
    assert shot is not None
    file = job.options["files"][0]
    with local_copy_of(file["key"]) as path:
        data, suffix, _ = picture_apart(
            open_face,
            path,
            file["name"],
            progress=lambda _, done: report(Message("Opening the background"), 0.5),
            name=file["name"],
            reports=False,
        )
    with transaction.atomic():
        hang_background(shot=shot, key=keep_bytes(data, suffix), by=job.by)


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The shot's Desk."""
    return reverse("desk", args=[job.shot_id])


after = home
