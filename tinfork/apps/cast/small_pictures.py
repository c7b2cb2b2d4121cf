"""All small drawings of a character in one response, so that the Desk does not request a hundred files."""

import base64
import logging
from collections.abc import Iterable
from urllib.parse import quote

from django.db.models.fields.files import FieldFile
from django.urls import reverse

from tinfork.apps.cast.models import Character, Drawing
from tinfork.apps.cast.queries import hash_of
from tinfork.apps.common.serve import PICTURE_TYPES, PNG, SVG, address_of

log = logging.getLogger("tinfork.storage")

#: The largest picture that is sent with others, in bytes.
_SMALL = 24 * 1024


def thumb_address(drawing: Drawing) -> str:
    """The address of a drawing's thumbnail; a small drawing is its own thumbnail."""
    if drawing.thumb and not _is_small(drawing.picture):
        return address_of("drawing_thumb", drawing.pk, drawing.thumb)
    return address_of("drawing_picture", drawing.pk, drawing.picture)


def small_pictures_address(character: Character) -> str:
    """The address of a character's small drawings; it changes with the drawings."""
    return f"{reverse('small_drawings', args=[character.pk])}?v={mark_of(character)}"


def mark_of(character: Character) -> str:
    """A short hash of all drawings of a character."""
    return hash_of(" ".join(f"{d.pk} {d.picture.name} {d.thumb.name}" for d in _drawings(character)))


def small_pictures(character: Character) -> dict[str, str]:
    """The small drawings of a character, and thumbnails of the others: data URLs (RFC 2397) by address."""
    out: dict[str, str] = {}
    for drawing in _drawings(character):
        if _is_small(drawing.picture):
            kind = PICTURE_TYPES[drawing.suffix]
            out[address_of("drawing_picture", drawing.pk, drawing.picture)] = _data_address(drawing.picture, kind)
        elif drawing.thumb and _is_small(drawing.thumb):
            out[address_of("drawing_thumb", drawing.pk, drawing.thumb)] = _data_address(drawing.thumb, PNG)
    return out


def _drawings(character: Character) -> Iterable[Drawing]:
    return (d for part in character.parts.all() for chart in part.charts.all() for d in chart.drawings.all())


def _is_small(field: FieldFile) -> bool:
    try:
        return bool(field) and field.size <= _SMALL
    except FileNotFoundError:
        log.error("the stored file %s is missing", field.name)
        return False


def _data_address(field: FieldFile, kind: str) -> str:
    with field.open("rb") as file:
        data = file.read()
    if kind == SVG:
        return f"data:{kind};charset=utf-8,{quote(data)}"
    return f"data:{kind};base64,{base64.b64encode(data).decode()}"
