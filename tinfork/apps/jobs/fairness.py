"""The order of jobs: short jobs do not wait behind long jobs of others, or behind a hundred short ones.

Long jobs have their own queue, from which one worker never takes jobs. Within a queue, people with less waiting work
come first: a job's priority follows from the seconds of work that its owner had waiting when it was started.
"""

from collections.abc import Mapping

from django.db.models import Min, Q, Sum
from procrastinate.contrib.django.models import ProcrastinateJob

from tinfork.apps.cast.models import Character
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.models import Production, Shot

SHORT, LONG = "work", "long"
#: Jobs with a longer estimate than this are long (seconds).
LONG_S = 60
#: The limit of priorities, which are small integers in the database.
_LEAST = -30_000

#: The estimated time of a job for each second of sound, measured on two cores, and the least time (seconds).
_PER_SECOND = {
    Job.Kind.TAKE: (0.02, 1),
    Job.Kind.READ: (0.13, 2),
    Job.Kind.LINES: (0.13, 2),
    Job.Kind.FIND: (0.4, 3),
    Job.Kind.REPLACE: (0.15, 3),
    Job.Kind.VOICES: (0.05, 2),
    Job.Kind.REEL: (0.3, 2),
    Job.Kind.SPEAK: (0.1, 2),
}
#: The estimated time for each picture file, and the least time (seconds).
_PER_FILE_S = 1


def expected_s(kind: Job.Kind, sound_s: float, options: Mapping[str, object]) -> int:
    """The estimated time of a job, for seconds of sound or for the files in its options."""
    files = options.get("files")
    if kind in _PER_SECOND:
        each, least = _PER_SECOND[kind]
        if options.get("way") == "heard":
            each = 0.4
        return max(least, round(each * sound_s))
    return max(1, _PER_FILE_S * len(files)) if isinstance(files, list) else 1


def sound_on(on: Shot | Character | Production | Studio) -> float:
    """Seconds of sound in a shot, including takes that are still being opened for it."""
    if not isinstance(on, Shot):
        return 0.0
    soundtrack = getattr(on, "soundtrack", None)
    arriving = Job.objects.filter(kind=Job.Kind.TAKE, options__shot=on.pk, state__in=Job.OPEN)
    coming = arriving.aggregate(sum=Sum("expected_s"))["sum"] or 0
    return (soundtrack.duration_us / 1e6 if soundtrack else 0.0) + coming / _PER_SECOND[Job.Kind.TAKE][0]


def priority_for(by: User | None, lock: str) -> int:
    """The priority of a person's new job. Jobs with the same lock stay in order, whoever started them."""
    own = Job.objects.filter(state__in=Job.OPEN).filter(Q(by=by) if by else Q(by=None))
    priority = -int(own.aggregate(sum=Sum("expected_s"))["sum"] or 0)
    ahead = ProcrastinateJob.objects.filter(lock=lock, status="todo").aggregate(least=Min("priority"))["least"]
    return max(_LEAST, min(priority, priority if ahead is None else ahead))


def queue_for(seconds: int) -> str:
    """The queue of a job."""
    return LONG if seconds > LONG_S else SHORT
