"""The context of each log line: request or job, user, shot, and cause.

Short lines for a terminal, or a JSON object per line for a server (`TINFORK_LOG=json`).
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
    """Add these values to every line that is logged inside the context."""
    token = _ABOUT.set({**(_ABOUT.get() or {}), **values})
    try:
        yield
    finally:
        _ABOUT.reset(token)


def add_to_log(**values: Any) -> None:
    """Add these values to all following lines, inside `logged_about` or a request."""
    about = _ABOUT.get()
    if about is not None:
        about.update(values)


def log_id() -> str:
    """The id of this request or job in the log; empty outside of one."""
    about = _ABOUT.get() or {}
    return str(about.get("request") or about.get("job") or "")


class LogContextMiddleware:
    """Gives each request an id, which is in the log, in the `X-Request-ID` header and on error pages."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request; lines that are logged meanwhile have its context."""
        seen = _REQUEST.set(request)
        try:
            with logged_about(request=secrets.token_hex(6)):
                # Django logs refused requests only after the middleware has returned.
                request.logged_about = _ABOUT.get()  # type: ignore[attr-defined]
                response = self.get_response(request)
                response["X-Request-ID"] = log_id()
                return response
        finally:
            _REQUEST.reset(seen)


def _of_request(request: HttpRequest) -> dict[str, Any]:
    """User and address of a request, as far as known without a query."""
    out: dict[str, Any] = {"path": getattr(request, "path", None)}
    session = getattr(request, "session", None)
    match = getattr(request, "resolver_match", None)
    if session is not None and session.accessed:
        # If the session could not be read, this would query the database, which may be down.
        with suppress(DatabaseError, InterfaceError):
            out["user"] = session.get(SESSION_KEY)
    if match and match.route.startswith("shots/"):
        out["shot"] = match.kwargs.get("pk")
    return out


class AboutFilter(logging.Filter):
    """Adds the context to each record, as `about`."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every record passes."""
        request = getattr(record, "request", None) or _REQUEST.get()
        of_request = {**_of_request(request), **getattr(request, "logged_about", {})} if request else {}
        known = {**of_request, **(_ABOUT.get() or {})}
        record.about = {name: value for name, value in known.items() if value not in (None, "")}
        return True


class LineFormatter(logging.Formatter):
    """A readable line, followed by the traceback."""

    def __init__(self) -> None:
        super().__init__("{asctime} {levelname} {name}: {message}{beside}", style="{")

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        about = getattr(record, "about", {})
        said = " ".join(f"{name}={value}" for name, value in about.items())
        record.beside = f" [{said}]" if said else ""
        return super().format(record)


class JsonFormatter(logging.Formatter):
    """A JSON object on one line, for log collectors."""

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
