"""Faces that sets of mouths bring with them: a head turn is a change of set."""

import json

import pytest

from tests.apps.conftest import upload
from tests.apps.test_cast import FACE
from tests.apps.test_mouths import edit
from tests.pictures import encoded, mouths
from tinfork.apps.cast.actions.characters import add_part, copy_chart, duplicate_character
from tinfork.apps.cast.models import Character, Chart
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.reading.solving import with_cast
from tinfork.core.formats import character_zip
from tinfork.core.scene.drawing import segments

PLACE = {"x": 0.3, "y": 0.6, "width": 0.2, "angle": 5}


@pytest.fixture
def left(character, chart, client, do_jobs):
    """Odalys in profile: a set of the same mouths on a face of its own."""
    made = copy_chart(chart, chart.part, "left")
    client.post(f"/cast/charts/{made.pk}/face/give", {"face": upload("profile.png", FACE)})
    job = do_jobs()
    assert job.state == "done"
    assert client.get(f"/jobs/{job.pk}/?then=on")["HX-Redirect"] == f"/cast/charts/{made.pk}/place"
    made.refresh_from_db()
    return made


@pytest.fixture
def eyes(character, client, do_jobs):
    """Her eyes: a part with two drawings."""
    first = add_part(character, kind="eyes", name="Eyes")
    files = [upload(f"{n}.png", encoded(mouths()[n])) for n in (1, 10)]
    client.post(f"/cast/charts/{first.pk}/drawings", {"files": files})
    assert do_jobs().state == "done"
    return first.part


def place(client, part, on, **more):
    return client.post(f"/cast/parts/{part.pk}/place", {**PLACE, "face": on.pk, **more})


def test_a_set_is_given_a_face_and_loses_it_and_each_is_undone(client, left, character):
    assert (left.face_suffix, round(left.face_aspect, 2)) == (".jpg", 1.33)
    assert client.get(f"/cast/charts/{left.pk}/face")["Content-Type"] == "image/jpeg"
    assert Character.objects.get(pk=character.pk).face_suffix == ".svg"
    assert (
        "Where a shot shows the set, the head changes" in client.get(f"/cast/charts/{left.pk}/place").content.decode()
    )
    kept = left.face.name
    client.post(f"/cast/charts/{left.pk}/face/drop")
    assert not Chart.objects.get(pk=left.pk).face
    assert client.get(f"/cast/charts/{left.pk}/face").status_code == 404
    client.post(f"/cast/charts/{left.pk}/undo", {"place": "place"})
    assert Chart.objects.get(pk=left.pk).face.name == kept
    client.post(f"/cast/charts/{left.pk}/undo", {"place": "place"})
    assert not Chart.objects.get(pk=left.pk).face


def test_a_face_that_may_come_back_is_kept_when_files_are_swept(client, left, sweep):
    client.post(f"/cast/charts/{left.pk}/face/drop")
    sweep()
    client.post(f"/cast/charts/{left.pk}/undo", {"place": "place"})
    assert client.get(f"/cast/charts/{left.pk}/face").status_code == 200


def test_places_on_the_face_of_a_set_leave_the_usual_ones_alone(client, left, character, eyes):
    usual = character.mouth.placement
    assert place(client, character.mouth, left).json() == {"ok": True}
    left.refresh_from_db()
    at = left.placement_of(character.mouth)
    assert (at.x, at.y, at.width, at.angle) == (0.3, 0.6, 0.2, 5)
    assert at.aspect == pytest.approx(4 / 3, abs=0.01)
    assert Character.objects.get(pk=character.pk).mouth.placement == usual
    assert left.placement_of(eyes).x == eyes.x
    assert place(client, eyes, left, hidden=1).status_code == 200
    left.refresh_from_db()
    assert left.placement_of(eyes) is None
    client.post(f"/cast/charts/{left.pk}/undo", {"place": "place"})
    left.refresh_from_db()
    assert left.placement_of(eyes).x == eyes.x
    assert left.placement_of(character.mouth).x == 0.3


def test_what_cannot_be_placed_is_refused_in_words(client, left, character, chart, eyes, brindle):
    for part, on, more, why in (
        (character.mouth, left, {"hidden": 1}, "The mouth is visible on every face"),
        (character.mouth, left, {"x": 9}, "Keep the drawings inside the picture, at 0.5 to"),
        (eyes, chart, {}, "was removed"),
        (brindle.mouth, left, {}, "was removed"),
    ):
        answer = place(client, part, on, **more)
        assert answer.status_code == 422
        assert why in answer.json()["error"]
    for chart_of, files, why in (
        (eyes.charts.get(), {"face": upload("f.png", FACE)}, "Only a set of mouths can have a face"),
        (left, {}, "Choose the face picture"),
    ):
        answer = client.post(f"/cast/charts/{chart_of.pk}/face/give", files, follow=True)
        assert why in answer.content.decode()


def test_another_parts_page_shows_it_on_the_face_that_is_asked_for(client, left, eyes):
    first = eyes.charts.get()
    own = client.get(f"/cast/charts/{first.pk}/place").context["document"]
    turned = client.get(f"/cast/charts/{first.pk}/place?face={left.pk}").context["document"]
    assert (own["on"], turned["on"], turned["hidden"]) == (None, left.pk, False)
    assert f"/cast/charts/{left.pk}/face" in turned["face"]
    assert client.get(f"/cast/charts/{first.pk}/place?face=77777").context["document"]["on"] is None


def test_a_stretch_of_the_set_shows_its_face_on_the_desk_and_in_what_leaves(client, read_shot, left, eyes):
    place(client, left.part, left)
    place(client, eyes, left, hidden=1)
    assert edit(client, read_shot, "set", chart=left.pk, first=10, last=19).status_code == 200
    edit(client, read_shot, "pin", speaker=str(read_shot.character.pk), first=12, last=13, drawing=-1)
    shot = with_cast(type(read_shot).objects.get(pk=read_shot.pk))
    document = json.loads(json.dumps(desk_document(shot)))
    mouth, other = document["characters"]
    assert mouth["faces"]["left"]["place"]["x"] == 0.3
    assert (list(other["faces"]), other["faces"]["left"]["place"]) == (["left"], None)
    assert [(h["start"], h["end"]) for h in mouth["holds"] if h.get("set") == "left"] == [(12, 14)]
    scene = scene_of(shot)
    seen = {
        frame: [p.key[1:3] for p in drawn]
        for start, end, drawn in segments(scene, (320, 180))
        for frame in range(start, end)
    }
    assert seen[9][:2] == [("", ""), ("Eyes", "")]
    assert seen[10][0] == ("", "left")
    assert seen[12] == [("", "left")]
    assert all(part != "Eyes" for frame in range(10, 20) for part, _ in seen[frame])
    assert seen[20][:2] == [("", ""), ("Eyes", "")]


def test_copies_and_archives_have_the_faces_of_sets_too(client, left, character, eyes, do_jobs, studio):
    place(client, left.part, left)
    place(client, eyes, left, hidden=1)
    twin = duplicate_character(character)
    data = client.get(f"/cast/{character.pk}/export.zip").getvalue()
    client.post("/cast/import", {"archive": upload("Third.zip", data)})
    assert do_jobs().state == "done"
    for other in (twin, studio.characters.get(name="Third")):
        set_ = other.mouth.charts.get(name="left")
        assert client.get(f"/cast/charts/{set_.pk}/face").status_code == 200
        assert set_.placement_of(other.mouth).x == 0.3
        assert set_.placement_of(other.parts.get(name="Eyes")) is None
        packed = character_zip.read(client.get(f"/cast/{other.pk}/export.zip").getvalue())
        face = packed.parts[0].sets[1].face
        assert (face.places["Eyes"], face.places[other.mouth.name].angle) == (None, 5)


def test_a_face_of_a_set_is_taken_from_a_picture_that_is_none(client, chart, do_jobs):
    client.post(f"/cast/charts/{chart.pk}/face/give", {"face": upload("f.png", b"no picture")})
    job = do_jobs()
    assert job.state == "failed"
    assert "can be read" in job.error
    assert not Chart.objects.get(pk=chart.pk).face


def test_an_archived_shot_gives_the_faces_of_sets_back(client, read_shot, left):
    from tinfork.engines.handover.archive import packed

    place(client, left.part, left)
    Chart.objects.filter(pk=left.pk).update(face=keep_bytes(b"<svg viewBox='0 0 4 3'/>", ".svg"))
    shot = with_cast(type(read_shot).objects.get(pk=read_shot.pk))
    character = packed(scene_of(shot).figures[0])
    again = character_zip.read(character_zip.write(character)).parts[0].sets[1].face
    assert (again.picture.data, again.places["Mouth"].x) == (b"<svg viewBox='0 0 4 3'/>", 0.3)
