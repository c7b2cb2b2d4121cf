"""Queries of productions."""

from dataclasses import dataclass
from datetime import timedelta

from django.utils import timezone

from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.planning import status_names
from tinfork.apps.reading.looks import count_left
from tinfork.core.messages import Message


@dataclass(frozen=True, slots=True)
class ShotRow:
    """A row of the shot list; `job` is the running reading, `trouble` why the last one failed."""

    shot: Shot
    frames: int | None
    state: str
    looks_left: int
    status: str
    job: Job | None = None
    trouble: str = ""


def shot_rows(production: Production) -> list[ShotRow]:
    """The shots with their length, progress, and number of second looks."""
    # The jobs first: if one ended after its shot was read, the list would show neither its result nor its progress.
    newest = Job.objects.filter(shot__production=production).order_by("shot_id", "-created_at").distinct("shot_id")
    jobs = {job.shot_id: job for job in newest}
    shots = production.shots.select_related("soundtrack", "doer").prefetch_related("parts__character")
    lists_need_not = [f"soundtrack__{name}" for name in ("timeline", "annotations", "proposal")]
    names = status_names(production.studio)
    return [_row(shot, production, names[shot.status], jobs.get(shot.pk)) for shot in shots.defer(*lists_need_not)]


def _row(shot: Shot, production: Production, status: str, latest: Job | None) -> ShotRow:
    soundtrack = getattr(shot, "soundtrack", None)
    has_sound = soundtrack is not None and soundtrack.duration_us > 0
    frames = production.rate.frames_in(soundtrack.duration_us) if soundtrack and has_sound else None
    job, trouble = None, ""
    if latest and latest.is_open:
        state, job = Message("reading"), latest
    elif soundtrack and soundtrack.is_read:
        state = Message("read")
    elif latest and latest.state == latest.State.FAILED:
        state, trouble = Message("failed"), latest.error
    elif has_sound:
        state = Message("needs reading")
    else:
        state = Message("needs sound")
    return ShotRow(shot, frames, state, count_left(shot) if state == "read" else 0, status, job, trouble)


def recordings_not_opened(production: Production) -> list[Job]:
    """Files uploaded for shots within the last hour that could not be read as recordings."""
    since = timezone.now() - timedelta(hours=1)
    failed = production.jobs.filter(kind=Job.Kind.TAKE, state=Job.State.FAILED, can_retry=False, ended_at__gte=since)
    return list(failed.filter(options__has_key="shot")[:12])
