"""The web process: `python -m tinfork.site.serve --listen HOST:PORT`.

One loop (waitress) receives requests and sends responses: a thread is busy only while Django works on a complete
request, so that slow clients block none. Clients that are too slow even for that are disconnected; a body without disk
space is read and discarded, so that the client gets the reason.

TINFORK_PROXY  address of the proxy before this process, whose word on the client's address and scheme is believed
"""

import argparse
import logging
import os
import signal
import socket
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

from waitress import create_server
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.receiver import FixedStreamReceiver
from waitress.task import ThreadedTaskDispatcher
from waitress.utilities import RequestEntityTooLarge

from tinfork.apps.common.disk_space import STRANGERS_BYTES, is_room_for

#: The time limit for a request's header, and the least speed of its body after that time.
HEAD_S = 30
PATIENCE_S = 60
LEAST_BYTES_PER_S = 500
#: The free disk space is checked again after this many bytes of a body.
_LOOK_EVERY = 16 * 1024 * 1024
THREADS = 8
HEALTH = "/healthy"
MOST_CONNECTIONS = 1000


class _Nowhere:
    """A buffer that discards everything."""

    def __len__(self) -> int:
        return 0

    def append(self, data: bytes) -> None:
        """Discard data."""

    def getfile(self) -> Any:
        """An empty file."""
        import io

        return io.BytesIO()

    def close(self) -> None:
        """Nothing to close."""


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """Parses a request; the header `TINFORK_REFUSED` has the reason if its body was discarded."""

    #: Checks the disk space for an upload of a size.
    is_room_for = staticmethod(is_room_for)

    def __init__(self, adj: Any) -> None:
        super().__init__(adj)
        self.started = time.monotonic()
        self._looked = 0

    def parse_header(self, header_plus: bytes) -> None:
        """Parse the header, and refuse the body if it is too large."""
        super().parse_header(header_plus)
        self.headers.pop("TINFORK_REFUSED", None)
        if self.content_length > STRANGERS_BYTES and "sessionid=" not in self.headers.get("COOKIE", ""):
            self._refuse("stranger")
        elif self.content_length and not self.is_room_for(self.content_length):
            self._refuse("room")

    def received(self, data: bytes) -> int:
        """Receive data, and check the disk space now and then."""
        taken = int(super().received(data))
        if self.chunked and self.body_bytes_received > STRANGERS_BYTES and not self.completed:
            # Large bodies must declare their length, as browsers do.
            self.error, self.completed = RequestEntityTooLarge("a length is needed"), True
        if self.body_bytes_received - self._looked > _LOOK_EVERY:
            self._looked = self.body_bytes_received
            left = max(0, self.content_length - self.body_bytes_received)
            if not self.is_room_for(left) and not self.completed and not self.chunked:
                self._refuse("room", left)
        return taken

    body_rcv: Any
    completed: bool

    def _refuse(self, why: str, left: int | None = None) -> None:
        if self.body_rcv is not None:
            self.body_rcv.getbuf().close()
        self.headers["TINFORK_REFUSED"] = why
        self.headers["CONTENT_LENGTH"] = "0"
        self.connection_close = True
        self.body_rcv = FixedStreamReceiver(self.content_length if left is None else left, _Nowhere())

    @property
    def is_too_slow(self) -> bool:
        """Whether the client is too slow."""
        age = time.monotonic() - self.started
        if not self.headers_finished:
            return age > HEAD_S
        return age > PATIENCE_S and self.body_bytes_received < (age - PATIENCE_S) * LEAST_BYTES_PER_S


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection, which is closed if its request is too slow."""

    parser_class = Parser

    def readable(self) -> bool:
        """Called by the loop at least every second."""
        if self.request is not None and not self.request.completed and self.request.is_too_slow:
            self.will_close = True
        return bool(super().readable())


def _by_lane(usual: ThreadedTaskDispatcher) -> Callable[[HTTPChannel], None]:
    """Dispatch requests to the usual threads, and health checks to a separate one that is never busy."""
    health = ThreadedTaskDispatcher()
    health.set_thread_count(1)

    def add_task(channel: HTTPChannel) -> None:
        (health if channel.requests[0].path == HEALTH else usual).add_task(channel)

    return add_task


def _stop(number: int, frame: object) -> NoReturn:
    raise SystemExit(0)


def listening_socket(address: str) -> socket.socket:
    """A socket on HOST:PORT."""
    host, _, port = address.rpartition(":")
    return socket.create_server((host.strip("[]"), int(port)), backlog=1024)


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser(prog="tinfork.site.serve")
    parser.add_argument("--listen", required=True, help="HOST:PORT")
    options = parser.parse_args()
    logging.basicConfig(level=logging.WARNING)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    bound = listening_socket(options.listen)
    from django.conf import settings

    from tinfork.site.wsgi import application

    proxy = os.environ.get("TINFORK_PROXY", "")
    trusted = {"trusted_proxy": proxy, "trusted_proxy_headers": "x-forwarded-for x-forwarded-proto"} if proxy else {}
    server = create_server(
        application,
        sockets=[bound],
        threads=THREADS,
        connection_limit=MOST_CONNECTIONS,
        asyncore_use_poll=True,
        channel_timeout=75,
        max_request_body_size=settings.MOST_SENT_BYTES,
        inbuf_overflow=256 * 1024,
        clear_untrusted_proxy_headers=True,
        ident="",
        **trusted,
    )
    server.channel_class = Channel
    server.add_task = _by_lane(server.task_dispatcher)
    for name in (signal.SIGTERM, signal.SIGINT):
        signal.signal(name, _stop)
    # Buffer bodies in the folder with disk space for them.
    Path(settings.FILE_UPLOAD_TEMP_DIR).mkdir(exist_ok=True)
    server.run()


if __name__ == "__main__":
    main()
