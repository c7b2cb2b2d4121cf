"""Adding, replacing, naming and removing drawings."""

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
    """Someone else changed the drawing since the form was shown; `current` is how it is now."""

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
    """Put a prepared picture into a drawing, not yet saved. Tracings of another picture go."""
    drawing.tracings = []
    drawing.picture.name = keep_bytes(prepared.data, prepared.suffix)
    drawing.thumb.name = keep_bytes(prepared.thumb, ".png")
    drawing.width, drawing.height = prepared.width, prepared.height
    drawing.measures = prepared.measures.to_dict()


def number_in(name: str) -> int | None:
    """The number a file's name begins or ends with: "03 half open", "mouth_3"."""
    match = re.match(r"\s*0*(\d{1,4})(?!\d)", name) or re.search(r"(?<!\d)0*(\d{1,4})\s*$", name)
    return int(match[1]) if match else None


def name_in(name: str) -> str:
    """A file's name without the number it begins with, fit to be a drawing's name."""
    plain = re.sub(r"^\s*\d{1,4}[\s._-]+", "", name)
    plain = "".join(c if c.isprintable() else " " for c in plain)
    return " ".join(plain.replace("_", " ").split())[:80] or name.strip()[:80] or "drawing"


def _in_order(prepared: Sequence[Prepared]) -> list[Prepared]:
    """Files as people count: 2 before 10."""
    return sorted(
        prepared, key=lambda p: [int(t) if t.isdecimal() else t.casefold() for t in re.split(r"(\d+)", p.name)]
    )


def add_drawings(chart: Chart, prepared: Sequence[Prepared], *, replace: bool = False) -> tuple[int, int]:
    """Add prepared pictures as drawings; how many were added and how many replaced.

    With `replace`, a picture whose name has the number of a drawing takes its place there: name, key, sounds and
    registration stay. Names of new ones come from the files, numbers too where they are free.
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
    """Whether a picture has the shape of a drawing's canvas: the same frame, perhaps at another resolution."""
    return abs(height - width * other.height / other.width) <= 1


def _canvas_of(one: Prepared, kin: Sequence[Drawing], widths: Sequence[int]) -> float:
    """How many of a new picture's pixels are the usual canvas.

    By a drawing of the chart with the same frame; else the pixels are as large as the others'; a first set of
    pictures says by its commonest width (of `widths`) what is usual.
    """
    like = next((d for d in kin if _same_frame(one.width, one.height, d)), None)
    if like:
        return like.canvas_width * one.width / like.width
    usual = [d.canvas_width for d in kin] or list(widths)
    return float(max(set(usual), key=usual.count))


def add_starter_drawings(chart: Chart, *, drawings: int, style: Style) -> None:
    """Fill a chart with the starter chart of so many drawings; a chart that has drawings keeps them.

    A drawing of the same number takes the new picture and keeps its name, key, sounds and registration.
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
    """Give a drawing the starter chart's canvas; how one that was there is lined up stays, in shares of its canvas."""
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
    """Give a drawing a new picture; everything else about it stays.

    The same frame at another resolution keeps its size on the face; on another canvas the pixels keep theirs, and
    the point its share of the canvas.
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
    """A picture that was traced from a drawing: the two, and others, are seen in turn.

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
    """A drawing is seen as it was drawn first, alone."""
    with undoable(drawing.chart, Message("tracings of drawing {number} removed", number=drawing.number)):
        Drawing.objects.filter(pk=drawing.pk).update(tracings=[])


def edit_drawing(drawing: Drawing, *, seen: int, number: int, name: str, key: str, size: int, is_hidden: bool) -> None:
    """Save what the drawing's form holds; `seen` is the revision it was shown with.

    Raises `StaleDrawingError` when someone else saved since, `ChartError` when number or key are another's.
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
    # A key goes to who asked for it last.
    others.filter(key=key).exclude(key="").update(key="")
    now.number, now.name, now.key, now.size, now.is_hidden = number, name, key, size, is_hidden
    now.revision += 1
    now.save(update_fields=["number", "name", "key", "size", "is_hidden", "revision"])


def delete_drawing(drawing: Drawing) -> None:
    """Remove a drawing; stored pictures are shared by content and stay."""
    with undoable(drawing.chart, f"drawing {drawing.number} removed"):
        drawing.delete()
