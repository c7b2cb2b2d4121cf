"""Characters as archives: packing one, and taking one in."""

from collections.abc import Iterator, Mapping
from typing import IO

from django.db import transaction

from tinfork.apps.cast.actions.characters import keep_chart_face, name_character, set_face
from tinfork.apps.cast.actions.drawings import keep_prepared
from tinfork.apps.cast.models import Character, Chart, Drawing, Part
from tinfork.apps.common.storage import StoredPicture
from tinfork.apps.people.models import Studio
from tinfork.core.formats import character_zip
from tinfork.core.formats.character_zip import (
    PackedCharacter,
    PackedDrawing,
    PackedFace,
    PackedPart,
    PackedSet,
    place_to_dict,
)
from tinfork.core.mouths.chart import KEYS
from tinfork.core.mouths.placement import Placement
from tinfork.engines.characters import PreparedCharacter
from tinfork.engines.drawings import Prepared


def pack(character: Character, out: IO[bytes]) -> None:
    """Write the archive of a character."""
    face = StoredPicture(character.face.name or "") if character.face else None
    parts = character.parts.prefetch_related("charts__drawings")
    packed = tuple(
        PackedPart(part.kind, part.name, part.placement, tuple(_packed_set(c) for c in part.charts.all()))
        for part in parts
    )
    character_zip.write_to(out, PackedCharacter(character.name, character.ink, face, character.face_aspect, packed))


def _packed_set(chart: Chart) -> PackedSet:
    rows = []
    for d in chart.drawings.all():
        picture = StoredPicture(d.picture.name or "")
        point, offset = (d.point_x, d.point_y), (d.offset_x, d.offset_y)
        rows.append(PackedDrawing(d.content, d.key, d.is_hidden, d.canvas_width, point, offset, picture))
    return PackedSet(chart.name, tuple(rows), _packed_face(chart) if chart.face else None)


def _packed_face(chart: Chart) -> PackedFace:
    parts = [part for part in chart.character.parts.all() if str(part.pk) in chart.face_places]
    places = {part.name: chart.placement_of(part) for part in parts}
    return PackedFace(StoredPicture(chart.face.name or ""), chart.face_aspect, places)


@transaction.atomic
def unpack(studio: Studio, name: str, prepared: PreparedCharacter) -> Character:
    """A new character of what an archive held, every picture made safe before."""
    packed = prepared.packed
    character = name_character(studio=studio, name=name, ink=packed.ink)
    if prepared.face:
        set_face(character, *prepared.face)
    pictures, faces = iter(prepared.drawings), iter(prepared.faces_of_sets)
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
            Drawing.objects.bulk_create(_drawings(chart, one, pictures))
            if one.face:
                keep_chart_face(chart, *next(faces))
                turned.append((chart, one.face.places))
    keys = {part.name: str(part.pk) for part in character.parts.all()}
    for chart, places in turned:
        known = {keys[name]: place and place_to_dict(place) for name, place in places.items() if name in keys}
        Chart.objects.filter(pk=chart.pk).update(face_places=known)
    return character


def _drawings(chart: Chart, one: PackedSet, pictures: Iterator[Prepared]) -> list[Drawing]:
    rows: list[Drawing] = []
    keys: set[str] = set()
    for at, packed in enumerate(one.drawings):
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
        keep_prepared(row, next(pictures))
        rows.append(row)
    return rows
