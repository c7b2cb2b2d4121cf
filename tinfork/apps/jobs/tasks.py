"""Tasks of the worker. They are safe to repeat: nothing is stored before a job's last step."""

import errno
import logging
from collections.abc import Callable
from importlib import import_module
from typing import Protocol, cast

from django.conf import settings
from django.db import close_old_connections
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from tinfork.apps.common.logs import logged_about
from tinfork.apps.common.upkeep import check_files, sweep, sweep_temporary
from tinfork.apps.jobs.actions import begin, close_lost, end, reporter
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.archive import delete_old
from tinfork.core.errors import Cancelled, EngineError, TinForkError
from tinfork.core.messages import Message

log = logging.getLogger("tinfork.jobs")


class Work(Protocol):
    """The interface of a module for one kind of job."""

    def run(self, job: Job, report: Callable[[str, float], None]) -> None:
        """Run the job."""

    def undo(self, job: Job, ending: Ending) -> None:
        """Clean up after a job that did not succeed. If our side failed, uploads are kept."""

    def home(self, job: Job) -> str:
        """The URL of the page that shows the job."""

    def after(self, job: Job) -> str:
        """The URL of the page to open when it is done."""


_CAST = "tinfork.apps.cast.work"
_SOUND = "tinfork.apps.reading.work"
_WORK = {
    Job.Kind.READ: f"{_SOUND}.reading",
    Job.Kind.EXPORT: "tinfork.apps.handover.work",
    Job.Kind.PACK: "tinfork.apps.handover.packwork",
    Job.Kind.UNPACK: "tinfork.apps.handover.packwork",
    Job.Kind.BACKGROUND: f"{_SOUND}.background",
    Job.Kind.DRAWINGS: _CAST,
    Job.Kind.PAGE: _CAST,
    Job.Kind.CUT: _CAST,
    Job.Kind.MEND: _CAST,
    Job.Kind.MEASURE: _CAST,
    Job.Kind.IMPORT: _CAST,
    Job.Kind.SET: _CAST,
    Job.Kind.FACE: _CAST,
    Job.Kind.TAKE: f"{_SOUND}.opening",
    Job.Kind.SPEAK: f"{_SOUND}.speaking",
    Job.Kind.LINES: f"{_SOUND}.lines",
    Job.Kind.FIND: f"{_SOUND}.finding",
    Job.Kind.REPLACE: f"{_SOUND}.replacing",
    Job.Kind.VOICES: f"{_SOUND}.voices",
    Job.Kind.REEL: f"{_SOUND}.reel",
    Job.Kind.SCRIPT: "tinfork.apps.script.work",
    Job.Kind.REFERENCE: "tinfork.apps.reference.work",
    Job.Kind.FACES: "tinfork.apps.reference.work",
    Job.Kind.REVIEW: "tinfork.apps.review.work",
    Job.Kind.COMPARE: "tinfork.apps.review.comparing",
}


def work_of(job: Job) -> Work:
    """The module of a job's kind."""
    return cast(Work, import_module(_WORK[Job.Kind(job.kind)]))


#: While the database is unavailable, the task is retried for some minutes.
_AGAIN = RetryStrategy(max_attempts=20, wait=3, linear_wait=3)


@app.task(queue="work", retry=_AGAIN)
def run_job(job_id: str) -> None:
    """Run a job from the queue; dead database connections are reopened."""
    close_old_connections()
    do_job(job_id)


def do_job(job_id: str) -> None:
    """Run a job, and store its end in all cases, so that no progress bar runs for ever."""
    job = begin(job_id)
    if job is None:
        return
    with logged_about(job=str(job.pk), kind=job.kind, user=job.by_id, shot=job.shot_id):
        _do(job)


def _do(job: Job) -> None:
    if not job.is_open:
        work_of(job).undo(job, Ending.BROKE)
        return
    try:
        work_of(job).run(job, reporter(job))
    except Cancelled:
        work_of(job).undo(job, Ending.CANCELLED)
        end(job, Job.State.CANCELLED, job.kept)
    except EngineError as error:
        log.error("failed", exc_info=error)
        _broke(job, error.message)
    except TinForkError as error:
        log.warning("refused: %s", error)
        work_of(job).undo(job, Ending.REFUSED)
        end(job, Job.State.FAILED, error.message)
    except Exception as error:
        log.exception("failed")
        _broke(job, what_broke(error))
    else:
        end(job, Job.State.DONE)


def _broke(job: Job, words: str) -> None:
    job.error = words
    work_of(job).undo(job, Ending.BROKE)
    end(job, Job.State.FAILED, words, can_retry=True)


def what_broke(error: BaseException) -> str:
    """The message about a failure on our side."""
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return Message("The disk is full. Your files are kept: free some space, then try again.")
    if isinstance(error, MemoryError):
        return Message("There was not enough memory. Your files are kept: try again, or try a smaller part.")
    return Message("Something went wrong on our side. Your files are kept; try again.")


@app.periodic(cron="* * * * * */10")
@app.task(queue="upkeep", queueing_lock="retry_stalled", pass_context=True)
async def retry_stalled(context: JobContext, timestamp: int) -> None:
    """Requeue the jobs of killed workers."""
    manager = context.app.job_manager
    for stalled in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.STALLED_AFTER_S):
        await manager.retry_job(stalled)


@app.periodic(cron="* * * * * */20")
@app.task(queue="upkeep", queueing_lock="close_lost_jobs")
def close_lost_jobs(timestamp: int) -> None:
    """End jobs whose end could not be stored, or that are not in the queue any more."""
    close_old_connections()
    close_lost()


@app.periodic(cron="*/10 * * * *")
@app.task(queue="upkeep", queueing_lock="sweep_files")
def sweep_files(timestamp: int) -> None:
    """Remove unreferenced stored files, and temporary files of killed processes."""
    close_old_connections()
    files, left = sweep(), sweep_temporary()
    if files or left:
        log.info("swept %s stored files and %s temporary ones", files, left)


@app.periodic(cron="0 4 * * *")
@app.task(queue="upkeep", queueing_lock="delete_old")
def delete_archived(timestamp: int) -> None:
    """Delete shots and productions that were archived more than 30 days ago."""
    close_old_connections()
    if gone := delete_old():
        log.info("removed %s archived shots and productions", gone)


@app.periodic(cron="30 3 * * *")
@app.task(queue="upkeep", queueing_lock="look_for_damage")
def look_for_damage(timestamp: int) -> None:
    """Verify every stored file once a night, and log damaged ones, as `./run check-files` lists them."""
    close_old_connections()
    for damage in check_files():
        log.error("stored file %s", damage)
