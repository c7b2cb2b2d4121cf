"""Exporting and importing characters and sets as archives."""

from collections.abc import Mapping
from typing import IO

from django.db import transaction

from tinfork.apps.cast.actions.characters import first_free, keep_chart_face, name_character, set_face, trace_face
from tinfork.apps.cast.actions.charts import add_set
from tinfork.apps.cast.actions.drawings import keep_prepared
from tinfork.apps.cast.models import Character, Chart, Drawing, Part
from tinfork.apps.common.storage import StoredPicture, keep_bytes
from tinfork.apps.people.models import Studio
from tinfork.core.errors import ChartError
from tinfork.core.formats import character_zip, set_zip
from tinfork.core.formats.character_zip import PackedCharacter, PackedPart
from tinfork.core.formats.set_zip import PackedDrawing, PackedFace, PackedSet
from tinfork.core.mouths.chart import KEYS
from tinfork.core.mouths.placement import Placement
from tinfork.engines.characters import PreparedCharacter, PreparedSet


def pack(character: Character, out: IO[bytes]) -> None:
    """Write the archive of a character."""
    face = StoredPicture(character.face.name or "") if character.face else None
    parts = character.parts.prefetch_related("charts__drawings")
    packed = tuple(
        PackedPart(part.kind, part.name, part.placement, tuple(_packed_set(c) for c in part.charts.all()))
        for part in parts
    )
    traced = tuple(map(StoredPicture, character.face_tracings))
    whole = PackedCharacter(character.name, character.ink, face, character.face_aspect, packed, traced)
    character_zip.write_to(out, whole)


def pack_set(chart: Chart, out: IO[bytes]) -> None:
    """Write the archive of a set alone."""
    set_zip.write_to(out, _packed_set(chart), chart.part.kind)


def _packed_set(chart: Chart) -> PackedSet:
    rows = []
    for d in chart.drawings.all():
        picture = StoredPicture(d.picture.name or "")
        point, offset = (d.point_x, d.point_y), (d.offset_x, d.offset_y)
        tracings = tuple(StoredPicture(key) for key in d.tracings)
        rows.append(PackedDrawing(d.content, d.key, d.is_hidden, d.canvas_width, point, offset, picture, tracings))
    return PackedSet(chart.name, tuple(rows), _packed_face(chart) if chart.face else None)


def _packed_face(chart: Chart) -> PackedFace:
    parts = [part for part in chart.character.parts.all() if str(part.pk) in chart.face_places]
    places = {part.name: chart.placement_of(part) for part in parts}
    traced = tuple(map(StoredPicture, chart.face_tracings))
    return PackedFace(StoredPicture(chart.face.name or ""), chart.face_aspect, places, traced)


@transaction.atomic
def unpack(studio: Studio, name: str, prepared: PreparedCharacter) -> Character:
    """Create a character from a prepared archive (all pictures made safe)."""
    packed = prepared.packed
    character = name_character(studio=studio, name=name, ink=packed.ink)
    if prepared.face:
        set_face(character, *prepared.face)
        trace_face(character, prepared.face_tracings)
    sets = iter(prepared.sets)
    turned: list[tuple[Chart, Mapping[str, Placement | None]]] = []
    for part in packed.parts:
        place = part.place
        row = Part.objects.create(
            character=character,
            kind=part.kind,
            name=part.name,
            x=place.x,
            y=place.y,
            width=place.width,
            angle=place.angle,
        )
        for one in part.sets:
            chart = Chart.objects.create(part=row, name=one.name)
            turned.append((chart, _fill(chart, next(sets))))
    for chart, places in turned:
        _place_parts(chart, places)
    return character


@transaction.atomic
def unpack_set(part: Part, prepared: PreparedSet) -> Chart:
    """Add a set to a part from a prepared archive; raises `ChartError` for a set of another kind of part.

    A name that is taken gets a number.
    """
    kind = Part.Kind(prepared.kind)
    if kind != part.kind:
        raise ChartError("This set is for a part of the kind “{label}”. Import it there.", label=kind.label)
    names = [chart.name for chart in Part.objects.select_for_update().get(pk=part.pk).charts.all()]
    chart = add_set(part, name=first_free(prepared.packed.name, names))
    _place_parts(chart, _fill(chart, prepared))
    return chart


def _fill(chart: Chart, prepared: PreparedSet) -> Mapping[str, Placement | None]:
    """Put drawings and the face into an empty set, with the places of parts, by name, on that face."""
    Drawing.objects.bulk_create(_drawings(chart, prepared))
    if prepared.face is None or prepared.packed.face is None or not chart.part.speaks:
        return {}
    keep_chart_face(chart, *prepared.face)
    trace_face(chart, prepared.face_tracings)
    return prepared.packed.face.places


def _place_parts(chart: Chart, places: Mapping[str, Placement | None]) -> None:
    """Store the places of parts on a set's own face: of those parts, by name, that the character has."""
    keys = {part.name: str(part.pk) for part in chart.character.parts.all()}
    known = {keys[name]: place and place.to_dict() for name, place in places.items() if name in keys}
    Chart.objects.filter(pk=chart.pk).update(face_places=known)


def _drawings(chart: Chart, prepared: PreparedSet) -> list[Drawing]:
    rows: list[Drawing] = []
    keys: set[str] = set()
    both = zip(prepared.packed.drawings, prepared.drawings, prepared.tracings, strict=True)
    for at, (packed, picture, traced) in enumerate(both):
        key = packed.key if packed.key in KEYS and packed.key not in keys else ""
        keys.add(key)
        row = Drawing(
            chart=chart,
            number=packed.drawing.number,
            name=packed.drawing.name,
            key=key,
            shows=list(packed.drawing.shows),
            size=packed.drawing.size,
            is_hidden=packed.hidden,
            position=at,
            canvas_width=packed.canvas,
            point_x=packed.point[0],
            point_y=packed.point[1],
            offset_x=packed.offset[0],
            offset_y=packed.offset[1],
        )
        keep_prepared(row, picture)
        row.tracings = [keep_bytes(tracing.data, tracing.suffix) for tracing in traced]
        rows.append(row)
    return rows
