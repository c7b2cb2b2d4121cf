"""How much is taken of whom, and whether there is room on the disk for it."""

import os
from pathlib import Path

from django.conf import settings

from tinfork.apps.common.gate import NotNowError
from tinfork.core.messages import Message

#: What an upload takes besides itself until it is opened: the copy that is stored, the copy that a job opens, and what
#: is made of it.
COPIES = 3
#: What is left to the database and the logs.
RESERVE_BYTES = 200 * 1024 * 1024


#: What people send who have not signed in: a sign-in, a sign-up.
STRANGERS_BYTES = 1024 * 1024
NO_ROOM = Message("The site's disk is full. Nothing was changed. Ask its admin to free some space.")


class NoRoomError(NotNowError):
    """There is no room for what was sent."""

    code, title = "room", Message("Disk full")


def free_bytes(folder: Path) -> int:
    """Bytes that are free on a folder's disk."""
    told = os.statvfs(folder)
    return told.f_bavail * told.f_frsize


#: What a form or an edit takes is the database's business.
_SMALL = 1024 * 1024


def is_room_for(size: int) -> bool:
    """Whether an upload of so many bytes, and what will be made of it, has room."""
    return size <= _SMALL or free_bytes(settings.DATA) >= COPIES * size + RESERVE_BYTES


def need_room_for(size: int) -> None:
    """Raise `NoRoomError` where there is no room for an upload of so many bytes."""
    if not is_room_for(size):
        raise NoRoomError(NO_ROOM)
