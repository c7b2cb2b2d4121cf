"""What was worked out last, kept in this process: it changes nothing but the time that is taken."""

from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class RecentCache(Generic[K, V]):
    """Up to `most` values by key; the ones that were put longest ago go. Requests in several threads may share it."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: dict[K, V] = {}
        self._lock = Lock()

    def get(self, key: K) -> V | None:
        """The value of a key, if it is still there."""
        return self._values.get(key)

    def put(self, key: K, value: V) -> None:
        """Keep a value, as the latest."""
        with self._lock:
            self._values.pop(key, None)
            self._values[key] = value
            while len(self._values) > self._most:
                del self._values[next(iter(self._values))]
