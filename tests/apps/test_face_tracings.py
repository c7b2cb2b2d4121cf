"""A face that was traced again: uploaded, seen in turn, undone on a set, copied, packed, and let go with its face."""

import io
import json

import pytest
from PIL import Image

from tests.apps.conftest import upload
from tests.apps.test_cast import FACE
from tests.apps.test_set_archives import exported, imported, turned  # noqa: F401
from tinfork.apps.cast.actions.characters import duplicate_character
from tinfork.apps.cast.models import Character, Chart
from tinfork.apps.common.storage import the_storage
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.reading.solving import with_cast
from tinfork.core.scene.drawing import segments
from tinfork.engines.handover.archive import EXPORTER
from tinfork.engines.handover.command import open_scene


def picture(colour, size):
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "PNG")
    return out.getvalue()


def like(of, scale=120):
    """A size of a face's shape."""
    return round(scale * of.face_aspect), scale


def trace(client, address, of, do_jobs, *colours, size=None):
    files = [upload(f"{colour}.png", picture(colour, size or like(of))) for colour in colours]
    client.post(f"{address}/face/trace", {"files": files})
    return do_jobs()


def test_a_characters_face_is_traced_shown_and_taken_off(client, character, do_jobs, sweep):
    here = f"/cast/{character.pk}"
    assert trace(client, here, character, do_jobs, "red", "blue").state == "done"
    now = Character.objects.get(pk=character.pk)
    assert len(set(now.face_tracings)) == 2
    assert "Remove 2 tracings of the face" in client.get(f"{here}/edit").content.decode()
    sweep()
    assert set(now.face_tracings) <= set(the_storage().stored())
    answer = client.get(f"{here}/face?tracing=2")
    # A picture without clear pixels is kept as JPEG.
    assert Image.open(io.BytesIO(answer.getvalue())).getpixel((1, 1))[:3] == pytest.approx((0, 0, 255), abs=3)
    assert [client.get(f"{here}/face?tracing={asked}").status_code for asked in ("0", "3", "x")] == [404] * 3
    client.post(f"{here}/face/untrace")
    assert Character.objects.get(pk=character.pk).face_tracings == []
    sweep()
    assert not set(now.face_tracings) & set(the_storage().stored())


@pytest.mark.parametrize(
    ("colours", "size", "says"),
    [(["red"], (90, 400), "A tracing must have the same width and height"), (["red"] * 8, None, "up to 7 tracings")],
)
def test_what_is_no_tracing_of_it_is_refused_in_words(client, character, do_jobs, colours, size, says):
    job = trace(client, f"/cast/{character.pk}", character, do_jobs, *colours, size=size)
    assert (job.state, says in job.error) == ("failed", True)
    assert Character.objects.get(pk=character.pk).face_tracings == []
    answer = client.post(f"/cast/{character.pk}/face/trace", follow=True)
    assert "Choose" in answer.content.decode()


def test_without_a_face_there_is_nothing_to_trace_and_another_face_has_no_tracings(client, character, do_jobs):
    here = f"/cast/{character.pk}"
    assert trace(client, here, character, do_jobs, "red").state == "done"
    client.post(f"{here}/edit", {"name": character.name, "ink": 1, "face": upload("other.png", FACE)})
    assert do_jobs().state == "done"
    assert Character.objects.get(pk=character.pk).face_tracings == []
    client.post(f"{here}/edit", {"name": character.name, "ink": 1, "drop_face": "on"})
    job = trace(client, here, character, do_jobs, "red")
    assert "The face picture was removed" in job.error
    assert "tracings" not in client.get(f"{here}/edit").content.decode()


def test_the_face_of_a_set_is_traced_and_that_is_undone(client, turned, do_jobs, sweep):  # noqa: F811
    here = f"/cast/charts/{turned.pk}"
    assert trace(client, here, turned, do_jobs, "red").state == "done"
    traced = Chart.objects.get(pk=turned.pk).face_tracings
    assert len(traced) == 1
    assert "Remove 1 tracing of the face" in client.get(f"{here}/place").content.decode()
    assert client.get(f"{here}/face?tracing=1").status_code == 200
    client.post(f"{here}/face/untrace")
    assert Chart.objects.get(pk=turned.pk).face_tracings == []
    sweep()
    client.post(f"{here}/undo", {"place": "place"})
    assert Chart.objects.get(pk=turned.pk).face_tracings == traced
    # What can be brought back is kept.
    assert client.get(f"{here}/face?tracing=1").status_code == 200
    client.post(f"{here}/undo", {"place": "place"})
    assert Chart.objects.get(pk=turned.pk).face_tracings == []


def test_copies_and_archives_have_them(client, character, turned, brindle, do_jobs):  # noqa: F811
    trace(client, f"/cast/{character.pk}", character, do_jobs, "red", "blue")
    trace(client, f"/cast/charts/{turned.pk}", turned, do_jobs, "green")
    twin = duplicate_character(Character.objects.get(pk=character.pk))
    assert (len(twin.face_tracings), [len(c.face_tracings) for c in twin.mouth.charts.all()]) == (2, [0, 1])
    assert imported(client, brindle.mouth.charts.get(), exported(client, turned), do_jobs).state == "done"
    assert len(brindle.mouth.charts.get(name="left").face_tracings) == 1
    data = client.get(f"/cast/{character.pk}/export.zip").getvalue()
    client.post("/cast/import", {"archive": upload("Odalys again.zip", data)})
    assert do_jobs().state == "done"
    again = Character.objects.get(name="Odalys again")
    assert (len(again.face_tracings), [len(c.face_tracings) for c in again.mouth.charts.all()]) == (2, [0, 1])


def test_a_shots_archive_has_them_and_opens_with_them(client, read_shot, character, turned, do_jobs, tmp_path):  # noqa: F811
    trace(client, f"/cast/{character.pk}", character, do_jobs, "red", "blue")
    trace(client, f"/cast/charts/{turned.pk}", turned, do_jobs, "green")
    scene = scene_of(with_cast(type(read_shot).objects.get(pk=read_shot.pk)))
    with (tmp_path / "shot.zip").open("w+b") as out:
        EXPORTER.write(scene, {}, out, lambda done: None)
    with open_scene(tmp_path / "shot.zip") as again:
        figure = again.figure("Odalys")
    assert [len(face.tracings) for face in (figure.face, figure.faces["left"])] == [2, 1]
    assert figure.face.tracings[0].data == scene.figure("Odalys").face.tracings[0].data


def test_the_desk_and_what_leaves_show_them_in_turn(client, read_shot, character, do_jobs):
    assert trace(client, f"/cast/{character.pk}", character, do_jobs, "red").state == "done"
    shot = with_cast(type(read_shot).objects.get(pk=read_shot.pk))
    (address,) = json.loads(json.dumps(desk_document(shot)))["characters"][0]["tracings"]
    assert client.get(address)["Cache-Control"].endswith("immutable")
    seen = {
        frame: next(p.picture.suffix for p in drawn if not p.key[1])
        for start, end, drawn in segments(scene_of(shot), (320, 180), boils=True)
        for frame in range(start, end)
    }
    # On twos, as lines boil where nobody says otherwise.
    assert all(suffix == (".jpg" if frame // 2 % 2 else ".svg") for frame, suffix in seen.items())
    assert {".jpg", ".svg"} == set(seen.values())
