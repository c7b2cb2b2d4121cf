"""How commands are told which studio they are about."""

from django.core.management.base import CommandError

from tinfork.apps.people.models import Studio


def studio_named(name: str) -> Studio:
    """The one studio of a name; raises `CommandError` where there is none, or several."""
    found = list(Studio.objects.filter(name=name)[:2])
    if len(found) != 1:
        raise CommandError(f"There {'are several studios' if found else 'is no studio'} of that name.")
    return found[0]
