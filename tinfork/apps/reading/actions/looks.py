"""Settling second looks."""

import re

from tinfork.apps.reading.actions.shot_settings import mark_look
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.settings import SettleLook
from tinfork.core.errors import FormatError


def settle_look(row: Soundtrack, command: SettleLook, context: EditContext) -> None:
    """Settle a second look until its cause changes, or reopen it. Raises `FormatError` for an invalid key."""
    if not re.fullmatch(r"[0-9a-f]{16}", command.key):
        raise FormatError("That second look is already resolved.")
    mark_look(row, command.key, is_settled=not command.open)
