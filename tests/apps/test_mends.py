"""A chart checked and mended."""

import pytest

from tests.apps.charts import PICTURES, checked, on_face, said, upload_files
from tests.apps.conftest import upload
from tests.pictures import encoded, ink_box, on_ground, pixels_of
from tinfork.apps.cast.models import Drawing
from tinfork.core.mouths.starter import STARTER


def claim_all(chart):
    for drawing in chart.drawings.all():
        drawing.shows = list(STARTER.drawings[drawing.number - 1].shows)
        drawing.save()


def test_a_clean_chart_is_said_to_be_clean(client, uploaded):
    claim_all(uploaded)
    assert checked(client, uploaded) == []
    assert "Nothing to fix" in said(client.get(f"/cast/charts/{uploaded.pk}/check"))


def faulty(client, chart, finish, number, pixels):
    claim_all(chart)
    drawing = chart.drawings.get(number=number)
    client.post(f"/cast/drawings/{drawing.pk}/replace", {"picture": upload("x.png", encoded(pixels))})
    assert finish(chart).state == "done"
    return drawing


def mend(client, chart, kind, *numbers, **more):
    return client.post(f"/cast/charts/{chart.pk}/mend", {"mend": kind, "number": numbers} | more)


def test_a_drift_is_mended_by_recentring(client, uploaded, finish):
    import numpy as np

    faulty(client, uploaded, finish, 5, np.roll(PICTURES[5], 24, axis=1))
    assert checked(client, uploaded) == [("drift", (5,), "recentre")]
    mend(client, uploaded, "recentre", 5)
    assert checked(client, uploaded) == []
    assert uploaded.drawings.get(number=5).point_x == pytest.approx(224, abs=1)


def test_an_opaque_ground_is_mended_by_a_job(client, uploaded, finish):
    drawing = faulty(client, uploaded, finish, 14, on_ground(PICTURES[14]))
    assert ("ground", (14,), "clear") in checked(client, uploaded)
    mend(client, uploaded, "clear", 14)
    assert finish(uploaded).state == "done"
    assert checked(client, uploaded) == []
    drawing.refresh_from_db()
    assert drawing.shows == ["open"]
    assert ink_box(pixels_of(drawing.picture.read())) == pytest.approx(ink_box(PICTURES[14]), abs=2)


def test_canvases_are_padded_to_one_without_anything_moving_on_the_face(client, uploaded, finish):
    import numpy as np

    faulty(client, uploaded, finish, 7, np.pad(PICTURES[7], ((0, 80), (0, 100), (0, 0))))
    Drawing.objects.filter(chart=uploaded, number=7).update(point_x=200, point_y=150)
    assert ("canvas", (7,), "pad") in checked(client, uploaded)
    before = on_face(uploaded)
    mend(client, uploaded, "pad", 7)
    assert finish(uploaded).state == "done"
    assert checked(client, uploaded) == []
    assert len({(d.width, d.height) for d in uploaded.drawings.all()}) == 1
    for number, place in on_face(uploaded).items():
        assert place == pytest.approx(before[number], abs=0.01)


def test_empty_canvases_are_trimmed_and_small_pictures_kept_whole(client, blank, finish):
    import numpy as np

    wide = {n: np.pad(p, ((600, 600), (800, 800), (0, 0))) for n, p in PICTURES.items()}
    upload_files(client, blank, [(f"{n}.png", encoded(p)) for n, p in wide.items()])
    finish(blank)
    claim_all(blank)
    assert [f[2] for f in checked(client, blank)] == ["trim"]
    mend(client, blank, "trim", *range(1, 15))
    assert finish(blank).state == "done"
    assert checked(client, blank) == []
    drawing = blank.drawings.get(number=14)
    assert drawing.width < 300
    assert pixels_of(drawing.picture.read())[:, :, 3].sum() == PICTURES[14][:, :, 3].sum()


def test_twins_are_hidden_and_missing_closures_laid(client, uploaded, finish):
    faulty(client, uploaded, finish, 9, PICTURES[5])
    assert checked(client, uploaded) == [("same", (5, 9), "hide")]
    Drawing.objects.filter(chart=uploaded, number=9).update(position=0)
    mend(client, uploaded, "hide", 5, 9)
    assert uploaded.drawings.get(number=9).is_hidden
    Drawing.objects.filter(chart=uploaded, number=2).update(shows=[])
    ((_, (number,), kind),) = checked(client, uploaded)
    mend(client, uploaded, kind, number, sound="bilabial")
    assert "bilabial" in uploaded.drawings.get(number=number).shows
    assert checked(client, uploaded) == []


def test_a_mend_of_nothing_says_so(client, uploaded):
    for kind, number in (("recentre", 99), ("explode", 1)):
        answer = client.post(f"/cast/charts/{uploaded.pk}/mend", {"mend": kind, "number": number}, follow=True)
        assert (
            'role="alert"' in said(answer)
            or "meanwhile" in said(answer)
            or "That correction does not exist" in said(answer)
        )
