"""Limits how many requests do slow work at once.

Others are told to come back, so that nobody waits behind them.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from tinfork.core.errors import EngineError
from tinfork.core.messages import Message


class NotNowError(EngineError):
    """A valid request that can be repeated later: 503."""

    title = Message("Try again later")


class BusyError(NotNowError):
    """The limit of concurrent requests is reached."""

    code, title = "busy", Message("Busy")


class ConcurrencyLimit:
    """A limit on concurrent requests in this process."""

    def __init__(self, most: int = 1) -> None:
        self._free = threading.BoundedSemaphore(most)

    @contextmanager
    def inside(self) -> Iterator[None]:
        """Enter; raises `BusyError` if it is full."""
        if not self._free.acquire(blocking=False):
            raise BusyError("The server is busy with another request. Try again in a few seconds.")
        try:
            yield
        finally:
            self._free.release()
