import numpy as np
import pytest
from django.core.files.storage import default_storage

from tests import sounds
from tests.apps.conftest import upload
from tinfork.apps.jobs.actions import MAX_ATTEMPTS
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError


def stored_files():
    folders = default_storage.listdir("")[0]
    return [f"{d}/{f}" for d in folders for f in default_storage.listdir(d)[1] if not f.endswith((".svg",))]


def test_a_shot_is_read_from_its_sound_and_words(read_shot):
    words = [w.text for w in read_shot.soundtrack.reading.words()]
    assert words == sounds.SENTENCE.rstrip(".").split()
    take = Take.objects.get()
    assert take.is_ready
    assert take.duration_us == pytest.approx(sounds.spoken().duration_us, abs=100)
    assert read_shot.soundtrack.duration_us == take.duration_us
    assert read_shot.soundtrack.reading.lines[0].speaker == str(read_shot.character.pk)


def test_reading_again_with_other_words_keeps_the_sound_and_counts_the_revision(read_shot, start_read, work):
    take, revision = Take.objects.get(), read_shot.soundtrack.revision
    assert start_read("none", words="The last tram leaves the depot").status_code == 302
    assert work().state == "done"
    again = Soundtrack.objects.get(shot=read_shot)
    assert again.revision == revision + 1
    assert len(list(again.reading.words())) == 6
    assert Take.objects.get() == take


@pytest.mark.parametrize(
    ("data", "words", "field", "message"),
    [
        (b"", "hello", "sound", "is empty"),
        (sounds.png_bytes(), "hello", "sound", "not a sound"),
        (sounds.two_hours(), "hello", "sound", "the limit is 60 minutes"),
        (sounds.wav_bytes(np.zeros(16)), "hello", "sound", "lasts 1 ms"),
        (None, "", "words", "Type the dialogue, one phrase per line"),
        (None, "…!", "words", "Type the dialogue, one phrase per line"),
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
    assert not Soundtrack.objects.get().is_read
    shot.refresh_from_db()
    assert shot.words == words.strip()
    # The sound itself was fine: it stays, so that only the words need mending.
    assert [c.take for c in shot.soundtrack.content.clips] == [Take.objects.get().pk]
    assert message in client.get(f"/shots/{shot.pk}/").content.decode()


def test_a_failed_second_reading_leaves_the_first_and_keeps_the_new_sound_behind_it(read_shot, start_read, work):
    before = read_shot.soundtrack.document["voices"][0]
    start_read(sounds.wav_bytes(np.zeros(48_000)), "hello " * 300)
    assert work().state == "failed"
    after = Soundtrack.objects.get(shot=read_shot)
    assert after.document["voices"][0] == before
    first, second = after.content.clips
    assert second.start_us >= first.end_us
    assert read_shot.production.rate.first_us(read_shot.production.rate.frame_at(second.start_us)) == second.start_us


def test_a_sound_that_cannot_be_opened_ends_its_job_with_the_reason_and_is_dropped(
    start_read, work, monkeypatch, sweep
):
    start_read()
    with monkeypatch.context() as patch:
        patch.setattr("tinfork.apps.reading.work.opening.open_sound", broken_sound)
        assert work().state == "failed"
    assert "is damaged" in Job.objects.get(kind="take").error
    assert not Take.objects.exists()
    sweep()
    assert not stored_files()


def broken_sound(*arguments):
    raise SoundError("“take.wav” is damaged.")


def test_cancelling_a_waiting_job_ends_it(start_read, client, shot, work):
    start_read()
    job = Job.objects.get(kind="read")
    client.post(f"/jobs/{job.pk}/cancel")
    assert work().state == "cancelled"
    assert not Soundtrack.objects.get().is_read


def test_cancelling_a_sound_that_is_being_brought_drops_it(client, shot, work, sweep):
    client.post(f"/shots/{shot.pk}/sounds", {"sound": upload()})
    client.post(f"/jobs/{Job.objects.get().pk}/cancel")
    work()
    assert not Take.objects.exists()
    sweep()
    assert not stored_files()


def test_cancelling_a_running_job_stops_it_at_its_next_report(start_read, work, shot):
    start_read()
    Job.objects.filter(kind="read").update(cancel_asked=True)
    assert work().state == "cancelled"
    assert not Soundtrack.objects.get().is_read


def test_a_job_whose_worker_died_is_done_again_and_then_shown_as_failed(start_read, work, shot):
    start_read()
    Job.objects.update(state=Job.State.RUNNING, attempts=1)
    assert work().state == "done"
    start_read("none")
    Job.objects.filter(state="waiting").update(state=Job.State.RUNNING, attempts=MAX_ATTEMPTS)
    job = work()
    assert job.state == "failed"
    assert "stopped 2 times" in job.error


def test_a_fault_of_ours_is_told_without_its_insides(start_read, work, monkeypatch):
    def broken(*arguments):
        raise ZeroDivisionError("secret inside")

    monkeypatch.setattr("tinfork.apps.reading.work.reading.read_plan", broken)
    start_read()
    job = work()
    assert job.state == "failed"
    assert "secret" not in job.error
    assert "try again" in job.error


def test_a_job_that_is_over_is_not_done_again(read_shot):
    revision = Soundtrack.objects.get().revision
    for job in Job.objects.all():
        do_job(str(job.pk))
    assert Soundtrack.objects.get().revision == revision


def test_two_readings_at_once_are_one(start_read, shot):
    start_read()
    again = start_read(words="Other words", headers={"accept": "application/json"})
    assert "Wait until it is done" in again.json()["errors"]["words"][0]
    assert Job.objects.filter(kind="read").count() == 1
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
        headers={"content-length": str(3 * 1024**3)},
    )
    assert answer.status_code == 413
    assert not Take.objects.exists()
