"""A small cache of recent results in this process; it only saves time."""

from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class RecentCache(Generic[K, V]):
    """Up to `most` values by key; the oldest are dropped. Thread-safe."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: dict[K, V] = {}
        self._lock = Lock()

    def get(self, key: K) -> V | None:
        """The value of a key, or None."""
        return self._values.get(key)

    def put(self, key: K, value: V) -> None:
        """Store a value."""
        with self._lock:
            self._values.pop(key, None)
            self._values[key] = value
            while len(self._values) > self._most:
                del self._values[next(iter(self._values))]
