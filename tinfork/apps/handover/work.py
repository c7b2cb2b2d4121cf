"""The picture sequence job."""

import re
import tempfile
from collections.abc import Callable
from pathlib import Path

from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.solving import solve_shot
from tinfork.engines.decode import decode
from tinfork.engines.pictures import mouth_picture, write_sequence


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """A ZIP with a transparent picture per frame and the sound cut to match."""
    shot = job.shot
    production, character, take = shot.production, shot.character, shot.take
    assert take is not None
    size = (production.width, production.height)
    holds = solve_shot(shot, shot.reading.content)
    used = {hold.drawing for hold in holds}
    drawings = [d for d in character.drawings.all() if d.number in used]
    pictures: dict[int, bytes] = {}
    for at, drawing in enumerate(drawings):
        report("Drawing the mouths", 0.5 * at / len(drawings))
        with drawing.picture.open("rb") as file:
            pictures[drawing.number] = mouth_picture(file.read().decode(), character.placement, size)
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
