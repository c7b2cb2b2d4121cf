"""The same drawing traced several times: uploaded, seen in turn, undone, copied, packed."""

import io
import json

import pytest
from PIL import Image

from tests.apps.conftest import upload
from tests.pictures import encoded, mouths
from tinfork.apps.cast.actions.characters import duplicate_character
from tinfork.apps.cast.models import Drawing
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.reading.solving import with_cast
from tinfork.core.formats import set_zip
from tinfork.core.scene.drawing import segments


@pytest.fixture
def drawn(client, blank, do_jobs):
    """A chart with one drawing of somebody's own, on a canvas of its own shape."""
    chart = blank
    client.post(f"/cast/charts/{chart.pk}/drawings", {"files": [upload("1 wide.png", encoded(mouths()[10]))]})
    assert do_jobs().state == "done"
    return chart.drawings.get()


def trace(client, drawing, do_jobs, *names, picture=None):
    files = [upload(name, picture or encoded(mouths()[n + 11])) for n, name in enumerate(names)]
    client.post(f"/cast/drawings/{drawing.pk}/trace", {"files": files})
    return do_jobs()


def test_tracings_are_brought_kept_shown_and_taken_off_and_each_is_undone(client, drawn, do_jobs, sweep):
    assert trace(client, drawn, do_jobs, "again.png", "and again.png").state == "done"
    now = Drawing.objects.get(pk=drawn.pk)
    assert (len(now.tracings), len(set(now.tracings))) == (2, 2)
    assert "Remove 2 tracings" in client.get(f"/cast/drawings/{drawn.pk}/").content.decode()
    sweep()
    shown = [client.get(f"/cast/drawings/{drawn.pk}/picture?tracing={n}").getvalue() for n in (1, 2)]
    assert len({*shown, client.get(f"/cast/drawings/{drawn.pk}/picture").getvalue()}) == 3
    assert all(Image.open(io.BytesIO(data)).size == (drawn.width, drawn.height) for data in shown)
    client.post(f"/cast/drawings/{drawn.pk}/untrace")
    assert Drawing.objects.get(pk=drawn.pk).tracings == []
    sweep()
    client.post(f"/cast/charts/{drawn.chart_id}/undo", {"place": "sounds"})
    assert Drawing.objects.get(pk=drawn.pk).tracings == now.tracings
    assert client.get(f"/cast/drawings/{drawn.pk}/picture?tracing=2").getvalue() == shown[1]
    client.post(f"/cast/charts/{drawn.chart_id}/undo", {"place": "sounds"})
    client.post(f"/cast/charts/{drawn.chart_id}/undo", {"place": "sounds"})
    assert Drawing.objects.get(pk=drawn.pk).tracings == []


def test_a_picture_of_another_shape_is_no_tracing(client, drawn, do_jobs):
    out = io.BytesIO()
    Image.new("RGBA", (50, 90), (0, 0, 0, 255)).save(out, "PNG")
    job = trace(client, drawn, do_jobs, "tall.png", picture=out.getvalue())
    assert (job.state, "A tracing must be as large as its drawing" in job.error) == ("failed", True)
    assert Drawing.objects.get(pk=drawn.pk).tracings == []
    assert trace(client, drawn, do_jobs, "none.png", picture=b"no picture").state == "failed"
    answer = client.post(f"/cast/drawings/{drawn.pk}/trace", follow=True)
    assert "Choose" in answer.content.decode()


def test_a_bad_file_does_not_stop_the_others_and_is_named(client, drawn, do_jobs):
    files = [upload("good.png", encoded(mouths()[12])), upload("bad.png", b"no picture")]
    client.post(f"/cast/drawings/{drawn.pk}/trace", {"files": files})
    job = do_jobs()
    assert (job.state, ["bad.png" in note for note in job.notes]) == ("done", [True])
    assert len(Drawing.objects.get(pk=drawn.pk).tracings) == 1


def test_tracings_of_a_drawing_that_was_removed_meanwhile_are_refused_in_words(client, drawn, do_jobs):
    client.post(f"/cast/drawings/{drawn.pk}/trace", {"files": [upload("again.png", encoded(mouths()[12]))]})
    client.post(f"/cast/drawings/{drawn.pk}/delete")
    job = do_jobs()
    assert (job.state, "removed meanwhile" in job.error) == ("failed", True)


def test_there_are_seven_at_most_and_of_a_replaced_drawing_none(client, drawn, do_jobs):
    assert trace(client, drawn, do_jobs, *(f"{n}.png" for n in range(3))).state == "done"
    assert trace(client, drawn, do_jobs, *(f"{n}.png" for n in range(3))).state == "done"
    job = trace(client, drawn, do_jobs, "a.png", "b.png")
    assert "up to 7 tracings" in job.error
    assert len(Drawing.objects.get(pk=drawn.pk).tracings) == 6
    client.post(f"/cast/drawings/{drawn.pk}/replace", {"picture": upload("new.png", encoded(mouths()[5]))})
    assert do_jobs().state == "done"
    assert Drawing.objects.get(pk=drawn.pk).tracings == []


@pytest.mark.parametrize("asked", ["0", "3", "-1", "x", "1e9"])
def test_a_tracing_that_there_is_not_is_not_found(client, drawn, do_jobs, asked):
    trace(client, drawn, do_jobs, "again.png", "and again.png")
    assert client.get(f"/cast/drawings/{drawn.pk}/picture?tracing={asked}").status_code == 404


def test_copies_archives_the_desk_and_what_leaves_have_them(client, read_shot, chart, do_jobs):
    mouth = chart.drawings.get(number=5)
    # The starter's drawings are SVG of 160 x 120.
    out = io.BytesIO()
    Image.new("RGBA", (4 * mouth.width, 4 * mouth.height), (200, 0, 0, 255)).save(out, "PNG")
    assert trace(client, mouth, do_jobs, "red.png", picture=out.getvalue()).state == "done"
    twin = duplicate_character(chart.part.character).mouth.charts.get()
    assert len(twin.drawings.get(number=5).tracings) == 1
    data = client.get(f"/cast/charts/{chart.pk}/export.zip").getvalue()
    assert [len(d.tracings) for d in set_zip.read(data)[0].drawings][3:6] == [0, 1, 0]
    client.post(f"/cast/charts/{chart.pk}/import", {"archive": upload("calm.zip", data)})
    assert do_jobs().state == "done"
    again = chart.part.charts.get(name="calm 2").drawings.get(number=5)
    assert len(again.tracings) == 1
    assert client.get(f"/cast/drawings/{again.pk}/picture?tracing=1")["Content-Type"] == "image/png"
    shot = with_cast(type(read_shot).objects.get(pk=read_shot.pk))
    document = json.loads(json.dumps(desk_document(shot)))
    told = {d["id"]: d["tracings"] for d in document["characters"][0]["drawings"]}
    (address,) = told[mouth.pk]
    assert client.get(address)["Cache-Control"].endswith("immutable")
    assert sum(map(len, told.values())) == 2
    holds = document["characters"][0]["holds"]
    hold = max((h for h in holds if h["drawing"] == mouth.pk), key=lambda h: h["end"] - h["start"])
    assert hold["end"] - hold["start"] > 2
    seen = {
        frame: next(p.picture.suffix for p in drawn if p.key[1])
        for start, end, drawn in segments(scene_of(shot), (320, 180), boils=True)
        for frame in range(start, end)
    }
    inside = [seen[frame] for frame in range(hold["start"], hold["end"])]
    assert inside == [".png" if frame // 2 % 2 else ".svg" for frame in range(hold["start"], hold["end"])]
