"""Creating studios, and changing accounts."""

from pathlib import Path

from django.db import transaction

from tinfork.apps.cast.actions.characters import add_starter_characters
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.people.members import studios_alone
from tinfork.apps.people.models import Membership, Studio, User
from tinfork.apps.produce.archive import delete_for_good
from tinfork.apps.produce.models import Production
from tinfork.engines.drawings import picture_apart, prepare


@transaction.atomic
def found_studio(*, name: str, owner: User) -> Studio:
    """Create a studio with its owner and the starter characters."""
    studio = Studio.objects.create(name=name)
    Membership.objects.create(studio=studio, user=owner, role=Membership.Role.OWNER)
    add_starter_characters(studio)
    return studio


def portrait_from(path: Path, name: str) -> str:
    """Store a small copy of a picture, of any format that drawings may have; returns its key. Raises `FormatError`."""
    prepared = picture_apart(prepare, path, name, progress=lambda phase, done: None, name=name, reports=False)
    return keep_bytes(prepared[0].thumb, ".png")


@transaction.atomic
def delete_account(user: User) -> None:
    """Delete a person, and the studios in which nobody would be left.

    Their work in other studios stays, without a name.
    """
    for studio in studios_alone(user):
        for production in Production.everything.filter(studio=studio):
            delete_for_good(production)
        studio.delete()
    user.delete()
