"""The take library: bringing, checking, finding lines, replacing, pieces, machine speech, story reels."""

import numpy as np
import pytest

from tests import sounds
from tests.apps.conftest import upload
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.sound.models import Reel, Take

S = 1_000_000


def run_jobs():
    for job in Job.objects.filter(state="waiting").order_by("created_at"):
        do_job(str(job.pk))
    return Job.objects.first()


def page_of(client, address):
    return client.get(address).content.decode()


def test_several_recordings_at_once_are_opened_measured_and_listed(upload_files, client, production, brindle):
    said = sounds.as_sound(sounds.spoken()).mono_at(16_000)
    takes = upload_files(
        ("a.wav", sounds.sentence_wav()), ("b.wav", sounds.wav_bytes(said * 0.012)), speaker=str(brindle.pk)
    )
    assert [t.name for t in takes] == ["a.wav", "b.wav"]
    assert all(t.is_ready and t.speaker == brindle for t in takes)
    assert takes[0].loudness > -40
    assert takes[0].gain_db > -40
    assert [f["kind"] for f in takes[1].findings] == ["quiet"]
    page = page_of(client, f"/productions/{production.pk}/takes")
    assert "LUFS" in page
    assert "The voice is very soft" in page
    assert page.count("no shot") == 2


def test_a_take_that_is_in_a_shot_stays_and_one_that_is_not_can_go(
    read_shot, client, upload_files, django_capture_on_commit_callbacks
):
    used = read_shot.soundtrack.takes.get()
    page = client.post(f"/takes/{used.pk}/delete", follow=True).content.decode()
    assert "is in 020 The counter" in page
    (free,) = upload_files(("free.wav", sounds.wav_bytes(np.full(32_000, 0.1))))
    with django_capture_on_commit_callbacks(execute=True):
        client.post(f"/takes/{free.pk}/delete")
    assert list(Take.objects.all()) == [used]


def test_name_and_speaker_of_a_take_are_changed(upload_files, client, brindle):
    (take,) = upload_files(("a.wav", sounds.sentence_wav()))
    client.post(f"/takes/{take.pk}/edit", {"name": "The last tram", "speaker": brindle.pk})
    take.refresh_from_db()
    assert (take.name, take.speaker) == ("The last tram", brindle)
    assert "needs a name" in client.post(f"/takes/{take.pk}/edit", {"name": ""}, follow=True).content.decode()


@pytest.fixture
def talk_take(upload_files):
    return upload_files(("talk.wav", sounds.conversation()[0]))[0]


def test_the_lines_of_a_script_are_found_in_a_take_and_those_not_said_left_out(talk_take, client):
    words = sounds.CONVERSATION_WORDS + "\nBRINDLE: Purple engineers measured several expensive bridges."
    assert client.post(f"/takes/{talk_take.pk}/lines", {"words": words}).status_code == 302
    assert run_jobs().state == "done"
    talk_take.refresh_from_db()
    lines = [x for x in talk_take.content.lines if x.words]
    assert [x.text for x in lines] == [text for _, text, _ in sounds.CONVERSATION]
    page = page_of(client, f"/takes/{talk_take.pk}/")
    assert page.count('name="piece"') == 3
    assert "Not found in the sound: “Purple engineers" in page


def test_words_by_people_who_are_not_there_are_refused_and_kept_in_the_box(talk_take, client):
    answer = client.post(f"/takes/{talk_take.pk}/lines", {"words": "MAYOR: Hello there."})
    assert answer.status_code == 422
    assert "No character is called “MAYOR”" in answer.content.decode()
    assert "MAYOR: Hello there." in answer.content.decode()


def test_each_line_of_a_take_becomes_a_shot_with_its_words_and_reading(talk_take, client, production, brindle):
    client.post(f"/takes/{talk_take.pk}/lines", {"words": sounds.CONVERSATION_WORDS})
    run_jobs()
    page = page_of(client, f"/takes/{talk_take.pk}/")
    pieces = [part.split('"')[0] for part in page.split('name="piece" value="')[1:]]
    assert client.post(f"/takes/{talk_take.pk}/send", {"piece": pieces}).status_code == 302
    shots = list(Shot.objects.order_by("name"))
    assert [s.name for s in shots] == [
        "010 The last tram leaves",
        "020 Nobody bakes bread like",
        "030 She found five small",
    ]
    assert [s.character.name for s in shots] == ["Odalys", "Brindle", "Odalys"]
    second = shots[1]
    assert second.words == "Brindle: Nobody bakes bread like you do."
    assert [w.text for w in second.soundtrack.reading.words()] == ["Nobody", "bakes", "bread", "like", "you", "do"]
    assert second.soundtrack.content.clips[0].start_us == 0
    assert page_of(client, f"/shots/{second.pk}/desk")


def test_pieces_between_silences_go_into_one_shot_one_after_another(talk_take, client, shot):
    page = page_of(client, f"/takes/{talk_take.pk}/?pause=350")
    pieces = [part.split('"')[0] for part in page.split('name="piece" value="')[1:]]
    assert len(pieces) == 3
    client.post(f"/takes/{talk_take.pk}/send", {"piece": pieces[:2], "shot": shot.pk})
    clips = Soundtrack.objects.get(shot=shot).content.clips
    assert [f"{c.in_us}-{c.out_us}" for c in clips] == pieces[:2]
    assert clips[1].start_us >= clips[0].end_us


@pytest.mark.parametrize("pieces", [[], ["5-4"], ["0-99999999999"], ["x"], ["1-2-3"]])
def test_pieces_that_are_not_in_the_take_are_not_sent(talk_take, client, pieces):
    client.post(f"/takes/{talk_take.pk}/send", {"piece": pieces})
    assert not Shot.objects.exists()


def test_a_better_take_of_the_same_words_takes_its_place_everywhere(read_shot, client, edit):
    old = read_shot.soundtrack.takes.get()
    edit("move", clip=1, frame=24)
    later = sounds.as_sound(sounds.spoken(voice="en-gb+f2")).mono_at(16_000)
    better = sounds.wav_bytes(np.concatenate([np.zeros(24_000, np.float32), later]))
    answer = client.post(f"/takes/{old.pk}/replace", {"sound": upload("better.wav", better)})
    assert answer.status_code == 200
    job = run_jobs()
    assert job.state == "done", job.error
    soundtrack = Soundtrack.objects.get(shot=read_shot)
    new = soundtrack.takes.get()
    assert new.name == "better.wav"
    assert [w.text for w in soundtrack.reading.words()] == sounds.SENTENCE.rstrip(".").split()
    assert next(soundtrack.reading.words()).start_us > 2_300_000
    assert Take.objects.filter(pk=old.pk).exists()
    assert "replaced" in page_of(client, f"/takes/{new.pk}/")
    edit("undo")
    assert Soundtrack.objects.get(shot=read_shot).takes.get() == old


def test_a_take_that_says_something_else_replaces_nothing(read_shot, client):
    old = read_shot.soundtrack.takes.get()
    before = read_shot.soundtrack.document
    client.post(f"/takes/{old.pk}/replace", {"sound": upload("silence.wav", sounds.wav_bytes(np.zeros(48_000)))})
    assert run_jobs().state == "failed"
    assert Soundtrack.objects.get().document == before
    for fields in ({}, {"by": str(old.pk)}):
        assert client.post(f"/takes/{old.pk}/replace", fields).status_code == 422


def test_a_text_is_spoken_by_the_machine_with_exact_times(client, production, brindle):
    fields = {
        "text": "BRINDLE: The last tram leaves.\n(es) x",
        "language": "en-us",
        "words_per_minute": 150,
        "pitch": 40,
    }
    fields["text"] = "BRINDLE: The last tram leaves.\nODALYS (es): Está listo."
    assert client.post(f"/productions/{production.pk}/takes/speak", fields).status_code == 302
    job = run_jobs()
    assert job.state == "done", job.error
    take = Take.objects.get()
    assert take.source == "spoken"
    assert next((x.speaker, x.language) for x in take.content.lines) == (str(brindle.pk), "en-us")
    assert take.content.lines[1].language == "es"
    assert all(p.confidence == 1.0 for p in take.content.phonemes())
    assert "scratch voice" in page_of(client, f"/productions/{production.pk}/takes")


def test_machine_speech_placed_in_a_shot_needs_no_reading(client, production, shot, edit, character):
    fields = {"text": "The last tram leaves.", "language": "en-us", "words_per_minute": 150, "pitch": 40}
    client.post(f"/productions/{production.pk}/takes/speak", fields | {"shot": shot.pk, "speaker": character.pk})
    run_jobs()
    soundtrack = Soundtrack.objects.get(shot=shot)
    assert soundtrack.is_read
    assert [w.text for w in soundtrack.reading.words()] == ["The", "last", "tram", "leaves"]
    assert client.get(f"/shots/{shot.pk}/desk").status_code == 200


@pytest.mark.parametrize(
    "fields",
    [{"text": ""}, {"text": "[sighs]"}, {"text": "hi", "words_per_minute": 9}, {"text": "hi", "language": "../../etc"}],
)
def test_what_cannot_be_spoken_is_said_at_once(client, production, fields):
    whole = {"text": "hi", "language": "en-us", "words_per_minute": 150, "pitch": 40} | fields
    assert client.post(f"/productions/{production.pk}/takes/speak", whole).status_code == 422
    assert not Take.objects.exists()


def test_a_voice_that_is_missing_ends_the_job_and_drops_the_take(client, production):
    fields = {"text": "hi (xx): there\nODALYS (xx): hello", "language": "en-us", "words_per_minute": 150, "pitch": 40}
    client.post(f"/productions/{production.pk}/takes/speak", fields)
    job = run_jobs()
    assert job.state == "failed"
    assert "no voice called" in job.error
    assert not Take.objects.exists()


def test_recordings_made_here_are_marked_and_placed_in_their_shot(client, production, shot):
    fields = {"sound": upload("Take 1.wav"), "source": "recorded", "shot": shot.pk}
    assert client.post(f"/productions/{production.pk}/takes/upload", fields).status_code == 200
    run_jobs()
    take = Take.objects.get()
    assert take.source == "recorded"
    assert Soundtrack.objects.get(shot=shot).content.clips[0].take == take.pk
    page = page_of(client, f"/productions/{production.pk}/record?shot={shot.pk}")
    assert "stand-in" in page


def test_the_script_stands_on_the_recording_page(client, production, read_shot):
    assert sounds.SENTENCE in page_of(client, f"/productions/{production.pk}/record?shot={read_shot.pk}")


def test_a_story_reel_is_opened_its_sound_a_take_and_seen_beside_a_shot(client, production, read_shot, tmp_path):
    path = tmp_path / "reel.mp4"
    sounds.film_wav(path)
    answer = client.post(
        f"/productions/{production.pk}/reels", {"film": upload("reel.mp4", path.read_bytes()), "shot": read_shot.pk}
    )
    assert answer.status_code == 200
    job = run_jobs()
    assert job.state == "done", job.error
    reel = Reel.objects.get()
    assert abs(reel.duration_us - 6 * S) < 60_000
    assert reel.take.is_ready
    assert reel.original == ""
    told = client.get(f"/shots/{read_shot.pk}/sound.json").json()["reel"]
    assert told["fromUs"] == 0
    client.post(f"/shots/{read_shot.pk}/reel", {"reel": reel.pk, "frame": "48"})
    assert client.get(f"/shots/{read_shot.pk}/sound.json").json()["reel"]["fromUs"] == 2 * S
    data = b"".join(client.get(f"/reels/{reel.pk}/film").streaming_content)
    assert data[:4] == b"\x1aE\xdf\xa3"
    client.post(f"/shots/{read_shot.pk}/reel", {"reel": reel.pk, "frame": "many"})
    client.post(f"/reels/{reel.pk}/delete")
    read_shot.refresh_from_db()
    assert read_shot.reel is None
    assert Take.objects.filter(source="reel").exists()


@pytest.mark.parametrize(
    ("data", "message"),
    [(b"", "is empty"), (sounds.png_bytes(), "not a film"), (sounds.sentence_wav(), "not a film")],
    ids=["empty", "png", "sound"],
)
def test_what_is_no_film_is_refused_at_once(client, production, data, message):
    answer = client.post(f"/productions/{production.pk}/reels", {"film": upload("x.mp4", data)})
    assert answer.status_code == 422
    assert message in answer.json()["error"]
    assert client.post(f"/productions/{production.pk}/reels").status_code == 422


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "is empty"),
        (sounds.png_bytes(), "is not a sound"),
        (sounds.two_hours(), "the limit is 60 minutes"),
    ],
    ids=["empty", "png", "two-hours"],
)
def test_what_is_no_recording_is_refused_at_once_and_leaves_nothing(client, production, data, message):
    answer = client.post(f"/productions/{production.pk}/takes/upload", {"sound": upload("x.wav", data)})
    assert answer.status_code == 422
    assert message in answer.json()["error"]
    assert not Take.objects.exists()


@pytest.mark.parametrize("channels", [1, 2, 6])
@pytest.mark.parametrize("rate", [8_000, 11_025, 96_000])
def test_odd_rates_and_channels_are_opened(upload_files, channels, rate):
    tone = np.sin(np.arange(rate) * 2 * np.pi * 300 / rate) * 0.3
    (take,) = upload_files(("odd.wav", sounds.wav_bytes(np.repeat(tone[:, None], channels, axis=1), rate)))
    assert abs(take.duration_us - S) < 2_000
    assert (take.channels, take.rate_hz) == (channels, rate)


def test_a_cut_file_keeps_what_is_there_and_a_silent_one_says_so(upload_files, client):
    whole = sounds.sentence_wav()
    cut, silent = upload_files(
        ("cut.wav", whole[: len(whole) // 2]), ("silent.wav", sounds.wav_bytes(np.zeros(16_000)))
    )
    assert "cut short" in cut.note
    assert [f["kind"] for f in silent.findings] == ["silent"]
    assert "No speech found in this recording" in page_of(client, f"/takes/{silent.pk}/")
