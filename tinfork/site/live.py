"""The live process: `python -m tinfork.site.live --listen HOST:PORT`.

Pages hold a stream of server-sent events (HTML Living Standard, 9.2) open to it, and hear at once that the shot that
they show was changed, and which revision it has now: whoever has that already need not ask. It tells nothing else:
what changed they ask of the site, which looks who may see what. It hears of changes from PostgreSQL (`common.bus`),
whichever process made them. Where it is away, pages ask now and then.
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

#: A line is sent at least so often (seconds): what is between us and the page does not take it for dead.
_BEAT_S = 20.0
#: Who may hear is looked at again after so long (seconds), however much there is to hear.
_LOOK_AGAIN_S = 60.0
#: So long until a lost database is asked for again (seconds).
_AGAIN_S = 2.0
#: Streams of one person at once, and of all.
MAX_OF_ONE, MAX_STREAMS = 24, 2000


class Ear:
    """What one stream has to tell: nothing yet, or how far its shot was changed."""

    def __init__(self) -> None:
        self.woken = asyncio.Event()
        self._revisions: set[int] = set()

    def hear(self, revision: int) -> None:
        """The shot has this revision now; 0: something was said of it."""
        self._revisions.add(revision)
        self.woken.set()

    def told(self) -> str:
        """What was heard since it was asked last, as a line of the stream.

        The newest revision, or nothing where the shot must be asked for whatever revision the page has.
        """
        heard, self._revisions = self._revisions, set()
        self.woken.clear()
        if not heard:
            return ": here\n\n"
        return f"event: changed\ndata:{'' if 0 in heard else max(heard)}\n\n"


class Hall:
    """Who listens to which shot."""

    def __init__(self) -> None:
        self._ears: dict[int, set[Ear]] = defaultdict(set)
        self._of: dict[int, int] = defaultdict(int)

    def is_full(self, user: int) -> bool:
        """Whether there is no room for one more stream of somebody."""
        return self._of[user] >= MAX_OF_ONE or sum(self._of.values()) >= MAX_STREAMS

    @contextlib.contextmanager
    def ear(self, shot: int, user: int) -> Any:
        """Something that hears that the shot was changed, for as long as it is listened to."""
        ear = Ear()
        self._ears[shot].add(ear)
        self._of[user] += 1
        try:
            yield ear
        finally:
            self._ears[shot].discard(ear)
            self._of[user] -= 1

    def say(self, shot: int, revision: int) -> None:
        """A shot has this revision now; 0: something was said of it."""
        for ear in self._ears.get(shot, ()):
            ear.hear(revision)


async def hear(hall: Hall, database: str) -> None:
    """Pass on what PostgreSQL tells, for ever; a connection that is lost is made again."""
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
    """The number of the person whose session it is, if they may see the shot."""
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
    """Hear of a shot: a line for each time it was changed."""
    from django.conf import settings

    shot = int(request.path_params["shot"])
    session = request.cookies.get(settings.SESSION_COOKIE_NAME, "")
    origin = request.headers.get("origin", "")
    # Another port of the same machine is the site itself, where no proxy puts both in one place.
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
                # Who has signed out or was removed hears no more.
                if await listener(session, shot) != user:
                    return
                looked = time.monotonic()
            yield ear.told()


async def healthy(request: Request) -> Response:
    """It is up."""
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
    """Serve until told to stop."""
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
