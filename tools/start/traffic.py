"""What a browser fetches for a page."""

from typing import Any
from urllib.parse import urlparse

from playwright.sync_api import CDPSession


class Traffic:
    """Counts what arrives over the network on a page, from now on; what comes out of a cache is not counted."""

    def __init__(self, session: CDPSession) -> None:
        self._paths: dict[str, str] = {}
        #: The path of each answer, with its bytes as sent, headers too.
        self.answers: list[tuple[str, int]] = []
        session.on("Network.responseReceived", self._received)
        session.on("Network.loadingFinished", self._finished)
        session.send("Network.enable")

    def _received(self, event: dict[str, Any]) -> None:
        address = urlparse(event["response"]["url"])
        if address.scheme in ("http", "https"):
            self._paths[event["requestId"]] = address.path

    def _finished(self, event: dict[str, Any]) -> None:
        path = self._paths.get(event["requestId"])
        if path is not None:
            self.answers.append((path, int(event["encodedDataLength"])))

    def kilobytes(self, without: tuple[str, ...] = ()) -> float:
        """How much arrived (1,000 bytes each); `without` are ends of paths that are left out."""
        return sum(size for path, size in self.answers if not path.endswith(without)) / 1000
