"""The web process: `python -m tinfork.site.serve --listen HOST:PORT`.

Requests are taken in and answers sent out by one loop (waitress): a thread is busy only while Django works on a whole
request, so that slow clients cost none. Who is too slow even for that is let go; a body for which there is no room is
read and thrown away, so that the client hears why.

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

from tinfork.apps.common.room import STRANGERS_BYTES, is_room_for

#: How long the head of a request may take to arrive, and how slow its body may be once it has been coming this long.
HEAD_S = 30
PATIENCE_S = 60
LEAST_BYTES_PER_S = 500
#: The disk is looked at again after so many bytes of a body.
_LOOK_EVERY = 16 * 1024 * 1024
THREADS = 8
HEALTH = "/healthy"
MOST_CONNECTIONS = 1000


class _Nowhere:
    """A buffer that keeps nothing."""

    def __len__(self) -> int:
        return 0

    def append(self, data: bytes) -> None:
        """Forget it."""

    def getfile(self) -> Any:
        """Nothing to read."""
        import io

        return io.BytesIO()

    def close(self) -> None:
        """Nothing is open."""


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """A request as it arrives; `TINFORK_REFUSED` among its headers says why its body was thrown away."""

    #: Whether there is room for an upload of so many bytes.
    is_room_for = staticmethod(is_room_for)

    def __init__(self, adj: Any) -> None:
        super().__init__(adj)
        self.started = time.monotonic()
        self._looked = 0

    def parse_header(self, header_plus: bytes) -> None:
        """The head is here: refuse what it announces, or take it."""
        super().parse_header(header_plus)
        self.headers.pop("TINFORK_REFUSED", None)
        if self.content_length > STRANGERS_BYTES and "sessionid=" not in self.headers.get("COOKIE", ""):
            self._refuse("stranger")
        elif self.content_length and not self.is_room_for(self.content_length):
            self._refuse("room")

    def received(self, data: bytes) -> int:
        """Take what has arrived; now and then look whether there is still room."""
        taken = int(super().received(data))
        if self.chunked and self.body_bytes_received > STRANGERS_BYTES and not self.completed:
            # Whoever sends so much says how much it will be: browsers do.
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
        """Whether it has had all the patience there is."""
        age = time.monotonic() - self.started
        if not self.headers_finished:
            return age > HEAD_S
        return age > PATIENCE_S and self.body_bytes_received < (age - PATIENCE_S) * LEAST_BYTES_PER_S


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection; one whose request is too slow is closed."""

    parser_class = Parser

    def readable(self) -> bool:
        """Asked by the loop, at least every second."""
        if self.request is not None and not self.request.completed and self.request.is_too_slow:
            self.will_close = True
        return bool(super().readable())


def _by_lane(usual: ThreadedTaskDispatcher) -> Callable[[HTTPChannel], None]:
    """Requests go to the usual threads; whether all is well is said by a thread of its own, however many wait there."""
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
    # What is buffered of a body lies where there is room for it.
    Path(settings.FILE_UPLOAD_TEMP_DIR).mkdir(exist_ok=True)
    server.run()


if __name__ == "__main__":
    main()
