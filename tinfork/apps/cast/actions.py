"""Changing the cast."""

from tinfork.apps.cast.models import Character, Drawing
from tinfork.apps.cast.starters import STARTERS
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.people.models import Studio
from tinfork.core.mouths.starter import STARTER, starter_pictures


def add_starter_characters(studio: Studio) -> None:
    """Odalys and Brindle with the starter chart, so that a first shot has someone to say it."""
    for starter in STARTERS:
        character = Character.objects.create(
            studio=studio,
            name=starter.name,
            ink=starter.ink,
            face=keep_bytes(starter.face_svg.encode(), ".svg"),
            mouth_x=starter.placement.x,
            mouth_y=starter.placement.y,
            mouth_width=starter.placement.width,
        )
        pictures = starter_pictures(starter.mouth_ink)
        Drawing.objects.bulk_create(
            Drawing(
                character=character,
                number=drawing.number,
                name=drawing.name,
                visemes=list(drawing.visemes),
                picture=keep_bytes(pictures[drawing.number].encode(), ".svg"),
            )
            for drawing in STARTER.drawings
        )
