"""Changes of a chart, to be undone: each keeps what it found."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from tinfork.apps.cast.models import Chart, ChartStep, Drawing, Part
from tinfork.apps.reading.looks import count_anew
from tinfork.core.errors import ChartError

#: So many changes of a chart can be undone.
MOST = 100
#: Changes of one kind this soon after each other are one: a drawing that is pushed pixel by pixel.
_ONE = timedelta(seconds=2)
_PLACE = ("x", "y", "width", "angle")
_FACE = ("face", "face_aspect", "face_places", "face_tracings")
_FIELDS = tuple(field.attname for field in Drawing._meta.concrete_fields if field.attname != "chart_id")


def _state(chart: Chart) -> dict[str, Any]:
    """All drawings of a chart, its part's place and the face it brings with it, as plain values."""
    place = Part.objects.values_list(*_PLACE).get(pk=chart.part_id)
    face = Chart.objects.values(*_FACE).get(pk=chart.pk)
    return {"place": list(place), "face": face, "drawings": list(Drawing.objects.filter(chart=chart).values(*_FIELDS))}


@contextmanager
def undoable(chart: Chart, what: str) -> Iterator[None]:
    """A change of a chart, all of it or nothing; what it found is kept if it changed anything.

    `what` is what it does, in words: "drawing 3 removed". Changes of one chart wait for one another.
    """
    with transaction.atomic():
        Chart.objects.select_for_update().get(pk=chart.pk)
        before = _state(chart)
        yield
        after = _state(chart)
        if after == before:
            return
        count_anew(chart.part.character.shots.all())
        # A chart that had nothing had nothing to lose.
        if not before["drawings"]:
            return
        # The place is all sets': it is only taken back by who moved it, and from where they left it.
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
    """Take the last change of a chart back; what it was, in words. Raises `ChartError` where there is none."""
    Chart.objects.select_for_update().get(pk=chart.pk)
    last = chart.steps.last()
    if last is None:
        raise ChartError("There is nothing to undo here.")
    now = list(Drawing.objects.filter(chart=chart))
    # Forms that are open somewhere know of an older revision than any there was.
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
