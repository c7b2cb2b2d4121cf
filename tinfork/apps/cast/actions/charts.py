"""Changing a chart: its sets, the sounds of its drawings, their order and place, and corrections of its faults."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from django.db import transaction
from django.db.models import ProtectedError

from tinfork.apps.cast.actions.characters import copy_chart, drop_face_tracings, keep_chart_face, trace_face
from tinfork.apps.cast.actions.drawings import keep_prepared, replace_picture
from tinfork.apps.cast.actions.steps import undoable
from tinfork.apps.cast.models import Chart, Drawing, Part
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_SETS
from tinfork.core.mouths.chart import Drawing as CoreDrawing
from tinfork.core.mouths.check import CheckedDrawing
from tinfork.core.mouths.placement import Placement
from tinfork.core.pictures.regions import Box
from tinfork.engines.characters import PreparedFace
from tinfork.engines.drawings import Prepared, picture_apart
from tinfork.engines.limits import MAX_PICTURE_PIXELS
from tinfork.engines.redraw import clear, recanvas


def _free_set(part: Part, name: str) -> str:
    if part.charts.filter(name__iexact=name).exists():
        raise ChartError("A set called “{name}” already exists. Choose another name.", name=name)
    if part.charts.count() >= MAX_SETS:
        raise ChartError("A part can have up to {max_sets} sets.", max_sets=MAX_SETS)
    return name


@transaction.atomic
def add_set(part: Part, *, name: str, like: Chart | None = None) -> Chart:
    """Add a set: empty, or a copy to redraw."""
    Part.objects.select_for_update().get(pk=part.pk)
    _free_set(part, name)
    return copy_chart(like, part, name) if like else Chart.objects.create(part=part, name=name)


@transaction.atomic
def rename_set(chart: Chart, name: str) -> None:
    """Rename a set."""
    part = Part.objects.select_for_update().get(pk=chart.part_id)
    if name.casefold() != chart.name.casefold():
        _free_set(part, name)
    Chart.objects.filter(pk=chart.pk).update(name=name)


@transaction.atomic
def delete_set(chart: Chart) -> Chart:
    """Delete a set that is not the last and that no shot uses; returns the set to show next."""
    part = Part.objects.select_for_update().get(pk=chart.part_id)
    others = part.charts.exclude(pk=chart.pk)
    if not others:
        raise ChartError("A part needs at least one set.")
    if part.charts.first() == chart and part.speaks and part.character.shots.exists():
        raise ChartError("This is the character's first set. It cannot be removed while shots use the character.")
    try:
        chart.delete()
    except ProtectedError:
        raise ChartError(
            "Some shots use the set “{name}”. Remove it from their frames first.", name=chart.name
        ) from None
    return others[0]


def _drawing_of(chart: Chart, drawing_pk: int) -> Drawing:
    drawing = Drawing.objects.filter(chart=chart, pk=drawing_pk).first()
    if drawing is None:
        raise ChartError("That drawing was removed meanwhile.")
    return drawing


def lay_sound(chart: Chart, *, claim: str, on: int | None, off: int | None = None) -> None:
    """Add a sound or a class to a drawing, remove it from another, or both, to move it. Changes of others stay."""
    # The core refuses an invalid claim.
    CoreDrawing(0, "", (claim,))
    with undoable(chart, f"“{claim}” {'laid' if on is not None else 'removed'}"):
        if off is not None:
            drawing = _drawing_of(chart, off)
            drawing.shows = [c for c in drawing.shows if c != claim]
            drawing.save(update_fields=["shows"])
        if on is not None:
            drawing = _drawing_of(chart, on)
            if claim not in drawing.shows:
                drawing.shows = [*drawing.shows, claim]
                drawing.save(update_fields=["shows"])


def take_proposal(chart: Chart, shows: dict[int, Sequence[str]]) -> None:
    """Add the accepted sounds to drawings, by number; their other sounds stay."""
    with undoable(chart, Message("suggested sounds assigned")):
        for drawing in chart.drawings.filter(number__in=shows):
            claims = list(shows[drawing.number])
            CoreDrawing(0, "", tuple(claims))
            drawing.shows = list(dict.fromkeys([*drawing.shows, *claims]))
            drawing.save(update_fields=["shows"])


def order_drawings(chart: Chart, *, drawing: int, before: int | None) -> None:
    """Move a drawing before another, or to the end. Numbers do not change, since sheets refer to them."""
    with undoable(chart, Message("drawings in another order")):
        moved = _drawing_of(chart, drawing)
        rest = [d for d in chart.drawings.all() if d.pk != moved.pk]
        at = next((i for i, d in enumerate(rest) if d.pk == before), len(rest))
        rest.insert(at, moved)
        for position, one in enumerate(rest):
            one.position = position
        Drawing.objects.bulk_update(rest, ["position"])


def place_part(part: Part, *, x: float, y: float, width: float, angle: float, on: Chart | None = None) -> None:
    """Place a part on the face; raises `ChartError` outside of it. `on`: the set on whose page this was done."""
    Placement(x, y, width, angle=angle)
    with undoable(on or part.charts.all()[0], Message("all drawings placed")):
        Part.objects.filter(pk=part.pk).update(x=x, y=y, width=width, angle=angle)


def place_on_face(part: Part, on: Chart, place: Mapping[str, float] | None) -> None:
    """Place a part on the own face of a set of mouths, at x, y, width and angle; None hides it there.

    Raises `ChartError` outside of the face, and for hiding the mouth.
    """
    if place is None and part.speaks:
        raise ChartError("The mouth is visible on every face.")
    if place is not None:
        Placement(place["x"], place["y"], place["width"], angle=place["angle"])
    with undoable(on, Message("{name} placed on the face of this set", name=part.name)):
        kept = {name: place[name] for name in ("x", "y", "width", "angle")} if place is not None else None
        Chart.objects.filter(pk=on.pk).update(face_places={**on.face_places, str(part.pk): kept})


def give_face_to_set(chart: Chart, picture: bytes, suffix: str, aspect: float) -> None:
    """Give a set of mouths a face picture of its own that was made safe: a head that is turned."""
    with undoable(chart, Message("new face for this set")):
        keep_chart_face(chart, picture, suffix, aspect)


def drop_face_of_set(chart: Chart) -> None:
    """Remove a set's own face: it is shown on the character's face again."""
    with undoable(chart, Message("the face of this set removed")):
        Chart.objects.filter(pk=chart.pk).update(face="", face_places={}, face_tracings=[])


def trace_face_of_set(chart: Chart, faces: Sequence[PreparedFace]) -> None:
    """`trace_face` for the own face of a set of mouths."""
    with undoable(chart, Message("tracings of this set's face added")):
        trace_face(chart, faces)


def drop_face_tracings_of_set(chart: Chart) -> None:
    """Remove the tracings of a set's own face."""
    with undoable(chart, Message("tracings of this set's face removed")):
        drop_face_tracings(chart)


#: The limit of a point or an offset, in canvases.
_FARTHEST = 4


def register_drawing(drawing: Drawing, *, point: tuple[float, float], offset: tuple[float, float]) -> None:
    """Set a drawing's registration point and offset, in its pixels."""
    most = _FARTHEST * max(drawing.width, drawing.height)
    if not all(abs(value) <= most for value in (*point, *offset)):
        raise ChartError("That is too far from the drawing.")
    with undoable(drawing.chart, Message("drawing {number} lined up", number=drawing.number)):
        Drawing.objects.filter(pk=drawing.pk).update(
            point_x=point[0], point_y=point[1], offset_x=offset[0], offset_y=offset[1]
        )


#: Corrections that make new pictures, and so run as jobs.
REPAINTING = ("clear", "pad", "trim")


@transaction.atomic
def mend(chart: Chart, *, kind: str, numbers: Sequence[int], sounds: Sequence[str] = ()) -> None:
    """Make one of the check's corrections that need no new pictures."""
    drawings = list(chart.drawings.filter(number__in=numbers))
    if not drawings:
        raise ChartError("Those drawings were removed meanwhile. Check again.")
    if kind == "recentre":
        with undoable(chart, Message("drawings centred")):
            _recentre(chart, drawings)
    elif kind == "hide":
        with undoable(chart, f"drawing {numbers[-1]} hidden"):
            chart.drawings.filter(number=numbers[-1]).update(is_hidden=True)
    elif kind == "lay":
        take_proposal(chart, {drawings[0].number: sounds})
    else:
        raise ChartError("That correction does not exist.")


def _data(drawing: Drawing) -> bytes:
    with drawing.picture.open("rb") as file:
        content: bytes = file.read()
    return content


def _seen(drawings: Sequence[Drawing]) -> list[CheckedDrawing]:
    return [CheckedDrawing(d.content, d.measured, d.registration) for d in drawings if d.measured and d.measured.box]


def _recentre(chart: Chart, drawings: Sequence[Drawing]) -> None:
    """Move registration points so that the centres of ink match the median of the chart."""
    everyone = _seen([d for d in chart.drawings.all() if not d.is_hidden])
    across = sorted(s.centre[0] for s in everyone)
    down = sorted(s.centre[1] for s in everyone)
    middle = across[len(across) // 2], down[len(down) // 2]
    inked = [d for d in drawings if d.measured and d.measured.box]
    for drawing, seen in zip(inked, _seen(inked), strict=True):
        by = [(seen.centre[axis] - middle[axis]) * seen.registration.canvas_width for axis in (0, 1)]
        drawing.point_x += by[0]
        # Mouths open downwards: only outliers are moved vertically.
        drawing.point_y += by[1] if abs(by[1]) > 0.14 * seen.registration.canvas_width else 0.0
        drawing.save(update_fields=["point_x", "point_y"])


def repaint(chart: Chart, *, kind: str, numbers: Sequence[int], progress: Callable[[float], None]) -> list["Repainted"]:
    """Make the new pictures for a correction in `REPAINTING`; nothing is stored yet, so that it can be cancelled."""
    drawings = list(chart.drawings.all())
    canvases = _common_canvases(drawings, trim=kind == "trim") if kind != "clear" else {}
    out = []
    share = 0.0

    def redone(work: Callable[..., Prepared], drawing: Drawing, *more: object) -> Prepared:
        return picture_apart(
            work,
            _data(drawing),
            drawing.suffix,
            *more,
            progress=lambda _, done: progress(share),
            name=str(drawing),
            reports=False,
        )

    for done, drawing in enumerate(drawings):
        share = done / len(drawings)
        progress(share)
        if kind == "clear" and drawing.number in numbers:
            prepared = redone(clear, drawing)
            out.append(Repainted(drawing.pk, str(drawing.picture), prepared))
        elif box := canvases.get(drawing.pk):
            prepared = redone(recanvas, drawing, box)
            out.append(Repainted(drawing.pk, str(drawing.picture), prepared, (box.left, box.top)))
    return out


def keep_repainted(chart: Chart, repainted: Sequence["Repainted"]) -> None:
    """Store the new pictures; a drawing that got another picture meanwhile keeps it."""
    with undoable(chart, Message("pictures corrected")):
        drawings = {d.pk: d for d in chart.drawings.all()}
        for one in repainted:
            drawing = drawings.get(one.drawing)
            if drawing is None or str(drawing.picture) != one.was:
                continue
            if one.corner is None:
                replace_picture(drawing, one.prepared)
                continue
            keep_prepared(drawing, one.prepared)
            drawing.point_x, drawing.point_y = drawing.point_x - one.corner[0], drawing.point_y - one.corner[1]
            drawing.save()


@dataclass(frozen=True)
class Repainted:
    """A new picture for a drawing that had the picture `was`, and the position of the new canvas on the old one."""

    drawing: int
    was: str
    prepared: Prepared
    corner: tuple[int, int] | None = None


def _common_canvases(drawings: Sequence[Drawing], *, trim: bool) -> dict[int, Box]:
    """One canvas for all drawings, for each in its own pixels, with the same registration; nothing moves on the face.

    With padding it covers every canvas, with trimming all ink with a small margin. Drawings that have it already are
    left out.
    """
    reach: list[tuple[float, float, float, float]] = []
    for d in drawings:
        box = d.measured.box if trim and d.measured and d.measured.box else Box(0, 0, d.width, d.height)
        sides = (d.point_x - box.left, d.point_y - box.top, box.right - d.point_x, box.bottom - d.point_y)
        reach.append((sides[0] / d.canvas_width, sides[1] / d.canvas_width,
                      sides[2] / d.canvas_width, sides[3] / d.canvas_width))  # fmt: skip
    left, up, right, down = (max(0.0, *(r[side] for r in reach)) for side in range(4))
    air = 0.04 * max(left + right, up + down) if trim else 0.0
    out: dict[int, Box] = {}
    for d in drawings:
        # Whole pixels, so that drawings are never resampled.
        x, y = round(d.point_x - (left + air) * d.canvas_width), round(d.point_y - (up + air) * d.canvas_width)
        width = max(1, round((left + right + 2 * air) * d.canvas_width))
        height = max(1, round((up + down + 2 * air) * d.canvas_width))
        if width * height > MAX_PICTURE_PIXELS:
            raise ChartError("The drawings are too far apart for one canvas. Check their registration points first.")
        if (x, y, width, height) != (0, 0, d.width, d.height):
            out[d.pk] = Box(x, y, x + width, y + height)
    return out
