"""Queries of jobs."""

from datetime import timedelta

from django.conf import settings
from django.db.models import QuerySet
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Shot


def open_job(shot: Shot, kind: Job.Kind) -> Job | None:
    """The open job of a kind for a shot; there is at most one."""
    return Job.objects.filter(shot=shot, kind=kind, state__in=Job.OPEN).first()


def chart_jobs(chart: int) -> QuerySet[Job]:
    """The jobs on a chart, newest first."""
    return Job.objects.filter(character__parts__charts=chart, options__chart=chart)


def is_lost(job: Job) -> bool:
    """Whether an open job is not in the queue any more: its end could not be stored."""
    if not job.is_open:
        return False
    return not ProcrastinateJob.objects.filter(args__job_id=str(job.pk), status__in=("todo", "doing")).exists()


def is_anyone_working() -> bool:
    """Whether a worker sent a heartbeat recently."""
    since = timezone.now() - timedelta(seconds=settings.STALLED_AFTER_S)
    return ProcrastinateWorker.objects.filter(last_heartbeat__gte=since).exists()
