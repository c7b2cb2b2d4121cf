"""Settling second looks."""

import re

from tinfork.apps.reading.actions.beside import mark
from tinfork.apps.reading.models import Soundtrack
from tinfork.core.errors import FormatError
from tinfork.core.soundtrack.given import Given


def settle(row: Soundtrack, given: Given) -> None:
    """A second look (`key`) is settled, until its cause changes; or opened again (`open`)."""
    key = given.text("key", 16)
    if not re.fullmatch(r"[0-9a-f]{16}", key):
        raise FormatError("That second look is not there any more.")
    mark(row, key, is_settled=not given.flag("open"))
