import pytest
from django.db import connection
from django.utils import timezone

from tinfork.apps.jobs import tasks
from tinfork.apps.jobs.actions import close_lost, start_job
from tinfork.apps.jobs.models import Job
from tinfork.core.errors import Cancelled
from tinfork.engines import isolated


@pytest.fixture
def job(start_read):
    start_read()
    return Job.objects.get(kind="read")


def panel(client, job, then="desk"):
    return client.get(f"/jobs/{job.pk}/?then={then}")


def test_a_job_that_waits_without_a_worker_says_so(client, job):
    page = panel(client, job).content.decode()
    assert "no worker is running" in page
    assert 'hx-trigger="every 500ms"' in page


def test_a_running_job_whose_worker_is_gone_says_so_and_is_cancelled_at_once(client, job, work):
    Job.objects.update(state="running", phase="Placing each sound", percent=61)
    page = panel(client, job).content.decode()
    assert "no worker is running" in page
    assert "Placing each sound" not in page
    client.post(f"/jobs/{job.pk}/cancel")
    job.refresh_from_db()
    assert job.state == "cancelled"
    assert work().state == "cancelled"


@pytest.fixture
def worker(db):
    """A worker that gave a sign of life just now."""
    with connection.cursor() as cursor:
        cursor.execute("INSERT INTO procrastinate_workers DEFAULT VALUES")


def forget():
    """The queue has nothing to do any more."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")


@pytest.fixture
def lost(job):
    """A running job that the queue has forgotten: its end was never written down."""
    Job.objects.filter(pk=job.pk).update(state="running", started_at=timezone.now())
    forget()
    job.refresh_from_db()
    return job


def test_a_job_whose_end_was_never_written_down_is_closed_and_can_be_done_again(lost, client):
    close_lost()
    lost.refresh_from_db()
    assert (lost.state, lost.can_retry, lost.ended_at is not None) == ("failed", True, True)
    assert "Your files are kept; try again" in lost.error
    assert client.post(f"/jobs/{lost.pk}/again").status_code == 302
    assert Job.objects.first().state == "waiting"


def test_what_cannot_be_closed_stands_in_no_other_ones_way(lost, shot, monkeypatch):
    other = start_job(kind=Job.Kind.VOICES, on=shot, by=None)
    forget()
    real = tasks.work_of

    def broken(job):
        if job.pk == lost.pk:
            raise RuntimeError("broken")
        return real(job)

    monkeypatch.setattr(tasks, "work_of", broken)
    close_lost()
    other.refresh_from_db()
    assert other.state == "failed"


def test_a_job_that_waits_or_is_in_hand_is_never_closed(job):
    close_lost()
    job.refresh_from_db()
    assert job.state == "waiting"


def test_a_lost_job_is_cancelled_at_once_although_workers_are_there(lost, client, worker):
    client.post(f"/jobs/{lost.pk}/cancel")
    lost.refresh_from_db()
    assert lost.state == "cancelled"


def test_a_new_start_never_gets_a_lost_job(lost, shot):
    new = start_job(kind=Job.Kind.READ, on=shot, by=None, options=lost.options)
    assert new.pk != lost.pk
    assert new.state == "waiting"
    assert start_job(kind=Job.Kind.READ, on=shot, by=None).pk == new.pk


def test_cancelling_waits_for_a_worker_that_is_at_it(client, job, worker):
    Job.objects.update(state="running")
    client.post(f"/jobs/{job.pk}/cancel")
    job.refresh_from_db()
    assert (job.state, job.cancel_asked) == ("running", True)


def test_a_running_job_shows_phase_and_percent_and_can_be_cancelled(client, job, worker):
    Job.objects.update(state="running", phase="Placing each sound", percent=61)
    page = panel(client, job).content.decode()
    assert "Placing each sound" in page
    assert 'value="61"' in page
    assert f"/jobs/{job.pk}/cancel" in page


@pytest.mark.parametrize(
    ("state", "error", "words"),
    [
        ("failed", "The sound is silent.", "failed.</strong> The sound is silent."),
        ("cancelled", "", "Nothing was changed"),
        ("cancelled", "3 of 9 lines were read before that and are kept.", "3 of 9 lines"),
    ],
)
def test_a_job_that_ended_is_not_asked_for_again(client, job, state, error, words):
    Job.objects.update(state=state, error=error)
    page = panel(client, job).content.decode()
    assert words in page
    assert "hx-trigger" not in page


def test_a_reading_that_is_done_leads_to_the_desk(client, job, work):
    work()
    assert panel(client, job)["HX-Redirect"] == f"/shots/{job.shot_id}/desk"


def test_cancelling_is_asked_by_post_and_of_an_open_job_only(client, job, work):
    assert client.get(f"/jobs/{job.pk}/cancel").status_code == 405
    work()
    client.post(f"/jobs/{job.pk}/cancel")
    job.refresh_from_db()
    assert job.state == "done"


def test_there_is_no_result_before_the_job_is_done(client, job):
    assert client.get(f"/jobs/{job.pk}/result").status_code == 404


def test_the_list_of_jobs_names_shot_state_and_reason(client, job):
    Job.objects.update(state="failed", error="The sound is silent, so there is no voice to")
    page = client.get("/jobs/").content.decode()
    assert "020 The counter" in page
    assert "there is no voice to" in page


def test_progress_stays_between_nothing_and_everything(job):
    from tinfork.apps.jobs.actions import reporter

    report = reporter(job)
    for done, percent in ((-0.5, 0), (0.254, 25), (7.0, 100)):
        report("Phase", done)
        job.refresh_from_db()
        assert job.percent == percent
    # Nothing was reported yet, but somebody may have asked to cancel.
    report("", 0.0)
    job.refresh_from_db()
    assert (job.phase, job.percent) == ("Phase", 100)
    Job.objects.update(cancel_asked=True)
    with pytest.raises(Cancelled):
        report("", 0.0)


def test_a_reading_waits_for_a_busy_machine(job, work, monkeypatch):
    monkeypatch.setattr(isolated, "_HEARTBEAT_S", 0.0)
    monkeypatch.setattr("tests.apps.conftest.READ", {})
    assert work().state == "done"
