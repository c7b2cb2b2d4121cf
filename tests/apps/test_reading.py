import numpy as np
import pytest
from django.core.files.storage import default_storage

from tests import sounds
from tinfork.apps.jobs.actions import MAX_ATTEMPTS
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.reading.models import Reading
from tinfork.apps.sound.models import Take


def stored_files():
    folders = default_storage.listdir("")[0]
    return [f"{d}/{f}" for d in folders for f in default_storage.listdir(d)[1] if not f.endswith((".svg",))]


def test_a_shot_is_read_from_its_sound_and_words(read_shot):
    words = [w.text for w in read_shot.reading.content.words()]
    assert words == sounds.SENTENCE.rstrip(".").split()
    assert read_shot.take.is_ready
    assert read_shot.take.duration_us == pytest.approx(sounds.spoken().duration_us, abs=100)
    assert read_shot.reading.content.lines[0].speaker == "Odalys"


def test_reading_again_with_other_words_keeps_the_sound_and_counts_the_revision(read_shot, start_read, work):
    take = read_shot.take.pk
    assert start_read("none", words="The last tram leaves the depot").status_code == 302
    assert work().state == "done"
    again = Reading.objects.get(shot=read_shot)
    assert again.revision == 2
    assert len(list(again.content.words())) == 6
    assert Take.objects.get().pk == take


@pytest.mark.parametrize(
    ("data", "words", "field", "message"),
    [
        (b"", "hello", "sound", "is empty"),
        (sounds.png_bytes(), "hello", "sound", "not a sound"),
        (sounds.two_hours(), "hello", "sound", "10 minutes is the most"),
        (sounds.wav_bytes(np.zeros(16)), "hello", "sound", "lasts 1 ms"),
        (None, "", "words", "Type what is said"),
        (None, "…!", "words", "Type what is said"),
        ("none", "hello", "sound", "Choose the recording"),
    ],
    ids=["empty", "png", "two-hours", "a-millisecond", "no-words", "marks-only", "no-sound"],
)
def test_what_is_wrong_is_said_at_once_and_nothing_is_kept(start_read, shot, data, words, field, message):
    answer = start_read(data, words, headers={"accept": "application/json"})
    assert answer.status_code == 422
    assert message in " ".join(answer.json()["errors"][field])
    assert not Take.objects.exists()
    assert not Job.objects.exists()
    assert not stored_files()


def test_without_scripts_the_page_itself_says_what_is_wrong(start_read):
    answer = start_read(sounds.png_bytes())
    assert answer.status_code == 422
    assert "is not a sound that can be read" in answer.content.decode()


@pytest.mark.parametrize(
    ("data", "words", "message"),
    [
        (sounds.wav_bytes(np.zeros(48_000)), "hello there", "silent"),
        (None, "hello " * 300, "do not fit"),
    ],
    ids=["three-seconds-of-silence", "too-many-words"],
)
def test_what_only_reading_finds_ends_the_job_with_its_reason(start_read, work, shot, client, data, words, message):
    start_read(data, words)
    job = work()
    assert job.state == "failed"
    assert message in job.error
    assert not Reading.objects.exists()
    shot.refresh_from_db()
    assert shot.words == words.strip()
    # The sound itself was fine: it stays, so that only the words need mending.
    assert shot.take.is_ready
    assert message in client.get(f"/shots/{shot.pk}/").content.decode()


def test_a_failed_second_reading_leaves_the_first_and_drops_the_new_sound(
    read_shot, start_read, work, django_capture_on_commit_callbacks
):
    before = read_shot.reading.document
    files = set(stored_files())
    start_read(sounds.wav_bytes(np.zeros(48_000)), "hello")
    with django_capture_on_commit_callbacks(execute=True):
        assert work().state == "failed"
    assert Reading.objects.get(shot=read_shot).document == before
    assert Take.objects.get() == read_shot.take
    assert set(stored_files()) == files


def test_cancelling_a_waiting_job_ends_it_and_drops_what_it_brought(
    start_read, client, shot, work, django_capture_on_commit_callbacks
):
    start_read()
    job = Job.objects.get()
    with django_capture_on_commit_callbacks(execute=True):
        client.post(f"/jobs/{job.pk}/cancel")
    assert work().state == "cancelled"
    assert not Take.objects.exists()
    assert not stored_files()


def test_cancelling_a_running_job_stops_it_at_its_next_report(start_read, work, shot):
    start_read()
    Job.objects.update(cancel_asked=True)
    assert work().state == "cancelled"
    assert not Reading.objects.exists()


def test_a_job_whose_worker_died_is_done_again_and_then_shown_as_failed(start_read, work, shot):
    start_read()
    Job.objects.update(state=Job.State.RUNNING, attempts=1)
    assert work().state == "done"
    Reading.objects.all().delete()
    start_read("none")
    Job.objects.filter(state="waiting").update(state=Job.State.RUNNING, attempts=MAX_ATTEMPTS)
    job = work()
    assert job.state == "failed"
    assert "stopped 2 times" in job.error


def test_a_fault_of_ours_is_told_without_its_insides(start_read, work, monkeypatch):
    def broken(*arguments):
        raise ZeroDivisionError("secret inside")

    monkeypatch.setattr("tinfork.apps.reading.work.decode", broken)
    start_read()
    job = work()
    assert job.state == "failed"
    assert "secret" not in job.error
    assert "try again" in job.error


def test_a_job_that_is_over_is_not_done_again(read_shot):
    job = Job.objects.get()
    do_job(str(job.pk))
    assert Reading.objects.get().revision == 1


def test_two_readings_at_once_are_one(start_read, shot):
    start_read()
    again = start_read(words="Other words", headers={"accept": "application/json"})
    assert "is being read now" in again.json()["errors"]["words"][0]
    assert Job.objects.count() == 1
    assert Take.objects.count() == 1
    shot.refresh_from_db()
    assert shot.words == sounds.SENTENCE


def test_a_cut_file_is_read_as_far_as_it_goes_and_says_so(start_read, work, shot, client):
    whole = sounds.sentence_wav()
    start_read(whole[: int(len(whole) * 0.6)], "The last tram leaves the")
    assert work().state == "done"
    assert "cut short" in client.get(f"/shots/{shot.pk}/").content.decode()


def test_words_cannot_become_markup_on_the_desk(start_read, work, shot, client):
    start_read(words="The last tram </script><script>alert(1)</script> leaves")
    assert work().state == "done"
    assert "<script>alert(1)" not in client.get(f"/shots/{shot.pk}/desk").content.decode()


def test_no_migration_is_missing(db):
    from django.core.management import call_command

    call_command("makemigrations", "--check", "--dry-run", verbosity=0)


def test_an_upload_that_announces_too_much_is_refused_before_it_arrives(client, shot):
    answer = client.post(
        f"/shots/{shot.pk}/read",
        data=b"--x--",
        content_type="multipart/form-data; boundary=x",
        headers={"content-length": str(600 * 1024 * 1024)},
    )
    assert answer.status_code == 400
    assert not Take.objects.exists()
