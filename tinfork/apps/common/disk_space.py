"""Limits of request bodies, and checks of free disk space."""

import os
from pathlib import Path

from django.conf import settings

from tinfork.apps.common.concurrency import NotNowError
from tinfork.core.messages import Message

#: The disk space of an upload in multiples of its size: the stored copy, the copy that a job opens, and the results.
COPIES = 3
#: Disk space reserved for the database and the logs.
RESERVE_BYTES = 200 * 1024 * 1024


#: The largest body of a stranger's request, as for signing in or up.
STRANGERS_BYTES = 1024 * 1024
NO_ROOM = Message("The site's disk is full. Nothing was changed. Ask its admin to free some space.")


class NoRoomError(NotNowError):
    """There is no disk space for an upload."""

    code, title = "room", Message("Disk full")


def free_bytes(folder: Path) -> int:
    """Free bytes on a folder's disk."""
    told = os.statvfs(folder)
    return told.f_bavail * told.f_frsize


#: Smaller bodies, like forms and edits, are not checked.
_SMALL = 1024 * 1024


def is_room_for(size: int) -> bool:
    """Whether there is space for an upload of a size, and for what is made from it."""
    return size <= _SMALL or free_bytes(settings.DATA) >= COPIES * size + RESERVE_BYTES


def need_room_for(size: int) -> None:
    """Raise `NoRoomError` if there is no space for an upload of a size."""
    if not is_room_for(size):
        raise NoRoomError(NO_ROOM)
