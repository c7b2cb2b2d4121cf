"""The picture sequence job."""

import re
import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.solving import drawings_of, solve_shot
from tinfork.core.mouths.placement import lay
from tinfork.engines.decode import decode
from tinfork.engines.drawings import picture_of
from tinfork.engines.pictures import mouth_picture, write_sequence


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """A ZIP with a transparent picture per frame and the sound cut to match."""
    shot = job.shot
    assert shot is not None and shot.take is not None
    production, take = shot.production, shot.take
    size = (production.width, production.height)
    holds = solve_shot(shot, shot.reading.content)
    used = {(hold.set, hold.drawing) for hold in holds}
    drawings = drawings_of(shot, used)
    pictures: dict[tuple[str, int], bytes] = {}
    for at, (key, drawing) in enumerate(drawings.items()):
        report("Drawing the mouths", 0.5 * at / len(drawings))
        laid = lay(drawing.chart.part.placement, drawing.registration, size)
        with drawing.picture.open("rb") as file:
            pixels = picture_of(file.read(), drawing.suffix, drawing.name, width=max(1, round(laid.width)))
        pictures[key] = mouth_picture(pixels, laid, size)
    with local_copy(take.listening) as flac, tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "pictures.zip"
        write_sequence(
            target,
            name=re.sub(r"[^\w-]+", "_", shot.name).strip("_") or "shot",
            holds=holds,
            pictures=pictures,
            sound=decode(flac, take.name),
            rate=production.rate,
            first_frame=shot.first_frame,
            progress=lambda done: report("Laying out the frames", 0.5 + 0.5 * done),
        )
        job.result.name = keep_file(target, ".zip")
    _forget_older(job)


def _forget_older(job: Job) -> None:
    """A shot keeps one picture sequence: the newest."""
    for older in Job.objects.filter(shot=job.shot, kind=job.kind).exclude(pk=job.pk).exclude(result=""):
        if older.result.name != job.result.name:
            older.result.delete(save=False)
        Job.objects.filter(pk=older.pk).update(result="")


def undo(job: Job) -> None:
    """Nothing is kept before the last step."""


def home(job: Job) -> str:
    """The shot's hand-over page."""
    return reverse("handover", args=[job.shot_id])


after = home
