"""A set of drawings leaves alone, and comes in again: on another character too."""

import io
import zipfile

import pytest

from tests.apps.conftest import upload
from tests.apps.test_cast import FACE
from tinfork.apps.cast.actions.characters import add_part, copy_chart
from tinfork.apps.cast.models import Chart, Drawing
from tinfork.core.formats import set_zip


@pytest.fixture
def turned(character, chart, client, do_jobs):
    """Odalys in profile, her eyes not seen there."""
    made = copy_chart(chart, chart.part, "left")
    client.post(f"/cast/charts/{made.pk}/face/give", {"face": upload("profile.png", FACE)})
    assert do_jobs().state == "done"
    eyes = add_part(character, kind="eyes", name="Eyes").part
    at = {"x": 0.3, "y": 0.6, "width": 0.2, "angle": 5, "face": made.pk}
    client.post(f"/cast/parts/{chart.part_id}/place", at)
    client.post(f"/cast/parts/{eyes.pk}/place", {**at, "hidden": 1})
    Drawing.objects.filter(chart=made, number=3).update(offset_x=7, is_hidden=True, size=1, key="9")
    return Chart.objects.get(pk=made.pk)


def exported(client, chart):
    return client.get(f"/cast/charts/{chart.pk}/export.zip").getvalue()


def imported(client, on, data, do_jobs, name="left.zip"):
    client.post(f"/cast/charts/{on.pk}/import", {"archive": upload(name, data)})
    return do_jobs()


def test_a_set_comes_back_as_it_left_on_another_character(client, turned, brindle, do_jobs):
    data = exported(client, turned)
    first = brindle.mouth.charts.get()
    add_part(brindle, kind="eyes", name="Eyes")
    job = imported(client, first, data, do_jobs)
    assert job.state == "done"
    made = brindle.mouth.charts.get(name="left")
    assert client.get(f"/jobs/{job.pk}/?then=on")["HX-Redirect"] == f"/cast/charts/{made.pk}/"
    assert "imported with 14 drawings" in client.get(f"/cast/charts/{made.pk}/").content.decode()
    assert client.get(f"/cast/charts/{made.pk}/face").status_code == 200
    assert made.placement_of(brindle.mouth).angle == 5
    assert made.placement_of(brindle.parts.get(name="Eyes")) is None
    before, after = set_zip.read(data), set_zip.read(exported(client, made))
    assert after[1] == before[1] == "mouth"
    for was, now in zip(before[0].drawings, after[0].drawings, strict=True):
        assert (was.drawing, was.key, was.hidden, was.canvas) == (now.drawing, now.key, now.hidden, now.canvas)
        assert (was.point, was.offset) == (now.point, now.offset)
    assert (before[0].face.aspect, before[0].face.places) == (after[0].face.aspect, after[0].face.places)
    # A picture of ours is kept to the byte.
    assert before[0].face.picture == after[0].face.picture


def test_a_set_that_comes_back_to_its_own_part_gets_a_number(client, turned, chart, do_jobs):
    assert imported(client, chart, exported(client, turned), do_jobs).state == "done"
    assert list(chart.part.charts.values_list("name", flat=True)) == ["calm", "left", "left 2"]


def test_a_set_goes_with_its_kind_of_part(client, turned, character, do_jobs):
    eyes = character.parts.get(name="Eyes").charts.get()
    job = imported(client, eyes, exported(client, turned), do_jobs)
    assert (job.state, "for a part of the kind “Mouth”" in job.error) == ("failed", True)
    assert eyes.part.charts.count() == 1


def test_what_is_no_set_is_refused_in_words_and_changes_nothing(client, character, chart, do_jobs):
    whole = client.get(f"/cast/{character.pk}/export.zip").getvalue()
    for data, why in ((whole, "not a set of drawings"), (b"no zip", "not a whole ZIP")):
        job = imported(client, chart, data, do_jobs)
        assert (job.state, job.can_retry, why in job.error) == ("failed", False, True)
    answer = client.post(f"/cast/charts/{chart.pk}/import", follow=True)
    assert "Choose the archive" in answer.content.decode()
    assert chart.part.charts.count() == 1


def test_a_full_part_takes_no_more_sets(client, chart, do_jobs):
    Chart.objects.bulk_create(Chart(part=chart.part, name=f"set {n}") for n in range(39))
    job = imported(client, chart, exported(client, chart), do_jobs)
    assert "up to 40 sets" in job.error


def test_a_set_cannot_bring_a_harmful_svg(client, chart, do_jobs):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(exported(client, chart))) as before, zipfile.ZipFile(out, "w") as after:
        for name in before.namelist():
            content = before.read(name)
            after.writestr(name, content.replace(b"</svg>", b"<script>alert(1)</script></svg>"))
    assert imported(client, chart, out.getvalue(), do_jobs).state == "done"
    made = chart.part.charts.get(name="calm 2")
    assert made.drawings.count() == 14
    assert not any(b"script" in drawing.picture.read() for drawing in made.drawings.all())
