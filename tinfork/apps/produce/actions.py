"""Creating and changing productions and shots."""

from collections.abc import Iterable, Sequence
from typing import Any

from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.models import Production, Shot, ShotCharacter
from tinfork.apps.produce.planning import next_place
from tinfork.core.clock import FrameRate
from tinfork.core.errors import ChartError

#: The most characters in a shot.
MAX_CAST = 12


def start_production(*, studio: Studio, name: str, rate: str, size: tuple[int, int], language: str = "") -> Production:
    """Create a production with a rate by its usual name ("23.976") and a picture size in pixels."""
    production = Production(studio=studio)
    set_production(production=production, name=name, rate=rate, size=size, language=language)
    return production


def set_production(*, production: Production, name: str, rate: str, size: tuple[int, int], language: str = "") -> None:
    """Change name, rate, picture size and language.

    Shots keep their times: at another rate, frames are computed anew.
    """
    exact = FrameRate.parse(rate).value
    production.name, production.language = name, language
    production.rate_numerator, production.rate_denominator = exact.numerator, exact.denominator
    production.width, production.height = size
    production.save()


@transaction.atomic
def add_shot(
    *, production: Production, name: str, character: Character, others: Sequence[Character] = (), first_frame: int = 1
) -> Shot:
    """Create a shot without sound or words, with the layout of the shot before."""
    before = production.shots.order_by("-pk").first()
    behind: dict[str, Any] = {}
    if before:
        behind = {"background": before.background.name or "", "ground": before.ground, "boil": before.boil}
    if production.language:
        behind["language"] = production.language
    shot = Shot.objects.create(
        production=production, name=name, first_frame=first_frame, place=next_place(production), **behind
    )
    add_to_cast(shot, [character, *others])
    return shot


def set_shot(*, shot: Shot, name: str, first_frame: int) -> None:
    """Change a shot's name and the number of its first frame."""
    shot.name, shot.first_frame = name, first_frame
    shot.save(update_fields=["name", "first_frame"])


@transaction.atomic
def add_to_cast(shot: Shot, characters: Iterable[Character]) -> None:
    """Add characters to a shot; existing ones keep their places. Raises `ChartError` for too many."""
    Shot.objects.select_for_update().get(pk=shot.pk)
    there = set(shot.parts.values_list("character_id", flat=True))
    new = [c for c in dict.fromkeys(characters) if c.pk not in there]
    if len(there) + len(new) > MAX_CAST:
        raise ChartError("A shot can have up to {max_cast} characters. Split it into two shots.", max_cast=MAX_CAST)
    stands = _last_stands(shot, new)
    ShotCharacter.objects.bulk_create(
        ShotCharacter(shot=shot, character=c, place=at, stand=stands.get(c.pk, {}))
        for at, c in enumerate(new, len(there))
    )


def _last_stands(shot: Shot, characters: Sequence[Character]) -> dict[int, dict[str, Any]]:
    """The places of characters in the latest other shot of the production in which they were placed by hand."""
    placed = ShotCharacter.objects.filter(shot__production=shot.production_id, character__in=characters)
    rows = placed.exclude(shot=shot).exclude(stand={}).order_by("shot_id").values_list("character_id", "stand")
    return dict(rows)


@transaction.atomic
def remove_from_cast(shot: Shot, character: Character) -> None:
    """Remove a character from a shot, which keeps at least one. Its lines have no speaker then."""
    Shot.objects.select_for_update().get(pk=shot.pk)
    if shot.parts.count() < 2:
        raise ChartError("A shot needs at least one character. Add another one first.")
    shot.parts.filter(character=character).delete()
