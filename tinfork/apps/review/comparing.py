"""Comparing two states of a shot: requests, and the job that makes the film."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.db import transaction
from django.urls import reverse

from tinfork.apps.common.storage import keep_file
from tinfork.apps.handover.scenes import scene_of, sound_of
from tinfork.apps.handover.work import rarely
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.versions import shot_as_of
from tinfork.apps.reading.models import Version
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import with_cast
from tinfork.apps.review.models import Comparison
from tinfork.core.errors import TimingError
from tinfork.core.messages import Message
from tinfork.engines.handover.comparing import write_comparison

#: The most comparisons of a shot that are kept.
_KEPT = 6


@transaction.atomic
def compare(*, shot: Shot, before: Version, after: Version | None, by: User) -> Comparison:
    """Compare a version with another, or with the current shot; an existing comparison is reused."""
    if not soundtrack_of(shot).is_read:
        raise TimingError("Read this shot first. There is nothing to compare yet.")
    revision = 0 if after else soundtrack_of(shot).revision
    found = shot.comparisons.filter(before=before, after=after, revision=revision).first()
    job = job_of(found) if found else None
    if found and (found.film or (job and job.is_open)):
        return found
    made = Comparison.objects.create(shot=shot, before=before, after=after, revision=revision)
    start_job(
        kind=Job.Kind.COMPARE,
        on=shot.production,
        by=by,
        options={"comparison": made.pk},
        lock=f"compare:{made.pk}",
        seconds=5 + soundtrack_of(shot).duration_us // 2_000_000,
    )
    older = shot.comparisons.values_list("pk", flat=True)[_KEPT:]
    Comparison.objects.filter(pk__in=list(older)).delete()
    return made


def job_of(comparison: Comparison) -> Job | None:
    """The job of its film."""
    return Job.objects.filter(kind=Job.Kind.COMPARE, options__comparison=comparison.pk).first()


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Make the film of a comparison."""
    one = Comparison.objects.select_related("shot__production", "before", "after").get(pk=job.options["comparison"])
    shot = with_cast(one.shot)
    then, now = shot_as_of(shot, one.before), shot_as_of(shot, one.after) if one.after else shot
    phase = Message("Laying both side by side")
    report(phase, 0.0)
    with (
        tempfile.TemporaryDirectory(prefix="tinfork-") as folder,
        sound_of(now, lambda: report(phase, 0.0)) as sound,
    ):
        path = Path(folder) / "film.mp4"
        progress = rarely(lambda done: report(phase, done))
        frames, differs = write_comparison(scene_of(then), scene_of(now, sound), path, progress)
        one.film.name, one.frames, one.differs = keep_file(path, ".mp4"), frames, differs
        one.save(update_fields=["film", "frames", "differs"])


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The comparison."""
    return reverse("comparison", args=[job.options["comparison"]])


after = home
