"""Undo for charts: each change stores the state before it."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from tinfork.apps.cast.models import Chart, ChartStep, Drawing, Part
from tinfork.apps.reading.looks import count_anew
from tinfork.core.errors import ChartError

#: How many changes of a chart can be undone.
MOST = 100
#: Changes of one kind within this time are a single step, as when a drawing is moved pixel by pixel.
_ONE = timedelta(seconds=2)
_PLACE = ("x", "y", "width", "angle")
_FACE = ("face", "face_aspect", "face_places", "face_tracings")
_FIELDS = tuple(field.attname for field in Drawing._meta.concrete_fields if field.attname != "chart_id")


def _state(chart: Chart) -> dict[str, Any]:
    """All drawings of a chart, its part's place and its own face, as plain values."""
    place = Part.objects.values_list(*_PLACE).get(pk=chart.part_id)
    face = Chart.objects.values(*_FACE).get(pk=chart.pk)
    return {"place": list(place), "face": face, "drawings": list(Drawing.objects.filter(chart=chart).values(*_FIELDS))}


@contextmanager
def undoable(chart: Chart, what: str) -> Iterator[None]:
    """A context in which a chart is changed, in a transaction; the state before is stored if anything changed.

    `what` describes it: "drawing 3 removed". Changes of the same chart are serialised.
    """
    with transaction.atomic():
        Chart.objects.select_for_update().get(pk=chart.pk)
        before = _state(chart)
        yield
        after = _state(chart)
        if after == before:
            return
        count_anew(chart.part.character.shots.all())
        # An empty chart had nothing to restore.
        if not before["drawings"]:
            return
        # All sets share the place: it is only restored by the set that moved it, and only if nobody moved it since.
        moved = {"placed": after["place"]} if after["place"] != before["place"] else {}
        last = chart.steps.last()
        if last and last.what == what and timezone.now() - last.made_at < _ONE:
            ChartStep.objects.filter(pk=last.pk).update(made_at=timezone.now(), before=last.before | moved)
            return
        chart.steps.create(what=what, before=before | moved)
        kept = chart.steps.order_by("-pk").values_list("pk", flat=True)[:MOST]
        chart.steps.exclude(pk__in=list(kept)).delete()


@transaction.atomic
def undo_step(chart: Chart) -> str:
    """Undo the last change of a chart; returns its description. Raises `ChartError` if there is none."""
    Chart.objects.select_for_update().get(pk=chart.pk)
    last = chart.steps.last()
    if last is None:
        raise ChartError("There is nothing to undo here.")
    now = list(Drawing.objects.filter(chart=chart))
    # A new revision, so that forms opened before are refused.
    revision = max((drawing.revision for drawing in now), default=0) + 1
    Drawing.objects.filter(chart=chart).delete()
    Drawing.objects.bulk_create(
        Drawing(chart=chart, **{**values, "revision": max(revision, values["revision"])})
        for values in last.before["drawings"]
    )
    Chart.objects.filter(pk=chart.pk).update(**last.before.get("face", {}))
    if last.before.get("placed") == _state(chart)["place"]:
        Part.objects.filter(pk=chart.part_id).update(**dict(zip(_PLACE, last.before["place"], strict=True)))
    last.delete()
    count_anew(chart.part.character.shots.all())
    what: str = last.what
    return what
