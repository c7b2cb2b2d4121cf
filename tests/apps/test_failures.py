"""What fails on our side: nothing that was taken is dropped, it is said in words, and it can be done again."""

import errno
import json

import numpy as np
import psycopg
import pytest
from django.db import OperationalError
from django.test import Client

from tests import sounds
from tests.apps.conftest import upload
from tinfork.apps.common import disk_space
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.errors import EngineError


def full(*arguments, **more):
    raise OSError(errno.ENOSPC, "No space left on device")


def killed(*arguments, **more):
    raise EngineError("The program that opens “take.wav” was stopped in the middle. The file is kept: try again.")


@pytest.fixture
def bring_one(client, production):
    def send():
        answer = client.post(f"/productions/{production.pk}/takes/upload", {"sound": upload()})
        assert answer.status_code == 200
        return Take.objects.get()

    return send


@pytest.mark.parametrize(
    ("fault", "words"),
    [(full, "The disk is full"), (killed, "The file is kept")],
)
def test_a_take_that_could_not_be_opened_says_why_and_is_opened_again(
    client, production, bring_one, do_jobs, monkeypatch, sweep, fault, words
):
    take = bring_one()
    with monkeypatch.context() as patch:
        patch.setattr("tinfork.apps.reading.work.opening.open_sound", fault)
        job = do_jobs()
    assert (job.state, job.can_retry) == ("failed", True)
    sweep()
    take.refresh_from_db()
    assert words in take.trouble
    assert words in client.get(f"/productions/{production.pk}/takes").content.decode()
    page = client.get(f"/takes/{take.pk}/").content.decode()
    assert "Open again" in page
    assert "Opening the sound “take.wav” failed." in page
    assert client.post(f"/jobs/{job.pk}/again").status_code == 302
    # It is asked for once.
    assert client.post(f"/jobs/{job.pk}/again").status_code == 422
    assert do_jobs().state == "done"
    take.refresh_from_db()
    assert take.is_ready
    assert take.trouble == ""


def test_a_take_whose_worker_was_killed_again_and_again_is_kept(client, bring_one, sweep):
    take = bring_one()
    job = Job.objects.get(kind="take")
    Job.objects.update(state="running", attempts=2)
    do_job(str(job.pk))
    job.refresh_from_db()
    assert (job.state, job.can_retry) == ("failed", True)
    sweep()
    take.refresh_from_db()
    assert "stopped 2 times" in take.trouble
    assert take.original.storage.exists(take.original.name)


def test_a_copy_that_a_full_disk_cut_is_noticed(bring_one, do_jobs, monkeypatch):
    """The copy says how long it is and holds half of it."""
    from tinfork.apps.reading.work import opening

    real = opening.open_sound

    def cut(path, flac, *more):
        opened = real(path, flac, *more)
        data = flac.read_bytes()
        flac.write_bytes(data[: len(data) // 2])
        return opened

    bring_one()
    monkeypatch.setattr(opening, "open_sound", cut)
    job = do_jobs()
    assert (job.state, job.can_retry) == ("failed", True)
    assert "is the disk full?" in job.error


def test_a_story_reel_that_could_not_be_opened_is_kept(client, production, do_jobs, monkeypatch, tmp_path):
    from tools.attack.hostile.sounds import film

    client.post(f"/productions/{production.pk}/reels", {"film": upload("reel.mp4", film())})
    with monkeypatch.context() as patch:
        patch.setattr("tinfork.apps.reading.work.reel.open_film", full)
        job = do_jobs()
    assert "The disk is full" in Reel.objects.get().trouble
    client.post(f"/jobs/{job.pk}/again")
    assert do_jobs().state == "done"
    assert Reel.objects.get().is_ready


def test_drawings_whose_job_broke_are_brought_again_with_the_files_that_were_sent(
    client, blank, do_jobs, monkeypatch, sweep
):
    from tests.pictures import encoded, mouths

    client.post(f"/cast/charts/{blank.pk}/drawings", {"files": upload("5.png", encoded(mouths()[5]))})
    with monkeypatch.context() as patch:
        patch.setattr("tinfork.apps.cast.work.prepare_files", full)
        job = do_jobs()
    sweep()
    assert "Try again" in client.get(f"/cast/charts/{blank.pk}/").content.decode()
    client.post(f"/jobs/{job.pk}/again")
    assert do_jobs().state == "done"
    assert [d.number for d in blank.drawings.all()] == [5]
    sweep()
    assert not blank.drawings.get().picture.storage.exists(job.options["files"][0]["key"])


def test_a_stranger_and_a_viewer_do_nothing_again(client, stranger, viewer, bring_one, do_jobs, monkeypatch):
    bring_one()
    monkeypatch.setattr("tinfork.apps.reading.work.opening.open_sound", full)
    job = do_jobs()
    assert stranger.post(f"/jobs/{job.pk}/again").status_code == 404
    assert viewer.post(f"/jobs/{job.pk}/again").status_code == 403


@pytest.fixture
def patient(user):
    """A client that gets the page of an error, as a browser does."""
    signed_in = Client(raise_request_exception=False)
    signed_in.force_login(user)
    return signed_in


def edit_on(client, shot):
    body = {"revision": 1, "shown": 1, "name": "note", "parameters": {"frame": 1, "text": "x"}}
    return client.post(f"/shots/{shot.pk}/mouths", json.dumps(body), content_type="application/json")


@pytest.mark.parametrize(
    ("fault", "words"),
    [
        (OperationalError("the connection was lost"), "The site cannot reach its database at the moment"),
        (
            psycopg.errors.DiskFull("could not extend file: No space left on device"),
            "Ask its admin to free some space",
        ),
        (OSError(errno.ENOSPC, "No space left on device"), "Ask its admin to free some space"),
    ],
    ids=["database-away", "database-full", "disk-full"],
)
def test_what_we_stand_on_being_away_or_full_is_said_with_503(patient, read_shot, monkeypatch, fault, words):
    if isinstance(fault, psycopg.Error):
        fault = OperationalError(str(fault))

    def broken(*arguments, **more):
        raise fault

    monkeypatch.setattr("tinfork.apps.reading.actions.soundtracks.record_edit", broken)
    answer = edit_on(patient, read_shot)
    assert answer.status_code == 503
    assert words in answer.json()["error"]
    assert answer["Retry-After"]


def test_a_fault_of_ours_is_500_in_words_and_without_its_insides(patient, read_shot, monkeypatch):
    def broken(*arguments, **more):
        raise ZeroDivisionError("secret inside")

    monkeypatch.setattr("tinfork.apps.reading.actions.soundtracks.record_edit", broken)
    answer = edit_on(patient, read_shot)
    assert answer.status_code == 500
    assert "secret" not in answer.content.decode()
    assert "Something went wrong on our side" in answer.json()["error"]


def test_an_upload_without_room_is_refused_in_words_and_a_small_form_is_not(patient, production, monkeypatch):
    free = 250 * 2**20
    monkeypatch.setattr(disk_space, "free_bytes", lambda folder: free)
    address = f"/productions/{production.pk}/takes/upload"
    large = sounds.wav_bytes(np.zeros(16_000 * 600))
    answer = patient.post(address, {"sound": upload(data=large)}, headers={"accept": "application/json"})
    assert answer.status_code == 503
    assert "Ask its admin to free some space" in answer.json()["error"]
    assert not Take.objects.exists()
    assert patient.post(address, {"sound": upload()}).status_code == 200


@pytest.mark.parametrize(
    ("size", "free", "fits"),
    [(10**9, 3 * 10**9 + disk_space.RESERVE_BYTES, True), (10**9, 3 * 10**9, False), (1000, 0, True)],
)
def test_there_is_room_for_an_upload_and_what_is_made_of_it(monkeypatch, size, free, fits):
    monkeypatch.setattr(disk_space, "free_bytes", lambda folder: free)
    assert disk_space.is_room_for(size) is fits


def test_a_strangers_upload_is_refused_before_it_is_read(db, settings, tmp_path):
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    nobody = Client()
    answer = nobody.post("/account/login/", {"login": "x", "file": upload("big.wav", b"x" * 2_000_000)})
    assert answer.status_code == 403
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize(
    ("cause", "words"),
    [("worker", "no worker is running"), ("disk", "disk is nearly full"), ("database", "database does not answer")],
)
def test_health_sees_worker_disk_and_database(client, monkeypatch, cause, words):
    from tinfork.apps.people.views import site as views

    monkeypatch.setattr(views, "is_anyone_working", lambda: cause != "worker")
    if cause == "disk":
        monkeypatch.setattr(views, "free_bytes", lambda folder: 1000)
    if cause == "database":

        def away():
            raise OperationalError

        monkeypatch.setattr(views, "is_anyone_working", away)
    answer = client.get("/healthy")
    assert answer.status_code == 503
    assert words in answer.content.decode()
    monkeypatch.undo()
    monkeypatch.setattr(views, "is_anyone_working", lambda: True)
    assert client.get("/healthy").content == b"ok"


def test_health_sees_files_that_cannot_be_written(client, monkeypatch, tmp_path):
    from types import SimpleNamespace

    from tinfork.apps.people.views import site as views

    monkeypatch.setattr(views, "the_storage", lambda: SimpleNamespace(location=tmp_path / "gone"))
    monkeypatch.setattr(views, "is_anyone_working", lambda: True)
    assert "stored files cannot be written" in client.get("/healthy").content.decode()


def test_pages_of_refusal_are_ours_and_fit(user, production):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(user)
    answer = strict.post("/productions/new", {"name": "x"})
    assert answer.status_code == 403
    assert "Reload the page" in answer.content.decode()
    assert strict.get("/", headers={"host": "elsewhere.example"}).status_code == 400
    assert strict.put("/").status_code == 405
    assert "This page does not exist, or belongs to another" in strict.get("/takes/999999/").content.decode()
