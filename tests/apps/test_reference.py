"""A film beside a shot: uploaded, seen, followed, laid down as keys, and gone at once."""

import subprocess
from pathlib import Path

import numpy as np
import pytest

from tests.apps.conftest import upload
from tests.apps.test_acting import eyes, keys_of, send  # noqa: F401
from tests.pictures import encoded, mouths
from tinfork.apps.cast.actions.characters import add_part
from tinfork.apps.common.storage import the_storage
from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reference.models import Reference
from tinfork.apps.sound.models import Reel
from tinfork.core.motion.curve import pose_on
from tinfork.core.motion.faces import SIGNALS, FaceTrack
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, frame_keys
from tools.demo.stand_in_face import BLINKS, SHIPPED

FILM = SHIPPED.read_bytes()


@pytest.fixture
def panel(client, read_shot, django_capture_on_commit_callbacks):
    """Post to one of the panel's addresses; the panel that comes back."""

    def post(where="", **values):
        with django_capture_on_commit_callbacks(execute=True):
            answer = client.post(f"/shots/{read_shot.pk}/reference{where}", values)
        assert answer.status_code == 200
        return answer.content.decode()

    return post


@pytest.fixture
def do(do_jobs, django_capture_on_commit_callbacks):
    """Do what waits, with all that follows from it; the last job."""

    def work():
        with django_capture_on_commit_callbacks(execute=True):
            return do_jobs()

    return work


@pytest.fixture
def film(panel, do):
    """A film beside the shot, opened."""
    panel(film=upload("me.webm", FILM), begins_us="-250000")
    assert do().state == "done"
    return Reference.objects.get()


@pytest.fixture
def followed(film, panel, do):
    """The same, its face followed."""
    panel("/follow")
    assert do().state == "done"
    film.refresh_from_db()
    return film


def stored():
    """Every stored file."""
    return set(the_storage().stored())


def test_a_film_is_opened_stands_beside_the_stage_and_can_begin_elsewhere(client, read_shot, film, panel):
    assert (film.begins_us, film.original) == (-250_000, "")
    assert 7_900_000 < film.duration_us < 8_100_000
    shown = client.get(f"/shots/{read_shot.pk}/reference").content.decode()
    assert f"/references/{film.pk}/film" in shown
    assert 'data-begins="-250000"' in shown
    assert "Follow the face" in shown
    answer = client.get(f"/references/{film.pk}/film", headers={"Range": "bytes=0-3"})
    assert (answer.status_code, answer.getvalue()) == (206, b"\x1aE\xdf\xa3")
    assert "no-store" in answer["Cache-Control"]
    panel("/begin", frame="13")
    film.refresh_from_db()
    assert film.begins_us == 500_000
    assert "start frame goes from" in panel("/begin", frame="soon")
    panel("/begin", frame="-11")
    film.refresh_from_db()
    assert film.begins_us == -500_000


def test_a_face_is_followed_and_what_it_does_is_laid_down_as_keys(client, read_shot, eyes, followed, panel):  # noqa: F811
    assert followed.notes == []
    shown = panel("/begin", frame="1")
    assert f"A face on 100% of it, {len(BLINKS)} blinks." in shown
    part = f"-{eyes.pk}"
    assert f'data-part="{part}"' in shown
    columns = [{"part": "head"}, {"part": part, "later": 2}]
    status, told = send(client, read_shot, "follow_film", film=followed.pk, columns=columns)
    assert status == 200, told
    rate = read_shot.production.rate
    content = Soundtrack.objects.get(shot=read_shot).content
    motion = {
        one: frame_keys(column_keys(content, MotionColumn(str(read_shot.character.pk), one)), rate)
        for one in ("head", part)
    }
    # It blinks two frames later than the face does, is shut then, and open in between.
    for at in BLINKS[:3]:
        frames = range(rate.frame_at(round(at * 1e6)) + 2, rate.frame_at(round((at + 0.3) * 1e6)) + 3)
        assert min(pose_on(motion[part], frame).size for frame in frames) < -140
    assert abs(pose_on(motion[part], 3).size) < 3
    assert max(abs(pose_on(motion["head"], frame).turn) for frame in range(30, 60)) > 5
    again = client.post(
        f"/shots/{read_shot.pk}/mouths",
        {"revision": told["document"]["revision"], "shown": told["document"]["revision"], "name": "undo"},
        content_type="application/json",
    )
    assert again.status_code == 200
    assert keys_of(read_shot) == ()


def test_nobody_follows_with_parts_of_somebody_else(client, read_shot, brindle, followed, do_jobs):
    others = add_part(brindle, kind="eyes", name="Eyes")
    client.post(f"/cast/charts/{others.pk}/drawings", {"files": [upload("1.png", encoded(mouths()[10]))]})
    assert do_jobs().state == "done"
    client.post(f"/shots/{read_shot.pk}/cast", {"add": brindle.pk})
    shown = client.get(f"/shots/{read_shot.pk}/reference").content.decode()
    assert shown.count(f'data-character="{brindle.pk}" data-part="-{others.part_id}"') == 1
    assert shown.count(f'data-part="-{others.part_id}"') == 1
    columns = [{"part": f"-{others.part_id}"}]
    status, told = send(client, read_shot, "follow_film", film=followed.pk, columns=columns)
    assert (status, "cannot follow a face" in told["error"]) == (422, True)


def test_what_is_removed_is_gone_from_the_disk_at_once(client, read_shot, panel, do):
    before = stored()
    panel(film=upload("me.webm", FILM))
    assert do().state == "done"
    panel("/follow")
    assert do().state == "done"
    film = Reference.objects.get()
    mine = stored() - before
    # The copy and what was found; the original went as soon as it was opened.
    assert len(mine) == 2
    assert "Record yourself" in panel("/delete")
    assert not Reference.objects.exists()
    assert stored() == before
    assert client.get(f"/references/{film.pk}/film").status_code == 404
    status, told = send(client, read_shot, "follow_film", film=film.pk, columns=[{"part": "head"}])
    assert (status, "That film was removed, or its face has not been" in told["error"]) == (422, True)


def test_another_film_takes_its_place_and_a_file_that_others_name_stays(read_shot, film, panel, do):
    key = film.film.name
    Reel.objects.create(production=read_shot.production, name="the same", film=key)
    panel(stand_in="1")
    assert do().state == "done"
    now = Reference.objects.get()
    assert (now.pk != film.pk, now.name) == (True, "Stand-in")
    assert key in stored()


def test_it_is_in_nothing_that_leaves(client, production, read_shot, followed, do):
    client.post(f"/productions/{production.pk}/pack")
    assert do().state == "done"
    packed = Job.objects.filter(kind="pack").latest("created_at")
    data = packed.result.open().read()
    for field in (followed.film, followed.face):
        assert Path(field.name).name.encode() not in data
        assert field.open().read()[:4000] not in data
    assert b"me.webm" not in data


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("no.webm", b"no film", "is not a film"),
        ("empty.webm", b"", "is empty"),
    ],
)
def test_what_is_no_film_is_refused_and_nothing_of_it_stays(read_shot, panel, name, data, says):
    before = stored()
    assert says in panel(film=upload(name, data))
    assert not Reference.objects.exists()
    assert stored() == before
    assert "Choose the film" in panel()


def test_a_film_that_turns_out_too_long_or_cut_is_let_go_with_words(panel, do, monkeypatch):
    monkeypatch.setattr("tinfork.apps.reference.work.MAX_REFERENCE_S", 6)
    before = stored()
    panel(film=upload("long.webm", FILM))
    job = do()
    assert (job.state, "is longer than" in job.error) == ("failed", True)
    assert not Reference.objects.exists()
    assert stored() == before
    monkeypatch.setattr("tinfork.apps.reference.views.MAX_REFERENCE_BYTES", 1000)
    assert "is larger than" in panel(film=upload("big.webm", FILM))


def test_a_film_without_a_face_stays_and_says_so(panel, do, tmp_path):
    path = tmp_path / "sky.mp4"
    subprocess.run(
        ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc2=size=160x120:duration=1", str(path)], check=True
    )
    panel(film=upload("sky.mp4", path.read_bytes()))
    assert do().state == "done"
    panel("/follow")
    assert do().state == "failed"
    shown = panel("/begin", frame="1")
    assert "No face could be followed" in shown
    assert "Follow the face" in shown


def test_without_the_models_the_page_says_what_is_missing_and_the_film_is_still_seen(
    client, read_shot, film, panel, monkeypatch, tmp_path
):
    monkeypatch.setenv("TINFORK_FACE_MODELS", str(tmp_path))
    shown = panel("/follow")
    assert "Faces cannot be followed on this site yet: its" in shown
    assert f"/references/{film.pk}/film" in shown
    assert not Job.objects.filter(kind="faces").exists()


def test_following_can_be_cancelled_and_the_film_stays_opening_it_and_it_goes(film, panel, do):
    before = stored()
    panel("/follow")
    shown = panel("/stop")
    assert "Follow the face" in shown
    assert do() is None or Job.objects.get(kind="faces").state == "cancelled"
    assert Job.objects.get(kind="faces").state == "cancelled"
    assert (Reference.objects.get().face, stored()) == ("", before)
    panel(film=upload("other.webm", FILM))
    assert "Record yourself" in panel("/stop")
    assert not Reference.objects.exists()
    assert not any(key.endswith((".film", ".webm", ".face")) for key in stored())


def test_a_film_that_is_brought_while_the_one_before_it_is_followed_stops_that(film, panel, do, monkeypatch):
    shown = []

    def busy(function, path, name, *, progress, **more):
        shown.append(panel(film=upload("other.webm", FILM)))
        # What was asked to stop is asked to stop.
        progress("Following the face", 0.5)

    monkeypatch.setattr("tinfork.apps.reference.work.run_isolated", busy)
    # A worker has it in hand.
    monkeypatch.setattr("tinfork.apps.jobs.actions.is_anyone_working", lambda: True)
    monkeypatch.setattr("tinfork.apps.jobs.actions.is_lost", lambda job: False)
    panel("/follow")
    assert do().state == "cancelled"
    assert "The previous film is still being removed" in shown[0]
    assert Reference.objects.get().pk == film.pk
    panel(film=upload("other.webm", FILM))
    assert do().state == "done"
    assert Reference.objects.get().name == "other.webm"


def test_taken_away_while_it_is_followed_it_stays_away(client, read_shot, film, panel, do, monkeypatch):
    def gone(function, path, name, **more):
        panel("/delete")
        return FaceTrack(np.zeros(1, np.int64), np.zeros((1, len(SIGNALS)))), []

    monkeypatch.setattr("tinfork.apps.reference.work.run_isolated", gone)
    before = stored()
    panel("/follow")
    job = do()
    assert job.state in ("failed", "cancelled")
    assert not Reference.objects.exists()
    assert stored() < before


def test_a_viewer_sees_the_film_but_changes_nothing(viewer, read_shot, followed):
    shown = viewer.get(f"/shots/{read_shot.pk}/reference")
    assert shown.status_code == 200
    assert "Add keys" not in shown.content.decode()
    for where in ("", "/begin", "/follow", "/stop", "/delete"):
        assert viewer.post(f"/shots/{read_shot.pk}/reference{where}", {"frame": "1"}).status_code == 403
    assert Reference.objects.count() == 1
