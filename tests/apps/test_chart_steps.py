"""Changes of a chart, taken back."""

import pytest

from tinfork.apps.cast.actions import charts, drawings
from tinfork.apps.cast.actions.charts import add_set
from tinfork.apps.cast.actions.steps import undo_step
from tinfork.apps.cast.models import ChartStep, Drawing
from tinfork.apps.common.upkeep import references
from tinfork.core.errors import ChartError
from tinfork.core.mouths.style import MOODS, Ink, Style


@pytest.fixture
def chart(character):
    return character.mouth.charts.first()


def state(chart):
    """All that a person sees of a chart."""
    fields = (
        "number",
        "name",
        "key",
        "shows",
        "position",
        "picture",
        "point_x",
        "offset_x",
        "canvas_width",
        "is_hidden",
    )
    chart.part.refresh_from_db()
    return list(chart.drawings.values_list("pk", *fields)), (chart.part.x, chart.part.y, chart.part.width)


def first(chart):
    return chart.drawings.get(number=1)


CHANGES = {
    "removed": lambda c: drawings.delete_drawing(first(c)),
    "starter chart added": lambda c: drawings.add_starter_drawings(
        c, drawings=14, style=Style(Ink(), mood=MOODS["glad"])
    ),
    "lined up": lambda c: charts.register_drawing(first(c), point=(3, 4), offset=(5, 6)),
    "placed": lambda c: charts.place_part(c.part, x=0.2, y=0.3, width=0.5, angle=0.1, on=c),
    "laid": lambda c: charts.lay_sound(c, claim="m", on=first(c).pk),
    "order": lambda c: charts.order_drawings(c, drawing=first(c).pk, before=None),
    "hidden": lambda c: charts.mend(c, kind="hide", numbers=[2]),
    "described": lambda c: drawings.edit_drawing(
        first(c), seen=first(c).revision, number=77, name="new", key="", size=0, is_hidden=True
    ),
}


@pytest.mark.parametrize("what", CHANGES)
def test_each_change_of_a_chart_is_undone(client, chart, what):
    before = state(chart)
    CHANGES[what](chart)
    assert state(chart) != before
    page = client.post(f"/cast/charts/{chart.pk}/undo", {"place": "sounds"}, follow=True).content.decode()
    assert "Undone: " in page
    assert what in page
    assert state(chart) == before
    page = client.post(f"/cast/charts/{chart.pk}/undo", {"place": "place"}, follow=True).content.decode()
    assert "nothing to undo" in page


def test_several_are_taken_back_one_by_one_the_last_first(chart):
    states = []
    for change in CHANGES.values():
        states.append(state(chart))
        change(chart)
    for before in reversed(states):
        undo_step(chart)
        assert state(chart) == before
    with pytest.raises(ChartError, match="nothing to undo"):
        undo_step(chart)


def test_pushing_a_drawing_pixel_by_pixel_is_one_change(chart):
    before = state(chart)
    for x in range(5):
        charts.register_drawing(first(chart), point=(x, 0), offset=(0, 0))
    undo_step(chart)
    assert state(chart) == before


def test_undo_in_one_set_leaves_the_place_that_was_given_in_another(chart):
    """The place on the face is all sets': only who moved it takes it back, and from where they left it."""
    glad = add_set(chart.part, name="glad", like=chart)
    drawings.delete_drawing(first(glad))
    charts.place_part(chart.part, x=0.2, y=0.3, width=0.5, angle=0.0, on=glad)
    charts.place_part(chart.part, x=0.4, y=0.4, width=0.4, angle=0.0, on=chart)
    for _ in range(2):
        undo_step(glad)
        chart.part.refresh_from_db()
        assert chart.part.x == 0.4
    assert glad.drawings.filter(number=1).exists()


def test_a_form_that_was_open_does_not_save_over_what_came_back(chart):
    seen = first(chart).revision
    drawings.edit_drawing(first(chart), seen=seen, number=1, name="other", key="", size=0, is_hidden=False)
    undo_step(chart)
    with pytest.raises(drawings.StaleDrawingError):
        drawings.edit_drawing(first(chart), seen=seen + 1, number=1, name="x", key="", size=0, is_hidden=False)


def test_pictures_that_may_come_back_are_kept(chart):
    gone = first(chart)
    key = gone.picture.name
    Drawing.objects.filter(picture=key).exclude(pk=gone.pk).delete()
    drawings.delete_drawing(gone)
    assert key in references()
    ChartStep.objects.all().delete()
    assert key not in references()


def test_the_starter_chart_keeps_how_drawings_are_lined_up(chart):
    """On the same canvas to the pixel; from another one in shares of it."""
    charts.register_drawing(first(chart), point=(30, 40), offset=(5, 6))
    drawings.add_starter_drawings(chart, drawings=8, style=Style(Ink()))
    same = first(chart)
    assert (same.point_x, same.point_y, same.offset_x, same.offset_y) == (30, 40, 5, 6)
    Drawing.objects.filter(pk=same.pk).update(
        width=2 * same.width, height=2 * same.height, canvas_width=2 * same.width, point_x=60, point_y=80, offset_x=10
    )
    drawings.add_starter_drawings(chart, drawings=8, style=Style(Ink()))
    again = first(chart)
    assert (again.point_x, again.point_y, again.offset_x) == (30, 40, 5)


def test_only_who_may_change_a_chart_may_undo(viewer, stranger, chart):
    drawings.delete_drawing(first(chart))
    assert viewer.post(f"/cast/charts/{chart.pk}/undo").status_code == 403
    assert stranger.post(f"/cast/charts/{chart.pk}/undo").status_code == 404
