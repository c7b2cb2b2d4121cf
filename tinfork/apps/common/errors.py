"""Error pages; the page's scripts get the same as JSON."""

import errno
import sys
from collections.abc import Callable

from django.conf import settings
from django.core.exceptions import RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed, JsonResponse
from django.template.loader import render_to_string

from tinfork.apps.common.concurrency import NotNowError
from tinfork.apps.common.disk_space import NO_ROOM
from tinfork.apps.common.logs import add_to_log, log_id
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message

_GONE = Message(
    "This page does not exist, or belongs to another studio. Check the address, or start from your productions."
)
_NOT_YOURS = Message("Your role in this studio does not allow that. Ask its owner.")
_STALE = Message(
    "This page is older than your sign-in, or cookies are switched off for this "
    "site. Go back, load the page again, and send it once more."
)
_NOT_UNDERSTOOD = Message("The request could not be understood. Go back, reload the page, and try again.")
_TOO_MUCH = Message(
    "That is too large. You can send up to {most_sent_bytes} MB, and as many fields as the page has.",
    most_sent_bytes=settings.MOST_SENT_BYTES // 2**20,
)
_BROKEN = Message("Something went wrong on our side. Saved work is safe. Go back and try again.")
_AWAY = Message("The site cannot reach its database at the moment. Nothing was lost. Try again in a minute.")


def _answer(
    request: HttpRequest, title: str, text: str, status: int, error: BaseException | None = None
) -> HttpResponse:
    """An error page, or JSON.

    Errors of the server are rendered without any query, since the database may be the cause.
    """
    headers = {"Retry-After": "5"} if status == 503 else {}
    # In addition to the line that Django logs for every refused request.
    add_to_log(cause=_cause(error) or title)
    error_id = log_id() if status >= 500 else ""
    if request.headers.get("Accept", "") == "application/json" or request.content_type == "application/json":
        told = {"error": text} | ({"id": error_id} if error_id else {})
        return JsonResponse(told, status=status, headers=headers)
    helps = error if isinstance(error, TinForkError) else None
    said = {"title": title, "text": text, "error": helps, "error_id": error_id}
    page = render_to_string("common/error.html", said, request if status < 500 else None)
    return HttpResponse(page, status=status, headers=headers)


def _cause(error: BaseException | None) -> str:
    """An error and its causes, for the log."""
    causes: list[str] = []
    while error is not None and len(causes) < 5:
        causes.append(f"{type(error).__name__}: {error}")
        error = error.__cause__
    return " < ".join(causes)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404, also for things of another studio."""
    return _answer(request, Message("Page not found"), _GONE, 404)


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """403; some refusals have their own message."""
    return _answer(request, Message("Not allowed"), str(exception) or _NOT_YOURS, 403)


def not_from_here(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form without a valid CSRF token: from another site, or from before signing in."""
    return _answer(request, Message("Reload the page"), _STALE, 403)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """400, or 413 for too much data."""
    if isinstance(exception, RequestDataTooBig | TooManyFilesSent | TooManyFieldsSent):
        return _answer(request, Message("Too large"), _TOO_MUCH, 413)
    return _answer(request, Message("Not understood"), _NOT_UNDERSTOOD, 400)


def server_error(request: HttpRequest) -> HttpResponse:
    """500; or 503 if the database or the disk is unavailable or full: the request can be repeated later."""
    broke = error = sys.exc_info()[1]
    while error is not None:
        if isinstance(error, NotNowError):
            return _answer(request, error.title, str(error), 503, broke)
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
            return _answer(request, Message("Disk full"), NO_ROOM, 503, broke)
        if isinstance(error, OperationalError | InterfaceError):
            words = NO_ROOM if "No space left" in str(error) else _AWAY
            return _answer(request, Message("Try again later"), words, 503, broke)
        error = error.__cause__ or error.__context__
    return _answer(request, Message("Something went wrong"), _BROKEN, 500, broke)


#: The methods that pages and their scripts use.
_METHODS = ("GET", "HEAD", "POST")


class RefusedRequestMiddleware:
    """Explains refusals of unsupported methods, and of bodies that the web server discarded.

    Comes before all middleware that reads bodies.
    """

    _WHY = {
        "room": (Message("Disk full"), NO_ROOM, 503),
        "stranger": (Message("Sign in first"), Message("Sign in before you send files."), 403),
    }

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on, unless it was refused."""
        if request.method not in _METHODS:
            return HttpResponseNotAllowed(_METHODS)
        why = self._WHY.get(request.META.get("HTTP_TINFORK_REFUSED", ""))
        return _answer(request, *why) if why else self.get_response(request)


class DomainErrorMiddleware:
    """Shows our own errors that a view did not handle: their messages are written for people."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """The error's message: 422, or 503 if the request can be repeated later."""
        if isinstance(exception, NotNowError):
            return _answer(request, exception.title, str(exception), 503, exception)
        if isinstance(exception, TinForkError):
            return _answer(request, Message("Not possible yet"), str(exception), 422, exception)
        return None
