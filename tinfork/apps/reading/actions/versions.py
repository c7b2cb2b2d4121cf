"""Versions of a shot by name: kept, and returned to. A return is an edit like any other, and can be undone."""

import copy

from django.db import IntegrityError, transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.soundtracks import keep, known_takes, locked
from tinfork.apps.reading.models import Version
from tinfork.core.errors import TimingError
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict

MOST = 200


@transaction.atomic
def keep_version(*, shot: Shot, name: str, by: User) -> Version:
    """The shot as it is, under a name; raises `TimingError` for a name that is taken or none."""
    name = " ".join(name.replace("\0", "").split())
    if not 0 < len(name) <= 80:
        raise TimingError("Give the version a name of up to 80 characters.")
    row = locked(shot)
    if row.versions.count() >= MOST:
        raise TimingError(f"A shot has up to {MOST} versions. Delete one that is not needed any more.")
    try:
        with transaction.atomic():
            return row.versions.create(name=name, document=row.document, by=by)
    except IntegrityError:
        raise TimingError(f"There is a version “{name}” already. Give this one another name.") from None


@transaction.atomic
def return_to(*, shot: Shot, version: Version, by: User) -> None:
    """The shot as it was in a version."""
    row = locked(shot)
    then = known_takes(row, soundtrack_from_dict(version.document))
    keep(row, then, name="return", by=by, parameters={"version": version.name})


def shot_as_of(shot: Shot, version: Version) -> Shot:
    """The shot with the sound, words and pins of a version, to be looked at; nothing of it is kept."""
    then = copy.copy(shot)
    soundtrack = copy.copy(shot.soundtrack)
    soundtrack.document = version.document
    soundtrack.duration_us = soundtrack_from_dict(version.document).duration_us
    soundtrack.shot = then
    then._state = copy.copy(shot._state)
    then._state.fields_cache = {**shot._state.fields_cache, "soundtrack": soundtrack}
    return then
