"""Changing the layout of a shot: the places of characters, the background, the boil of lines."""

import re

from django.db import transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot, ShotCharacter
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.settings import BoilLines, PaintGround, StandCharacter
from tinfork.core.errors import FormatError
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.layout import Stand, side_by_side

_COLOUR = re.compile(r"#[0-9a-f]{6}")


def stands_of(shot: Shot) -> dict[int, Stand]:
    """The place of each character, by id: as set by hand, or else beside the others."""
    parts = shot.cast_rows
    aspects = [part.character.face_aspect for part in parts]
    beside = side_by_side(aspects, shot.production.width / shot.production.height)
    return {
        part.character_id: Stand.from_dict(part.stand) if part.stand else stand
        for part, stand in zip(parts, beside, strict=True)
    }


def stand_character(row: Soundtrack, command: StandCharacter, context: EditContext) -> None:
    """Place a character in the shot's picture. Raises `FormatError` for an invalid place."""
    number = int(context.speaker(command.speaker))
    part = ShotCharacter.objects.filter(shot=row.shot, character=number).first()
    if part is None:
        raise FormatError("Only whole characters can be placed in the picture.")
    stand = command.stand
    part.stand = stand.to_dict() if stand else {}
    part.save(update_fields=["stand"])


def paint_ground(row: Soundtrack, command: PaintGround, context: EditContext) -> None:
    """Set the background colour. Raises `FormatError` for an invalid one."""
    shot = row.shot
    colour = command.colour.lower()
    if not _COLOUR.fullmatch(colour):
        raise FormatError("Write the colour as #rrggbb.")
    shot.ground = colour
    if command.clear:
        shot.background = ""
    Shot.everything.filter(pk=shot.pk).update(ground=shot.ground, background=shot.background.name or "")


def boil_lines(row: Soundtrack, command: BoilLines, context: EditContext) -> None:
    """Set how lines boil."""
    row.shot.boil = Boil(command.strength, command.rhythm).to_dict()
    Shot.everything.filter(pk=row.shot.pk).update(boil=row.shot.boil)


@transaction.atomic
def hang_background(*, shot: Shot, key: str, by: User | None) -> None:
    """Set a stored picture as background: an edit that can be undone."""
    from tinfork.apps.reading.actions.shot_settings import GROUND
    from tinfork.apps.reading.actions.soundtracks import locked, record_edit

    row = locked(shot)
    ground, before = Shot.everything.values_list("ground", "background").get(pk=shot.pk)
    Shot.everything.filter(pk=shot.pk).update(background=key)
    record_edit(
        row, row.content, name="background", by=by, settings=({GROUND: [ground, before]}, {GROUND: [ground, key]})
    )
