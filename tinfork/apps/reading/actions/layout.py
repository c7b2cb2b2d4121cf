"""Where a shot's characters stand in its picture, and what is behind them."""

import re

from django.db import transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot, ShotCharacter
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.errors import FormatError
from tinfork.core.scene.layout import Stand, side_by_side
from tinfork.core.soundtrack.given import Given

_COLOUR = re.compile(r"#[0-9a-f]{6}")


def stands_of(shot: Shot) -> dict[int, Stand]:
    """Where each character stands, by its number: where somebody placed it, else beside the others."""
    parts = list(shot.parts.all())
    aspects = [part.character.face_aspect for part in parts]
    beside = side_by_side(aspects, shot.production.width / shot.production.height)
    return {
        part.character_id: Stand.from_dict(part.stand) if part.stand else stand
        for part, stand in zip(parts, beside, strict=True)
    }


def stand_character(row: Soundtrack, given: Given) -> None:
    """A character (`speaker`) stands at `x`, `y` with `size`, `turn`, `mirrored` and `depth`, or, with `usual`, where
    it would if nobody had placed it. Raises `FormatError` for a place that is none.
    """
    part = ShotCharacter.objects.filter(shot=row.shot, character=int(given.speaker())).first()
    if part is None:
        raise FormatError("Only whole characters are placed in the picture; parts of a face go with it.")
    part.stand = {} if given.flag("usual") else Stand.from_dict(given.values).to_dict()
    part.save(update_fields=["stand"])


def paint_ground(row: Soundtrack, given: Given) -> None:
    """A colour (#rrggbb) behind everyone; with `clear`, without the background picture, if there was one."""
    shot = row.shot
    colour = given.text("colour", 7).lower()
    if not _COLOUR.fullmatch(colour):
        raise FormatError("A colour is written as #rrggbb.")
    shot.ground = colour
    if given.flag("clear"):
        shot.background = ""
    Shot.everything.filter(pk=shot.pk).update(ground=shot.ground, background=shot.background.name or "")


@transaction.atomic
def hang_background(*, shot: Shot, key: str, by: User | None) -> None:
    """A stored picture behind everyone: an edit like any other, which can be undone."""
    from tinfork.apps.reading.actions.beside import GROUND
    from tinfork.apps.reading.actions.soundtracks import keep, locked

    row = locked(shot)
    ground, before = Shot.everything.values_list("ground", "background").get(pk=shot.pk)
    Shot.everything.filter(pk=shot.pk).update(background=key)
    keep(row, row.content, name="background", by=by, beside=({GROUND: [ground, before]}, {GROUND: [ground, key]}))
