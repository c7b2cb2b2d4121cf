"""What the log says beside each line: which request or job it is about, whose it is, which shot, and why.

A terminal gets short lines, a server a JSON object a line (`TINFORK_LOG=json`).
"""

import json
import logging
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from django.contrib.auth import SESSION_KEY
from django.db import DatabaseError, InterfaceError
from django.http import HttpRequest, HttpResponse

_ABOUT: ContextVar[dict[str, Any] | None] = ContextVar("about", default=None)
_REQUEST: ContextVar[HttpRequest | None] = ContextVar("request", default=None)


@contextmanager
def logged_about(**values: Any) -> Iterator[None]:
    """Let every line that is logged meanwhile say these values, too."""
    token = _ABOUT.set({**(_ABOUT.get() or {}), **values})
    try:
        yield
    finally:
        _ABOUT.reset(token)


def add_to_log(**values: Any) -> None:
    """Let the lines that follow say these values, too: inside `logged_about`, or in a request."""
    about = _ABOUT.get()
    if about is not None:
        about.update(values)


def log_id() -> str:
    """By what the lines about this request or job are found; empty outside of one."""
    about = _ABOUT.get() or {}
    return str(about.get("request") or about.get("job") or "")


class LogContextMiddleware:
    """Gives each request a number of its own: the log, the answer's `X-Request-ID` and pages about errors say it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request; whatever is logged meanwhile is about it."""
        seen = _REQUEST.set(request)
        try:
            with logged_about(request=secrets.token_hex(6)):
                # Django logs refused requests when all of this is over.
                request.logged_about = _ABOUT.get()  # type: ignore[attr-defined]
                response = self.get_response(request)
                response["X-Request-ID"] = log_id()
                return response
        finally:
            _REQUEST.reset(seen)


def _of_request(request: HttpRequest) -> dict[str, Any]:
    """Who asked for what, as far as that is known without asking the database."""
    out: dict[str, Any] = {"path": getattr(request, "path", None)}
    session = getattr(request, "session", None)
    match = getattr(request, "resolver_match", None)
    if session is not None and session.accessed:
        # Where the session itself could not be read, this asks the database again, which may still be away.
        with suppress(DatabaseError, InterfaceError):
            out["user"] = session.get(SESSION_KEY)
    if match and match.route.startswith("shots/"):
        out["shot"] = match.kwargs.get("pk")
    return out


class AboutFilter(logging.Filter):
    """Writes what is known into each record, as `about`."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every record passes."""
        request = getattr(record, "request", None) or _REQUEST.get()
        of_request = {**_of_request(request), **getattr(request, "logged_about", {})} if request else {}
        known = {**of_request, **(_ABOUT.get() or {})}
        record.about = {name: value for name, value in known.items() if value not in (None, "")}
        return True


class LineFormatter(logging.Formatter):
    """A line for a person to read, and the traceback below it."""

    def __init__(self) -> None:
        super().__init__("{asctime} {levelname} {name}: {message}{beside}", style="{")

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        about = getattr(record, "about", {})
        said = " ".join(f"{name}={value}" for name, value in about.items())
        record.beside = f" [{said}]" if said else ""
        return super().format(record)


class JsonFormatter(logging.Formatter):
    """A JSON object on one line, for a collector of logs."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        said = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "logger": record.name,
            "message": record.getMessage(),
            **getattr(record, "about", {}),
        }
        if record.exc_info:
            said["trace"] = self.formatException(record.exc_info)
        return json.dumps(said, ensure_ascii=False, default=str)
