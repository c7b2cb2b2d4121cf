"""Making studios."""

from django.db import transaction

from tinfork.apps.cast.actions.characters import add_starter_characters
from tinfork.apps.people.models import Membership, Studio, User


@transaction.atomic
def found_studio(*, name: str, owner: User) -> Studio:
    """A new studio with its owner and the starter characters."""
    studio = Studio.objects.create(name=name)
    Membership.objects.create(studio=studio, user=owner, role=Membership.Role.OWNER)
    add_starter_characters(studio)
    return studio
