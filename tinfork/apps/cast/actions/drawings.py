"""Adding, replacing, renaming and deleting drawings."""

import re
from collections.abc import Mapping, Sequence

from tinfork.apps.cast.actions.steps import undoable
from tinfork.apps.cast.models import Chart, Drawing
from tinfork.apps.common.storage import keep_bytes
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import KEYS, MAX_DRAWINGS, MAX_TRACINGS, free_keys
from tinfork.core.mouths.draw import HEIGHT, WIDTH
from tinfork.core.mouths.starter import starter_chart, starter_pictures
from tinfork.core.mouths.style import Style
from tinfork.engines.drawings import Prepared


class StaleDrawingError(ChartError):
    """Somebody else changed the drawing since the form was shown; `current` is its present state."""

    code = "stale"

    def __init__(self, current: Drawing) -> None:
        super().__init__(
            Message(
                "Someone changed drawing {number} meanwhile. Your values are still here. Save again to use them.",
                number=current.number,
            )
        )
        self.current = current


def keep_prepared(drawing: Drawing, prepared: Prepared) -> None:
    """Set a drawing's prepared picture without saving the row. Tracings of another picture are removed."""
    drawing.tracings = []
    drawing.picture.name = keep_bytes(prepared.data, prepared.suffix)
    drawing.thumb.name = keep_bytes(prepared.thumb, ".png")
    drawing.width, drawing.height = prepared.width, prepared.height
    drawing.measures = prepared.measures.to_dict()


def number_in(name: str) -> int | None:
    """The number at the start or end of a file's name: "03 half open", "mouth_3"."""
    match = re.match(r"\s*0*(\d{1,4})(?!\d)", name) or re.search(r"(?<!\d)0*(\d{1,4})\s*$", name)
    return int(match[1]) if match else None


def name_in(name: str) -> str:
    """A file's name as a drawing's name, without the number at its start."""
    plain = re.sub(r"^\s*\d{1,4}[\s._-]+", "", name)
    plain = "".join(c if c.isprintable() else " " for c in plain)
    return " ".join(plain.replace("_", " ").split())[:80] or name.strip()[:80] or "drawing"


def _in_order(prepared: Sequence[Prepared]) -> list[Prepared]:
    """Files in natural order: 2 before 10."""
    return sorted(
        prepared, key=lambda p: [int(t) if t.isdecimal() else t.casefold() for t in re.split(r"(\d+)", p.name)]
    )


def add_drawings(chart: Chart, prepared: Sequence[Prepared], *, replace: bool = False) -> tuple[int, int]:
    """Add prepared pictures as drawings; returns how many were added and how many replaced.

    With `replace`, a picture whose name has the number of a drawing replaces that one's picture: name, key, sounds and
    registration stay. New drawings are named and, if the number is free, numbered like their files.
    """
    with undoable(chart, Message("drawings replaced") if replace else Message("drawings added")):
        return _add(chart, prepared, replace)


def _add(chart: Chart, prepared: Sequence[Prepared], replace: bool) -> tuple[int, int]:
    existing = {d.number: d for d in Drawing.objects.filter(chart=chart)}
    taken, keys = set(existing), {d.key for d in existing.values()}
    position = max((d.position for d in existing.values()), default=-1) + 1
    new: list[Drawing] = []
    replaced = 0
    for one in _in_order(prepared):
        number = number_in(one.name)
        if replace and number in existing:
            replace_picture(existing[number], one)
            replaced += 1
            continue
        if number is None or number in taken:
            number = max(taken, default=0) + 1
        taken.add(number)
        drawing = Drawing(chart=chart, number=number, name=name_in(one.name), position=position + len(new))
        keep_prepared(drawing, one)
        drawing.point_x, drawing.point_y = one.width / 2, one.height / 2
        drawing.canvas_width = _canvas_of(one, list(existing.values()), [p.width for p in prepared])
        new.append(drawing)
    if len(existing) + len(new) > MAX_DRAWINGS:
        raise ChartError(
            "A chart can have up to {max_drawings} drawings; this would make {count}.",
            max_drawings=MAX_DRAWINGS,
            count=len(existing) + len(new),
        )
    for drawing, key in zip(new, free_keys(keys, len(new)), strict=True):
        drawing.key = key
    Drawing.objects.bulk_create(new)
    return len(new), replaced


def _same_frame(width: int, height: int, other: Drawing) -> bool:
    """Whether a picture has the aspect ratio of a drawing's canvas: the same frame, perhaps at another resolution."""
    return abs(height - width * other.height / other.width) <= 1


def _canvas_of(one: Prepared, kin: Sequence[Drawing], widths: Sequence[int]) -> float:
    """The width of the usual canvas in pixels of a new picture.

    That of a drawing with the same frame, if the chart has one; else pixels are as large as those of the other
    drawings.

    In an empty chart, the most common of `widths` is the usual one.
    """
    like = next((d for d in kin if _same_frame(one.width, one.height, d)), None)
    if like:
        return like.canvas_width * one.width / like.width
    usual = [d.canvas_width for d in kin] or list(widths)
    return float(max(set(usual), key=usual.count))


def add_starter_drawings(chart: Chart, *, drawings: int, style: Style) -> None:
    """Add the starter chart with a number of drawings to a chart.

    Existing drawings stay; one with the same number gets the new picture and keeps its name, key, sounds and
    registration.
    """
    pictures = starter_pictures(style, drawings)
    with undoable(chart, Message("starter chart added")):
        _fill(chart, drawings, pictures)


def _fill(chart: Chart, drawings: int, pictures: Mapping[int, str]) -> None:
    existing = {d.number: d for d in Drawing.objects.filter(chart=chart)}
    keys = free_keys({d.key for d in existing.values()}, drawings)
    rows = []
    for at, drawing in enumerate(starter_chart(drawings).drawings):
        row = existing.get(drawing.number) or Drawing(
            chart=chart,
            number=drawing.number,
            name=drawing.name,
            key=keys[at],
            shows=list(drawing.shows),
            size=drawing.size,
            position=len(existing) + at,
        )
        _register_starter(row)
        row.picture.name, row.thumb.name = keep_bytes(pictures[drawing.number].encode(), ".svg"), ""
        row.measures = None
        rows.append(row)
    Drawing.objects.bulk_create([row for row in rows if row.pk is None])
    for row in rows:
        if row.number in existing:
            row.save()


def _register_starter(row: Drawing) -> None:
    """Give a drawing the starter chart's canvas; an existing one keeps its registration, in shares of its canvas."""
    if row.pk is None:
        row.canvas_width = float(WIDTH)
        row.point_x, row.point_y = WIDTH / 2, HEIGHT / 2
    elif (row.width, row.height) != (WIDTH, HEIGHT):
        size = WIDTH / row.canvas_width
        row.point_x, row.point_y = row.point_x * WIDTH / row.width, row.point_y * HEIGHT / row.height
        row.offset_x, row.offset_y = row.offset_x * size, row.offset_y * size
        row.canvas_width = float(WIDTH)
    row.width, row.height = WIDTH, HEIGHT


def replace_picture(drawing: Drawing, prepared: Prepared) -> None:
    """Replace a drawing's picture; everything else stays.

    With the same frame at another resolution, its size on the face stays; with another canvas, the size of its pixels
    and the point's share of the canvas do.
    """
    across, down = prepared.width / drawing.width, prepared.height / drawing.height
    drawing.point_x, drawing.point_y = drawing.point_x * across, drawing.point_y * down
    if _same_frame(prepared.width, prepared.height, drawing):
        drawing.canvas_width *= across
        drawing.offset_x, drawing.offset_y = drawing.offset_x * across, drawing.offset_y * down
    keep_prepared(drawing, prepared)
    drawing.revision += 1
    drawing.save()


def add_tracing(drawing: Drawing, prepared: Prepared) -> None:
    """Add a tracing of a drawing: they are shown in turn.

    Raises `ChartError` for one of another shape, and for too many.
    """
    if not _same_frame(prepared.width, prepared.height, drawing):
        raise ChartError(
            "A tracing must be as large as its drawing ({width} × {height}). This one is {own_width} × {own_height}.",
            width=drawing.width,
            height=drawing.height,
            own_width=prepared.width,
            own_height=prepared.height,
        )
    with undoable(drawing.chart, Message("tracings of drawing {number} added", number=drawing.number)):
        now = Drawing.objects.filter(pk=drawing.pk).first()
        if now is None:
            raise ChartError("That drawing was removed meanwhile.")
        if len(now.tracings) >= MAX_TRACINGS:
            raise ChartError("A drawing can have up to {max_tracings} tracings.", max_tracings=MAX_TRACINGS)
        now.tracings = [*now.tracings, keep_bytes(prepared.data, prepared.suffix)]
        now.save(update_fields=["tracings"])


def drop_tracings(drawing: Drawing) -> None:
    """Remove the tracings of a drawing."""
    with undoable(drawing.chart, Message("tracings of drawing {number} removed", number=drawing.number)):
        Drawing.objects.filter(pk=drawing.pk).update(tracings=[])


def edit_drawing(drawing: Drawing, *, seen: int, number: int, name: str, key: str, size: int, is_hidden: bool) -> None:
    """Save a drawing's form; `seen` is the revision with which it was shown.

    Raises `StaleDrawingError` if somebody else saved since, `ChartError` if number or key are taken.
    """
    with undoable(drawing.chart, f"drawing {drawing.number} described"):
        now = Drawing.objects.filter(pk=drawing.pk).first()
        if now is None:
            raise ChartError("That drawing was removed meanwhile.")
        if now.revision != seen:
            raise StaleDrawingError(now)
        _describe(now, number=number, name=name, key=key, size=size, is_hidden=is_hidden)


def _describe(now: Drawing, *, number: int, name: str, key: str, size: int, is_hidden: bool) -> None:
    others = Drawing.objects.filter(chart=now.chart_id).exclude(pk=now.pk)
    if others.filter(number=number).exists():
        raise ChartError("Drawing {number} already exists.", number=number)
    if key and key not in KEYS:
        raise ChartError(
            "“{key}” is already used for playback. Choose a letter such as {keys}.", key=key, keys=KEYS[:5]
        )
    # A taken key moves to this drawing.
    others.filter(key=key).exclude(key="").update(key="")
    now.number, now.name, now.key, now.size, now.is_hidden = number, name, key, size, is_hidden
    now.revision += 1
    now.save(update_fields=["number", "name", "key", "size", "is_hidden", "revision"])


def delete_drawing(drawing: Drawing) -> None:
    """Delete a drawing; its stored picture may be shared, and stays."""
    with undoable(drawing.chart, f"drawing {drawing.number} removed"):
        drawing.delete()
