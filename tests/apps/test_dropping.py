"""Recordings dropped on a production: shots that speak."""

from pathlib import Path

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests import sounds
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.dropping import free_name
from tinfork.apps.reading.models import HeardPart, Soundtrack
from tinfork.apps.reading.work import hearing
from tinfork.apps.sound.models import Take
from tinfork.core.errors import Cancelled
from tinfork.engines.decode import decode

DEMO = Path(__file__).parents[2] / "demo"


@pytest.fixture
def drop(client, production, shot):
    def drop(*files, **given):
        sent = [SimpleUploadedFile(name, data) for name, data in files]
        data = {"sound": sent, "into": "shots", "character": shot.character.pk, "spoken": "", **given}
        return client.post(f"/productions/{production.pk}/drop", data, headers={"Accept": "application/json"})

    return drop


def work_all():
    """Everything that waits, in order."""
    while job := Job.objects.filter(state="waiting").order_by("created_at").first():
        do_job(str(job.pk))


def test_one_recording_becomes_a_shot_that_speaks(drop, client):
    answer = drop(("030_the_oven.wav", sounds.sentence_wav()))
    shot = Shot.objects.get(name="030 the oven")
    assert answer.json() == {"next": f"/shots/{shot.pk}/"}
    work_all()
    shot.refresh_from_db()
    assert shot.words
    assert Soundtrack.objects.get(shot=shot).is_read
    assert client.get(f"/shots/{shot.pk}/desk").status_code == 200


def test_acting_is_proposed_with_the_reading_where_it_is_asked_for(drop, production):
    drop(("plain.wav", sounds.sentence_wav()))
    drop(("acted.wav", sounds.sentence_wav()), acts="on")
    work_all()
    plain, acted = (Soundtrack.objects.get(shot__name=name).content.keys for name in ("plain", "acted"))
    assert not plain
    assert acted
    assert {k.character for k in acted} == {str(Shot.objects.get(name="acted").character.pk)}
    assert all(k.made_by for k in acted)
    production.refresh_from_db()
    assert production.dropping["acts"] is True


def test_several_become_a_shot_each_and_a_bad_one_is_named_and_leaves_nothing(drop, client, production):
    shots = Shot.objects.count()
    answer = drop(
        ("a.wav", sounds.sentence_wav()),
        ("a.wav", sounds.sentence_wav()),
        ("no.wav", b"nothing"),
        ("cut.wav", sounds.sentence_wav()[:3000]),
    )
    assert answer.json() == {"next": f"/productions/{production.pk}/"}
    page = client.get(f"/productions/{production.pk}/").content.decode()
    assert "“no.wav” is not a sound" in page
    assert 'hx-trigger="every 1s"' in page
    work_all()
    assert sorted(Shot.objects.values_list("name", flat=True).exclude(words="")) == ["a", "a 2"]
    assert Shot.objects.count() == shots + 2
    assert Take.objects.filter(listening="").count() == 0
    page = client.get(f"/productions/{production.pk}/shots").content.decode()
    assert "“cut.wav” lasts" in page
    assert 'hx-trigger="every 1s"' not in page


def test_all_into_one_shot_lie_one_after_another(drop):
    drop(("one.wav", sounds.sentence_wav()), ("two.wav", sounds.sentence_wav()), into="one")
    work_all()
    clips = Soundtrack.objects.get(shot__name="one").content.clips
    assert len(clips) == 2
    assert clips[1].start_us >= clips[0].end_us


def test_into_the_takes_alone_and_the_choice_is_remembered(drop, client, production, shot):
    shots = Shot.objects.count()
    assert drop(("one.wav", sounds.sentence_wav()), into="takes", spoken="es").json()["next"].endswith("/takes")
    work_all()
    assert Shot.objects.count() == shots
    assert production.takes.count() == 1
    production.refresh_from_db()
    assert production.dropping == {"into": "takes", "character": shot.character.pk, "spoken": "es", "acts": False}
    page = client.get(f"/productions/{production.pk}/").content.decode()
    assert '<option value="takes" selected>' in page
    assert '<option value="es" selected>' in page


def test_the_language_that_was_chosen_is_the_one_that_is_heard(drop):
    drop(("one.wav", sounds.sentence_wav()), spoken="en-gb")
    assert Job.objects.get(kind="read").options["spoken"] == "en-gb"
    work_all()
    assert Shot.objects.get(name="one").language == "en-gb"


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"into": "nowhere"}, "not one of the available choices"),
        ({"character": "999999"}, "not one of the available choices"),
        ({"character": ""}, "Create a character in Cast first"),
        ({"spoken": "qqq"}, "not one of the available choices"),
    ],
)
def test_nonsense_is_refused_and_nothing_is_taken(drop, given, said):
    answer = drop(("one.wav", sounds.sentence_wav()), **given)
    assert answer.status_code == 422
    assert said in answer.json()["error"]
    assert not Take.objects.exists()
    assert drop().status_code == 422


def test_without_a_listener_recordings_only_become_takes(drop, monkeypatch, tmp_path):
    monkeypatch.setenv("TINFORK_WORDS_MODEL", str(tmp_path))
    assert "The model that hears words is missing" in drop(("one.wav", sounds.sentence_wav())).json()["error"]
    assert drop(("one.wav", sounds.sentence_wav()), into="takes").status_code == 200


def test_a_hearing_whose_worker_was_killed_goes_on_where_it_was(drop, monkeypatch):
    """Two windows of sound: killed after the first, only the second is heard again, and all lines are there."""
    parts = [decode(DEMO / f"{name}.wav") for name in ("030_the_oven", "020_the_counter", "040_the_last_loaf")]
    samples = np.concatenate([part.samples[:, 0] for part in parts])
    drop(("long.wav", sounds.wav_bytes(samples, parts[0].rate_hz)))
    opening, job = Job.objects.filter(state="waiting").order_by("created_at")[:2]
    do_job(str(opening.pk))
    real, heard = hearing.run_isolated, []

    def killed(function, *arguments, keep, **more):
        def keep_and_die(part):
            keep(part)
            raise KeyboardInterrupt

        return real(function, *arguments, keep=keep_and_die, **more)

    monkeypatch.setattr(hearing, "run_isolated", killed)
    with pytest.raises(KeyboardInterrupt):
        do_job(str(job.pk))
    before = [line["text"] for part in HeardPart.objects.all() for line in part.lines["lines"]]
    assert before

    def noted(*given, keep=lambda part: None, **more):
        return real(*given, keep=lambda part: (heard.extend(part), keep(part)), **more)

    monkeypatch.setattr(hearing, "run_isolated", noted)
    do_job(str(job.pk))
    st = Soundtrack.objects.get(shot__name="long")
    texts = [line.text for line in st.reading.lines]
    assert len(texts) > len(before)
    assert texts == before + [line.text for _, line in heard]
    assert st.reading.lines[-1].end_us > st.duration_us - 3_000_000
    assert not HeardPart.objects.exists()


def talk(*texts):
    """What two voices say in turn, as a file: a man and a woman."""
    voices = ("en-us+m3", "en-us+f2")
    said = [sounds.spoken(text, voice) for text in texts for voice in voices]
    pause = np.zeros(said[0].rate_hz // 2, dtype=said[0].samples.dtype)
    return sounds.wav_bytes(np.concatenate([part for one in said for part in (one.samples, pause)]), said[0].rate_hz)


def test_voices_that_were_given_names_are_known_in_the_next_recording(drop, client, production, studio, shot):
    odalys, brindle = shot.character, studio.characters.get(name="Brindle")
    drop(("first.wav", talk(sounds.SENTENCE, "Nobody opens the oven while it is humming.")))
    work_all()
    first = Shot.objects.get(name="first")
    client.post(f"/shots/{first.pk}/voices", {"what": "accept", "who-0": brindle.pk, "who-1": odalys.pk})
    assert {known.character for known in production.known_voices.all()} == {odalys, brindle}
    # Another talk of the two: its turns come with names.
    drop(("second.wav", talk("Seven small loaves are waiting on the counter.", "Please carry that lantern over here.")))
    work_all()
    second = Soundtrack.objects.get(shot__name="second")
    assert second.proposal is None
    assert second.warnings == []
    turns = [turn.speaker for voice in second.content.voices for turn in voice.reading.turns]
    assert turns == [str(brindle.pk), str(odalys.pk)] * 2
    # One of them alone: the shot is hers, whoever was chosen.
    alone = sounds.spoken("Please carry that lantern under the old bridge before it rains.", "en-us+m3")
    drop(("third.wav", sounds.wav_bytes(alone.samples, alone.rate_hz)), character=odalys.pk)
    work_all()
    third = Soundtrack.objects.get(shot__name="third")
    assert third.shot.characters == [brindle]
    assert {line.speaker for line in third.reading.lines} == {str(brindle.pk)}


def test_nobody_else_may_drop_or_follow(stranger, viewer, production):
    for client, status in ((stranger, 404), (viewer, 403)):
        assert client.post(f"/productions/{production.pk}/drop", {}).status_code == status
    assert stranger.get(f"/productions/{production.pk}/shots").status_code == 404
    assert viewer.get(f"/productions/{production.pk}/shots").status_code == 200


def test_a_shot_is_named_after_its_file():
    taken = {"take", "take 2", "x" * 80}
    assert free_name("take", taken) == "take 3"
    assert free_name("010_the__stop", set()) == "010 the stop"
    assert free_name("", set()) == "Recording"
    assert len(free_name("x" * 200, taken)) <= 80


def test_two_voices_in_a_recording_are_told_apart_without_being_asked(drop, client):
    """Two voices, each for some seconds: who they are is asked under the clips."""
    low, high = (sounds.spoken(sounds.SENTENCE, voice) for voice in ("en-us+m3", "en-us+f2"))
    pause = np.zeros(low.rate_hz // 2, dtype=low.samples.dtype)
    both = np.concatenate([part for _ in range(2) for said in (low, high) for part in (said.samples, pause)])
    drop(("two.wav", sounds.wav_bytes(both, low.rate_hz)))
    work_all()
    row = Soundtrack.objects.get(shot__name="two")
    assert row.proposal["count"] > 1
    assert row.warnings == ["More than one voice was heard. Choose the characters under Clips and turns."]
    assert "Choose the characters under Clips and turns" in client.get(f"/shots/{row.shot.pk}/").content.decode()
    drop(("one.wav", sounds.sentence_wav()))
    work_all()
    assert Soundtrack.objects.get(shot__name="one").proposal is None


def test_what_was_heard_before_a_cancel_is_kept(drop, monkeypatch):
    from tinfork.apps.reading.work import hearing

    real = hearing.run_isolated

    def cut_short(function, *arguments, progress, keep=lambda part: None, **more):
        real(function, *arguments, progress=progress, keep=keep, **more)
        raise Cancelled("Cancelled.")

    monkeypatch.setattr(hearing, "run_isolated", cut_short)
    drop(("one.wav", sounds.sentence_wav()))
    work_all()
    job = Job.objects.get(kind="read")
    assert job.state == "cancelled"
    assert "1 line was heard before that and is kept." in job.error
    shot = Shot.objects.get(name="one")
    assert shot.words
    assert Soundtrack.objects.get(shot=shot).is_read
