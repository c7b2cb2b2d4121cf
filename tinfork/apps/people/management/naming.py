"""Finding the studio named in a command."""

from django.core.management.base import CommandError

from tinfork.apps.people.models import Studio


def studio_named(name: str) -> Studio:
    """The studio with a name; raises `CommandError` if there is none, or if there are several."""
    found = list(Studio.objects.filter(name=name)[:2])
    if len(found) != 1:
        raise CommandError(f"There {'are several studios' if found else 'is no studio'} of that name.")
    return found[0]
