"""Starting, cancelling and ending jobs."""

import logging
from collections.abc import Callable, Mapping

from django.db import transaction
from django.urls import reverse
from django.utils import timezone

from tinfork.apps.cast.models import Character
from tinfork.apps.jobs.fairness import expected_s, priority_for, queue_for, sound_on
from tinfork.apps.jobs.models import AGAIN_WITHIN, Ending, Job
from tinfork.apps.jobs.queries import is_anyone_working, is_lost, open_job
from tinfork.apps.news.actions import tell
from tinfork.apps.news.models import News
from tinfork.apps.people.access import studio_of
from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.errors import Cancelled, TinForkError
from tinfork.core.messages import Message

log = logging.getLogger("tinfork.jobs")

#: A job has failed once its worker died this often.
MAX_ATTEMPTS = 2


def start_job(
    *,
    kind: Job.Kind,
    on: Shot | Character | Production | Studio,
    by: User | None,
    options: Mapping[str, object] | None = None,
    lock: str = "",
    seconds: int | None = None,
) -> Job:
    """Queue a job in the caller's transaction.

    Jobs with the same lock, by default that of the subject, run in order. `seconds`: the estimated time, if it does not
    follow from the options and the shot's sound. A shot has only one open job of a kind, which is returned instead of a
    second one; exports may be several. Jobs of a character or a production queue up.
    """
    from tinfork.apps.jobs.tasks import run_job

    with transaction.atomic():
        shot = on if isinstance(on, Shot) else None
        character = on if isinstance(on, Character) else None
        production = on if isinstance(on, Production) else None
        if shot:
            Shot.objects.select_for_update().get(pk=shot.pk)
            # Several exports of a shot may run at once; other kinds only once.
            waiting = None if kind == Job.Kind.EXPORT else open_job(shot, kind)
            if waiting and not close_if_lost(waiting):
                return waiting
        lock = lock or f"{type(on).__name__.lower()}:{on.pk}"
        if seconds is None:
            seconds = expected_s(kind, sound_on(on), options or {})
        priority = priority_for(by, lock)
        job = Job.objects.create(
            kind=kind,
            studio=on if isinstance(on, Studio) else studio_of(on),
            shot=shot,
            character=character,
            production=production,
            by=by,
            options=dict(options or {}),
            lock=lock,
            expected_s=seconds,
        )
        run_job.configure(lock=lock, priority=priority, queue=queue_for(seconds)).defer(job_id=str(job.pk))
        return job


@transaction.atomic
def do_again(job: Job, *, by: User) -> Job:
    """Repeat a job that failed on our side, with the same input; returns the new job."""
    job = Job.objects.select_for_update(of=("self",)).select_related("shot", "character", "production").get(pk=job.pk)
    if not job.can_retry or job.ended_at is None or timezone.now() - job.ended_at > AGAIN_WITHIN:
        raise TinForkError("This job cannot be repeated. Start it again from its page.")
    job.can_retry = False
    job.save(update_fields=["can_retry"])
    return start_job(
        kind=Job.Kind(job.kind), on=job.subject, by=by, options=job.options, lock=job.lock, seconds=job.expected_s
    )


def ask_to_cancel(job: Job) -> None:
    """Cancel a job: a waiting or lost one ends at once, a running one at its next report of progress."""
    with transaction.atomic():
        job = Job.objects.select_for_update().get(pk=job.pk)
        is_nobodys = job.state == Job.State.RUNNING and (not is_anyone_working() or is_lost(job))
        if job.state == Job.State.WAITING or is_nobodys:
            job.state, job.ended_at = Job.State.CANCELLED, timezone.now()
        job.cancel_asked = True
        job.save()
    if job.state == Job.State.CANCELLED:
        from tinfork.apps.jobs.tasks import work_of

        work_of(job).undo(job, Ending.CANCELLED)


def close_if_lost(job: Job) -> bool:
    """End a lost job, so that it can be repeated; returns whether it was lost."""
    with transaction.atomic():
        job = Job.objects.select_for_update(of=("self",)).get(pk=job.pk)
        if not is_lost(job):
            return False
        job.state, job.ended_at, job.can_retry = Job.State.FAILED, timezone.now(), True
        job.error = Message("This job was interrupted. Your files are kept; try again.")
        job.save()
    from tinfork.apps.jobs.tasks import work_of

    work_of(job).undo(job, Ending.BROKE)
    return True


def close_lost() -> None:
    """End all lost jobs; a failure with one does not affect the others."""
    for job in Job.objects.filter(state__in=Job.OPEN):
        try:
            if close_if_lost(job):
                log.warning("job %s was lost, and is closed", job.pk)
        except Exception:
            log.exception("job %s cannot be closed", job.pk)


def begin(job_id: str) -> Job | None:
    """Start an attempt at a job; None if it has ended, was cancelled, or was tried too often."""
    with transaction.atomic():
        job = (
            Job.objects.select_for_update(of=("self",))
            .select_related("shot__production", "character", "production")
            .filter(pk=job_id)
            .first()
        )
        if job is None or not job.is_open:
            return None
        job.attempts += 1
        job.state, job.started_at, job.percent = Job.State.RUNNING, timezone.now(), 0
        if job.attempts > MAX_ATTEMPTS:
            job.state, job.ended_at, job.can_retry = Job.State.FAILED, timezone.now(), True
            job.error = Message(
                "The program stopped {max_attempts} times during this job. "
                "Your files are kept. Try again, or try a shorter part.",
                max_attempts=MAX_ATTEMPTS,
            )
        job.save()
        return job


def end(job: Job, state: Job.State, error: str = "", *, can_retry: bool = False) -> None:
    """Store the end of a job."""
    Job.objects.filter(pk=job.pk).update(
        state=state,
        error=error,
        ended_at=timezone.now(),
        percent=100 if state == Job.State.DONE else job.percent,
        result=job.result.name,
        notes=job.notes,
        can_retry=can_retry,
    )
    about = job.shot or job.production
    if state == Job.State.FAILED and about:
        said = Message("{job} failed: {error}", job=str(job), error=str(error))
        tell([job.by], News.Kind.JOB, said, about=about, address=reverse("jobs"))


def reporter(job: Job) -> Callable[[str, float], None]:
    """The progress callback of a job: a phase in words, and the share done; an empty phase changes neither.

    Raises `Cancelled` after a request to cancel.
    """

    def report(phase: str, done: float) -> None:
        if phase:
            job.phase, job.percent = phase, max(0, min(100, round(done * 100)))
            Job.objects.filter(pk=job.pk).update(phase=job.phase, percent=job.percent)
        stop_if_asked(job)

    return report


def stop_if_asked(job: Job) -> None:
    """Raise `Cancelled` after a request to cancel; for work in one long transaction, which reports no progress."""
    if Job.objects.filter(pk=job.pk, cancel_asked=True).exists():
        raise Cancelled("Cancelled.")
