"""Who else is at the Desk of a shot, and at which frame."""

from datetime import timedelta
from typing import Any

from django.utils import timezone

from tinfork.apps.desk.models import Presence
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot

#: A person counts as gone after this time; pages report every second and a half.
_GONE = timedelta(seconds=8)


def be_at(shot: Shot, user: User, frame: int) -> None:
    """Store that somebody is at a frame (from 0)."""
    Presence.objects.update_or_create(shot=shot, user=user, defaults={"frame": frame, "seen_at": timezone.now()})


def others_at(shot: Shot, user: User) -> list[dict[str, Any]]:
    """The names of the others, and their frames (from 0)."""
    there = shot.presences.filter(seen_at__gte=timezone.now() - _GONE).exclude(user=user).select_related("user")
    return [{"id": one.user_id, "name": one.user.called, "frame": one.frame} for one in there]
