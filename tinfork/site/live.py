"""The live process: `python -m tinfork.site.live --listen HOST:PORT`.

Pages keep a stream of server-sent events (HTML Living Standard, 9.2) open to it, and learn at once when their shot
changes, with its new revision; a page that has that revision need not ask. The stream has no other data: pages request
the changes from the site, which checks permissions. It gets notifications from PostgreSQL (`common.bus`), from
whichever process made the change. Without it, pages poll.
"""

import argparse
import asyncio
import contextlib
import logging
import os
import time
from collections import defaultdict
from collections.abc import AsyncIterator
from typing import Any
from urllib.parse import urlsplit

import psycopg
import uvicorn
from asgiref.sync import sync_to_async
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response, StreamingResponse
from starlette.routing import Route

log = logging.getLogger("tinfork.live")

#: A line is sent at least this often (seconds), so that proxies do not close the connection.
_BEAT_S = 20.0
#: Permissions are checked again after this time (seconds), however busy the stream is.
_LOOK_AGAIN_S = 60.0
#: The delay before reconnecting to the database (seconds).
_AGAIN_S = 2.0
#: The most streams of one person, and of all.
MAX_OF_ONE, MAX_STREAMS = 24, 2000


class Ear:
    """The pending message of one stream, if any."""

    def __init__(self) -> None:
        self.woken = asyncio.Event()
        self._revisions: set[int] = set()

    def hear(self, revision: int) -> None:
        """Note the shot's new revision; 0 means a new remark."""
        self._revisions.add(revision)
        self.woken.set()

    def told(self) -> str:
        """The pending message as a line of the stream.

        The newest revision, or no number if the page must ask in any case.
        """
        heard, self._revisions = self._revisions, set()
        self.woken.clear()
        if not heard:
            return ": here\n\n"
        return f"event: changed\ndata:{'' if 0 in heard else max(heard)}\n\n"


class Hall:
    """The open streams by shot."""

    def __init__(self) -> None:
        self._ears: dict[int, set[Ear]] = defaultdict(set)
        self._of: dict[int, int] = defaultdict(int)

    def is_full(self, user: int) -> bool:
        """Whether a person may not open another stream."""
        return self._of[user] >= MAX_OF_ONE or sum(self._of.values()) >= MAX_STREAMS

    @contextlib.contextmanager
    def ear(self, shot: int, user: int) -> Any:
        """Register a stream for a shot, inside the context."""
        ear = Ear()
        self._ears[shot].add(ear)
        self._of[user] += 1
        try:
            yield ear
        finally:
            self._ears[shot].discard(ear)
            self._of[user] -= 1

    def say(self, shot: int, revision: int) -> None:
        """Tell all streams of a shot its new revision; 0 means a new remark."""
        for ear in self._ears.get(shot, ()):
            ear.hear(revision)


async def hear(hall: Hall, database: str) -> None:
    """Pass on PostgreSQL's notifications for ever, reconnecting if needed."""
    from tinfork.apps.common.bus import SHOTS

    while True:
        try:
            async with await psycopg.AsyncConnection.connect(database, autocommit=True) as connection:
                await connection.execute(f"LISTEN {SHOTS}")
                async for told in connection.notifies():
                    shot, _, revision = told.payload.partition(" ")
                    hall.say(int(shot), int(revision or 0))
        except (psycopg.Error, OSError) as error:
            log.warning("the database is away: %s", error)
            await asyncio.sleep(_AGAIN_S)


@sync_to_async
def listener(session_key: str, shot: int) -> int | None:
    """The id of the session's person, if they may see the shot."""
    from django.conf import settings
    from django.contrib.auth import get_user
    from django.db import close_old_connections
    from django.http import HttpRequest
    from django.utils.module_loading import import_string

    from tinfork.apps.people.access import visible
    from tinfork.apps.people.models import User
    from tinfork.apps.produce.models import Shot

    close_old_connections()
    asked = HttpRequest()
    asked.session = import_string(f"{settings.SESSION_ENGINE}.SessionStore")(session_key)
    user = get_user(asked)
    if not isinstance(user, User) or not visible(Shot, user).filter(pk=shot).exists():
        return None
    return user.pk


async def stream(request: Request) -> Response:
    """The stream of a shot: a line for each change."""
    from django.conf import settings

    shot = int(request.path_params["shot"])
    session = request.cookies.get(settings.SESSION_COOKIE_NAME, "")
    origin = request.headers.get("origin", "")
    # Without a proxy, the site is on another port of the same host.
    if origin and urlsplit(origin).hostname != request.url.hostname:
        return PlainTextResponse("not from here", 403)
    user = await listener(session, shot) if session else None
    if user is None:
        return PlainTextResponse("not here", 404)
    hall: Hall = request.app.state.hall
    if hall.is_full(user):
        return PlainTextResponse("full", 503)
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    if origin:
        headers |= {"Access-Control-Allow-Origin": origin, "Access-Control-Allow-Credentials": "true", "Vary": "Origin"}
    return StreamingResponse(_lines(hall, shot, user, session), media_type="text/event-stream", headers=headers)


async def _lines(hall: Hall, shot: int, user: int, session: str) -> AsyncIterator[str]:
    with hall.ear(shot, user) as ear:
        yield "event: open\ndata:\n\n"
        looked = time.monotonic()
        while True:
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(ear.woken.wait(), _BEAT_S)
            if time.monotonic() - looked > _LOOK_AGAIN_S:
                # End the stream after somebody signed out or was removed.
                if await listener(session, shot) != user:
                    return
                looked = time.monotonic()
            yield ear.told()


async def healthy(request: Request) -> Response:
    """The health check."""
    return PlainTextResponse("ok")


def application(database: str) -> Starlette:
    """The streams, as an ASGI application."""
    hall = Hall()

    @contextlib.asynccontextmanager
    async def lifespan(app: Starlette) -> AsyncIterator[None]:
        app.state.hall = hall
        hearing = asyncio.create_task(hear(hall, database))
        yield
        hearing.cancel()

    routes = [Route("/live/shots/{shot:int}", stream), Route("/healthy", healthy)]
    return Starlette(routes=routes, lifespan=lifespan)


def main() -> None:
    """Serve until stopped."""
    import django

    parser = argparse.ArgumentParser(prog="tinfork.site.live")
    parser.add_argument("--listen", required=True, help="HOST:PORT")
    host, _, port = parser.parse_args().listen.rpartition(":")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.site.settings")
    django.setup()
    uvicorn.run(
        application(os.environ["DATABASE_URL"]),
        host=host.strip("[]"),
        port=int(port),
        log_level="warning",
        server_header=False,
        timeout_graceful_shutdown=1,
        limit_concurrency=MAX_STREAMS + 100,
    )


if __name__ == "__main__":
    main()
