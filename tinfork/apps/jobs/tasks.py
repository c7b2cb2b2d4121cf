"""What the worker runs. Safe to run twice: nothing is stored before a job's last step."""

import logging
from collections.abc import Callable
from importlib import import_module
from typing import Protocol, cast

from django.conf import settings
from django.db import close_old_connections
from procrastinate import JobContext
from procrastinate.contrib.django import app

from tinfork.apps.jobs.actions import begin, end, reporter
from tinfork.apps.jobs.models import Job
from tinfork.core.errors import Cancelled, TinForkError

log = logging.getLogger("tinfork.jobs")


class Work(Protocol):
    """What the module of a kind of job has."""

    def run(self, job: Job, report: Callable[[str, float], None]) -> None:
        """Do it."""

    def undo(self, job: Job) -> None:
        """Take back what a job that did not succeed had begun."""

    def home(self, job: Job) -> str:
        """The address of the page that follows the job."""

    def after(self, job: Job) -> str:
        """The address to go on with once it is done."""


_CAST = "tinfork.apps.cast.work"
_SOUND = "tinfork.apps.reading.work"
_WORK = {
    Job.Kind.READ: f"{_SOUND}.reading",
    Job.Kind.PICTURES: "tinfork.apps.handover.work",
    Job.Kind.DRAWINGS: _CAST,
    Job.Kind.PAGE: _CAST,
    Job.Kind.CUT: _CAST,
    Job.Kind.MEND: _CAST,
    Job.Kind.MEASURE: _CAST,
    Job.Kind.IMPORT: _CAST,
    Job.Kind.TAKE: f"{_SOUND}.opening",
    Job.Kind.SPEAK: f"{_SOUND}.speaking",
    Job.Kind.LINES: f"{_SOUND}.lines",
    Job.Kind.REPLACE: f"{_SOUND}.replacing",
    Job.Kind.VOICES: f"{_SOUND}.voices",
    Job.Kind.REEL: f"{_SOUND}.reel",
}


def work_of(job: Job) -> Work:
    """The module that does a job."""
    return cast(Work, import_module(_WORK[Job.Kind(job.kind)]))


@app.task(queue="work")
def run_job(job_id: str) -> None:
    """Take a job off the queue; a connection that died since the last one is opened anew."""
    close_old_connections()
    do_job(job_id)


def do_job(job_id: str) -> None:
    """Do a job, and write down how it ended: never a spinner without an end."""
    job = begin(job_id)
    if job is None:
        return
    if not job.is_open:
        work_of(job).undo(job)
        return
    try:
        work_of(job).run(job, reporter(job))
    except Cancelled:
        work_of(job).undo(job)
        end(job, Job.State.CANCELLED, job.kept)
    except TinForkError as error:
        work_of(job).undo(job)
        end(job, Job.State.FAILED, str(error))
    except Exception:
        log.exception("job %s failed", job_id)
        work_of(job).undo(job)
        end(job, Job.State.FAILED, "Something broke on our side while doing this. Nothing was changed; try again.")
    else:
        end(job, Job.State.DONE)


@app.periodic(cron="* * * * * */10")
@app.task(queue="upkeep", queueing_lock="retry_stalled", pass_context=True)
async def retry_stalled(context: JobContext, timestamp: int) -> None:
    """Put back on the queue what a worker that was killed had in hand."""
    manager = context.app.job_manager
    for stalled in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.STALLED_AFTER_S):
        await manager.retry_job(stalled)
