"""Changing the dials of a character in a shot, presets, and a production's default."""

from collections.abc import Mapping
from dataclasses import asdict

from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.produce.models import Production, Shot, ShotCharacter
from tinfork.apps.reading.looks import count_anew
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import dials_of
from tinfork.core.commands.declared import EditContext, one_line
from tinfork.core.commands.settings import TurnDials
from tinfork.core.errors import SolverError
from tinfork.core.solver.dials import PRESETS, Dials, dials_from

MOST_PRESETS = 40


def presets_of(production: Production) -> dict[str, Dials]:
    """All presets: the built-in ones, and the production's own."""
    return PRESETS | {name: dials_from(values) for name, values in production.presets.items()}


def turn_dials(row: Soundtrack, command: TurnDials, context: EditContext) -> None:
    """Change dials of a character in a shot. Raises `SolverError` for invalid values."""
    shot = row.shot
    part = _part(shot, context.speaker(command.speaker))
    values: Mapping[str, object]
    if command.usual:
        values = {}
    elif command.preset is not None:
        name = one_line(command.preset)
        found = presets_of(shot.production).get(name)
        if found is None:
            raise SolverError("There is no preset called “{name}”.", name=name)
        values = asdict(found)
    elif command.values is None:
        raise SolverError("Send up to 20 settings by name.")
    else:
        values = asdict(dials_from(part.dials | command.values, dials_from(shot.production.dials)))
    part.dials = dict(values)
    part.save(update_fields=["dials"])


def with_dials(shot: Shot, character: Character, values: Mapping[str, object]) -> Shot:
    """A shot, fetched with its cast, with some of a character's dials changed in memory only."""
    for part in shot.cast_rows:
        if part.character_id == character.pk:
            part.dials = asdict(dials_from(part.dials | dict(values), dials_from(shot.production.dials)))
    return shot


@transaction.atomic
def make_usual(*, shot: Shot, character: Character) -> Dials:
    """Make a character's dials the production's default."""
    dials = dials_of(shot, character)
    Production.objects.filter(pk=shot.production_id).update(dials=asdict(dials))
    ShotCharacter.objects.filter(shot=shot, character=character).update(dials={})
    count_anew(shot.production.shots.all())
    return dials


@transaction.atomic
def name_dials(*, shot: Shot, character: Character, name: str) -> Dials:
    """Save a character's dials as a preset of the production; an existing one of its own may be replaced."""
    clean = " ".join(name.split())[:40]
    production = Production.objects.select_for_update().get(pk=shot.production_id)
    if not clean or clean in PRESETS:
        raise SolverError("This name is taken. Choose another name for the preset.")
    if len(production.presets) >= MOST_PRESETS and clean not in production.presets:
        raise SolverError("A production can have up to {most_presets} presets.", most_presets=MOST_PRESETS)
    dials = dials_of(shot, character)
    production.presets[clean] = asdict(dials)
    production.save(update_fields=["presets"])
    return dials


@transaction.atomic
def take_in_dials(*, production: Production, named: Mapping[str, Dials]) -> list[str]:
    """Store imported presets; returns their names here: a name that is taken gets a number.

    Raises `SolverError` for too many.
    """
    row = Production.objects.select_for_update().get(pk=production.pk)
    called = []
    for name, dials in named.items():
        free, number = name, 1
        while (there := presets_of(row).get(free)) is not None and there != dials:
            number += 1
            free = f"{name[:36]} {number}"
        if there is None:
            row.presets[free] = asdict(dials)
        called.append(free)
    if len(row.presets) > MOST_PRESETS:
        raise SolverError("A production can have up to {most_presets} presets.", most_presets=MOST_PRESETS)
    row.save(update_fields=["presets"])
    return called


def _part(shot: Shot, speaker: str) -> ShotCharacter:
    found = ShotCharacter.objects.select_for_update().filter(shot=shot, character=int(speaker)).first()
    if found is None:
        raise SolverError("That character is no longer in this shot.")
    return found
