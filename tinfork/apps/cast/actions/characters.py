"""Creating, copying, archiving and deleting characters."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from tinfork.apps.cast.actions.drawings import add_starter_drawings
from tinfork.apps.cast.models import Character, Chart, Drawing, Part
from tinfork.apps.cast.starters import STARTERS
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.people.models import Studio
from tinfork.core.errors import ChartError
from tinfork.core.mouths.chart import MAX_PARTS, MAX_TRACINGS
from tinfork.core.mouths.style import Style
from tinfork.engines.characters import PreparedFace

#: The name of a new character's first set.
FIRST_SET = "calm"
#: The most characters in a studio.
MAX_CHARACTERS = 2000


def add_starter_characters(studio: Studio) -> None:
    """Add Odalys and Brindle with the starter chart, so that a first shot has characters."""
    for starter in STARTERS:
        character = add_character(studio=studio, name=starter.name, ink=starter.ink)
        character.face.name = keep_bytes(starter.face_svg.encode(), ".svg")
        character.face_aspect = starter.placement.aspect
        character.save()
        part = character.mouth
        part.x, part.y, part.width = starter.placement.x, starter.placement.y, starter.placement.width
        part.save()
        add_starter_drawings(part.charts.get(), drawings=14, style=Style(ink=starter.mouth_ink))


@transaction.atomic
def add_character(*, studio: Studio, name: str, ink: int = 0) -> Character:
    """Create a character with a mouth and one empty set.

    Without an ink colour it gets one that few others in the studio have.
    """
    character = name_character(studio=studio, name=name, ink=ink)
    part = Part.objects.create(character=character, kind=Part.Kind.MOUTH, name="Mouth")
    Chart.objects.create(part=part, name=FIRST_SET)
    return character


def name_character(*, studio: Studio, name: str, ink: int = 0) -> Character:
    """Create a character without parts; the caller adds its mouth in the same transaction."""
    Studio.objects.select_for_update().get(pk=studio.pk)
    inks = list(studio.characters.values_list("ink", flat=True))
    if len(inks) >= MAX_CHARACTERS:
        raise ChartError(
            "A studio can have up to {max_characters} characters. Delete some that no shot uses.",
            max_characters=MAX_CHARACTERS,
        )
    character = Character(studio=studio, name=_free_name(studio, name), ink=ink or min(range(1, 7), key=inks.count))
    character.save()
    return character


def _free_name(studio: Studio, wanted: str) -> str:
    """The name, with a number if it is taken."""
    return first_free(wanted, studio.characters.values_list("name", flat=True))


def first_free(wanted: str, names: Iterable[str]) -> str:
    """The wanted name, or, if it is among the taken names, the name with the first free number."""
    taken = {name.casefold() for name in names}
    name, number = wanted, 2
    while name.casefold() in taken:
        name = f"{wanted[:74]} {number}"
        number += 1
    return name


@transaction.atomic
def set_face(character: Character, picture: bytes, suffix: str, aspect: float) -> None:
    """Set a prepared face picture; the places of parts keep their shares of it."""
    face, aspect = keep_bytes(picture, suffix), min(20.0, max(0.05, aspect))
    Character.objects.filter(pk=character.pk).update(face=face, face_aspect=aspect, face_tracings=[])


def keep_chart_face(chart: Chart, picture: bytes, suffix: str, aspect: float) -> None:
    """Set a set's own, prepared face picture: for a turned head."""
    face, aspect = keep_bytes(picture, suffix), min(20.0, max(0.05, aspect))
    Chart.objects.filter(pk=chart.pk).update(face=face, face_aspect=aspect, face_tracings=[])


#: By how much the aspect ratio of a tracing may differ: scans are never quite the same.
_SAME_SHAPE = 0.03


def trace_face(on: Character | Chart, faces: Sequence[PreparedFace]) -> None:
    """Add prepared tracings to the face of a character or of a set of mouths.

    Raises `ChartError` for one of another shape, for too many, and if there is no face.
    """
    now = type(on).objects.select_for_update().get(pk=on.pk)
    if not now.face:
        raise ChartError("The face picture was removed. Import one first.")
    if any(abs(aspect / now.face_aspect - 1) > _SAME_SHAPE for _, _, aspect in faces):
        raise ChartError("A tracing must have the same width and height as its face.")
    if len(now.face_tracings) + len(faces) > MAX_TRACINGS:
        raise ChartError("A face can have up to {max_tracings} tracings.", max_tracings=MAX_TRACINGS)
    now.face_tracings = [*now.face_tracings, *(keep_bytes(data, suffix) for data, suffix, _ in faces)]
    now.save(update_fields=["face_tracings"])


def drop_face_tracings(on: Character | Chart) -> None:
    """Remove the tracings of a face."""
    type(on).objects.filter(pk=on.pk).update(face_tracings=[])


@transaction.atomic
def edit_character(character: Character, *, name: str, ink: int, drop_face: bool = False) -> None:
    """Save name and colour; the face may be removed."""
    others = Character.objects.filter(studio=character.studio).exclude(pk=character.pk)
    if others.filter(name__iexact=name).exists():
        raise ChartError("A character called “{name}” already exists. Choose another name.", name=name)
    if drop_face:
        character.face.name, character.face_tracings = "", []
    character.name, character.ink = name, ink or character.ink
    character.save()


@transaction.atomic
def duplicate_character(character: Character) -> Character:
    """Copy a character with all parts, sets and drawings; stored pictures are shared, since they never change."""
    Studio.objects.select_for_update().get(pk=character.studio_id)
    parts = list(character.parts.all())
    copy = Character.objects.get(pk=character.pk)
    copy.pk, copy.name, copy.archived_at = None, _free_name(character.studio, character.name), None
    copy.save()
    keys: dict[str, str] = {}
    turned: list[tuple[Chart, dict[str, Any]]] = []
    for part in parts:
        charts, was = list(part.charts.all()), str(part.pk)
        part.pk, part.character = None, copy
        part.save()
        keys[was] = str(part.pk)
        turned += [(copy_chart(chart, part, chart.name), chart.face_places) for chart in charts]
    for chart, places in turned:
        known = {keys[was]: place for was, place in places.items() if was in keys}
        Chart.objects.filter(pk=chart.pk).update(face_places=known)
    return copy


def copy_chart(chart: Chart, part: Part, name: str) -> Chart:
    """Copy a set with its drawings to a part."""
    drawings = list(chart.drawings.all())
    copy = Chart.objects.create(
        part=part,
        name=name,
        face=chart.face,
        face_aspect=chart.face_aspect,
        face_tracings=chart.face_tracings,
    )
    for drawing in drawings:
        drawing.pk, drawing.chart = None, copy
    Drawing.objects.bulk_create(drawings)
    return copy


def archive_character(character: Character, *, archived: bool) -> None:
    """Archive a character, or restore it: archived ones are not offered any more, but shots keep them."""
    character.archived_at = timezone.now() if archived else None
    character.save()


def delete_character(character: Character) -> None:
    """Remove a character that no shot uses; raises `ChartError` with the shots that do."""
    try:
        character.delete()
    except ProtectedError:
        if not character.shots.exists():
            raise ChartError(
                "{name} is in shots that are in the archive. Delete those first, or archive the character.",
                name=character.name,
            ) from None
        shots = ", ".join(str(shot) for shot in character.shots.all()[:3])
        raise ChartError(
            "{name} is in {count} shots ({shots} …). Archive the character instead.",
            name=character.name,
            count=character.shots.count(),
            shots=shots,
        ) from None


@transaction.atomic
def add_part(character: Character, *, kind: str, name: str) -> Chart:
    """Add a part of the face with an empty set; returns the set."""
    Character.objects.select_for_update().get(pk=character.pk)
    if character.parts.count() >= MAX_PARTS:
        raise ChartError("A character can have up to {max_parts} parts.", max_parts=MAX_PARTS)
    if kind == Part.Kind.MOUTH:
        raise ChartError("A character has only one mouth. Add a set to it instead.")
    if character.parts.filter(name__iexact=name).exists():
        raise ChartError("{character} has a part called “{name}” already.", character=character.name, name=name)
    places = {Part.Kind.EYES: (0.5, 0.38, 0.4), Part.Kind.PUPILS: (0.5, 0.38, 0.4), Part.Kind.BROWS: (0.5, 0.3, 0.4)}
    x, y, width = places.get(Part.Kind(kind), (0.5, 0.5, 0.3))
    part = Part.objects.create(character=character, kind=kind, name=name, x=x, y=y, width=width)
    return Chart.objects.create(part=part, name=FIRST_SET)


def delete_part(part: Part) -> None:
    """Remove a part with its sets; the mouth stays."""
    if part.speaks:
        raise ChartError("The mouth cannot be removed. You can change its sets.")
    part.delete()
