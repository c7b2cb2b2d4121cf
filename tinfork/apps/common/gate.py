"""Work that takes seconds of a request is done by few requests at once.

The others are told to come back, and nobody waits behind it.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from tinfork.core.errors import EngineError
from tinfork.core.messages import Message


class NotNowError(EngineError):
    """What was asked for is right, and can be asked for again later: 503."""

    title = Message("Try again later")


class BusyError(NotNowError):
    """As many as may are at it already."""

    code, title = "busy", Message("Busy")


class Gate:
    """So many may be inside at once, in this process."""

    def __init__(self, most: int = 1) -> None:
        self._free = threading.BoundedSemaphore(most)

    @contextmanager
    def inside(self) -> Iterator[None]:
        """Go in; raises `BusyError` where it is full."""
        if not self._free.acquire(blocking=False):
            raise BusyError("The server is busy with another request. Try again in a few seconds.")
        try:
            yield
        finally:
            self._free.release()
