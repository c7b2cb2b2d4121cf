"""Whose job is next, and that every job can be stopped from its first second on."""

import pytest
from procrastinate.contrib.django.models import ProcrastinateJob

from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.fairness import LONG, SHORT, expected_s, queue_for
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import Membership, User
from tools.start.services import WORKERS


@pytest.fixture
def colleague(studio):
    person = User.objects.create_user("brindle@tinfork.example", "tram")
    Membership.objects.create(studio=studio, user=person, role=Membership.Role.ANIMATOR)
    return person


def start(on, by, seconds, lock):
    return start_job(kind=Job.Kind.LINES, on=on, by=by, seconds=seconds, lock=lock)


def next_jobs(queues):
    """What a worker of some queues would do one after another, were nothing else to come: jobs by number."""
    from django.db import connection

    out = []
    with connection.cursor() as cursor:
        cursor.execute("INSERT INTO procrastinate_workers DEFAULT VALUES RETURNING id")
        (worker,) = cursor.fetchone()
        while True:
            cursor.execute("SELECT id, args->>'job_id' FROM procrastinate_fetch_job_v2(%s, %s)", [list(queues), worker])
            number, job = cursor.fetchone()
            if number is None:
                return out
            out.append(job)
            cursor.execute("DELETE FROM procrastinate_jobs WHERE id = %s", [number])


def test_one_short_job_comes_before_the_rest_of_a_hundred_of_somebody_elses(production, user, colleague):
    many = [start(production, user, 5, f"a{n}") for n in range(100)]
    one = start(production, colleague, 5, "b")
    order = next_jobs([SHORT])
    assert order.index(str(one.pk)) <= 1
    assert [job for job in order if job != str(one.pk)] == [str(job.pk) for job in many]


def test_long_work_has_a_queue_that_one_worker_never_takes_from(production, user):
    job = start(production, user, 3600, "a")
    assert ProcrastinateJob.objects.get(args__job_id=str(job.pk)).queue_name == LONG
    assert any(LONG not in queues and SHORT in queues for queues in WORKERS.values())
    assert any(LONG in queues for queues in WORKERS.values())
    assert next_jobs([SHORT]) == []


def test_work_under_one_lock_stays_in_its_order_whoever_asked(production, user, colleague):
    """A reading waits for its sound, though the person who asks for it has nothing else waiting."""
    for n in range(5):
        start(production, user, 50, f"a{n}")
    sound = start(production, user, 50, "shot:1")
    reading = start(production, colleague, 1, "shot:1")
    order = next_jobs([SHORT])
    assert order.index(str(sound.pk)) < order.index(str(reading.pk))


@pytest.mark.parametrize(
    ("kind", "sound_s", "options", "is_long"),
    [
        (Job.Kind.READ, 12, {}, False),
        (Job.Kind.READ, 3600, {}, True),
        (Job.Kind.READ, 200, {"way": "heard"}, True),
        (Job.Kind.TAKE, 600, {}, False),
        (Job.Kind.DRAWINGS, 0, {"files": [{}] * 14}, False),
        (Job.Kind.DRAWINGS, 0, {"files": [{}] * 200}, True),
    ],
)
def test_what_takes_minutes_is_long(kind, sound_s, options, is_long):
    assert (queue_for(expected_s(kind, sound_s, options)) == LONG) is is_long


def test_cancelling_is_looked_at_before_a_child_says_anything():
    """The child never reports; the person cancels at once."""
    from tests.engines.test_hard_words import wait
    from tinfork.core.errors import Cancelled
    from tinfork.engines.isolated import run_isolated

    def cancelled(phase, done):
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        run_isolated(wait, progress=cancelled)
