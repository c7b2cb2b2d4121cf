"""How a character's mouth is timed in a shot, and what is usual in a production."""

from collections.abc import Mapping
from dataclasses import asdict

from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.produce.models import Production, Shot, ShotCharacter
from tinfork.apps.reading.solving import dials_of
from tinfork.core.errors import SolverError
from tinfork.core.solver.problem import PRESETS, Dials, dials_from

MOST_PRESETS = 40


def presets_of(production: Production) -> dict[str, Dials]:
    """The dials that have a name: those that come with the application, and the production's own."""
    return PRESETS | {name: dials_from(values) for name, values in production.presets.items()}


@transaction.atomic
def turn_dials(*, shot: Shot, character: Character, values: Mapping[str, object]) -> Dials:
    """Some dials of a character in a shot; raises `SolverError` for values that are none."""
    part = _part(shot, character)
    dials = dials_from(part.dials | dict(values), dials_from(shot.production.dials))
    part.dials = asdict(dials)
    part.save(update_fields=["dials"])
    return dials


@transaction.atomic
def as_usual(*, shot: Shot, character: Character) -> Dials:
    """The production's dials again."""
    part = _part(shot, character)
    part.dials = {}
    part.save(update_fields=["dials"])
    return dials_from(shot.production.dials)


@transaction.atomic
def use_preset(*, shot: Shot, character: Character, name: str) -> Dials:
    """All dials as a preset has them."""
    found = presets_of(shot.production).get(name)
    if found is None:
        raise SolverError(f"There are no dials called “{name[:40]}”.")
    return turn_dials(shot=shot, character=character, values=asdict(found))


@transaction.atomic
def make_usual(*, shot: Shot, character: Character) -> Dials:
    """What a character's dials are now is usual in the production from now on, for all who have none of their own."""
    dials = dials_of(shot, character)
    Production.objects.filter(pk=shot.production_id).update(dials=asdict(dials))
    as_usual(shot=shot, character=character)
    return dials


@transaction.atomic
def name_dials(*, shot: Shot, character: Character, name: str) -> Dials:
    """Keep a character's dials under a name, for the whole production; a name of its own may be written over."""
    clean = " ".join(name.split())[:40]
    production = Production.objects.select_for_update().get(pk=shot.production_id)
    if not clean or clean in PRESETS:
        raise SolverError("Give these dials a name of their own.")
    if len(production.presets) >= MOST_PRESETS and clean not in production.presets:
        raise SolverError(f"A production has up to {MOST_PRESETS} named dials.")
    dials = dials_of(shot, character)
    production.presets[clean] = asdict(dials)
    production.save(update_fields=["presets"])
    return dials


def _part(shot: Shot, character: Character) -> ShotCharacter:
    found = ShotCharacter.objects.select_for_update().filter(shot=shot, character=character).first()
    if found is None:
        raise SolverError("That character is not in this shot any more.")
    return found
