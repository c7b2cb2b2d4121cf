"""Sanitising input: text, numbers, JSON. All other code may rely on it.

- Text has no character that the database cannot store or that hides text: no NUL and other controls, no lone
  surrogates, no overrides of direction (Unicode TR 36, section 2.5). Marks that scripts need (joiners, the plain
  direction marks of Hebrew and Arabic) stay.
- A number is ASCII digits within bounds; "²" and "٣" are digits to Python, not to us.
- JSON has no NaN, no infinity, limited nesting, and limited length.
"""

import json
import math
import re
from collections.abc import Callable
from typing import Any, NoReturn

from django.http import HttpRequest, HttpResponse, QueryDict
from django.utils.datastructures import MultiValueDict

from tinfork.core.errors import FormatError
from tinfork.core.messages import Message

#: Controls except tab and line ends, lone surrogates, direction overrides and isolates, and noncharacters.
_UNFIT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\x80-\x9f\ud800-\udfff\u202a-\u202e\u2066-\u2069\ufffe\uffff]")
#: Larger than any primary key, and within the range of the database's integers.
MOST = 2**53
_WHOLE = re.compile(r"-?[0-9]{1,16}")
#: The deepest nesting that pages send.
_DEEPEST = 32


def clean_text(text: str) -> str:
    """The text without unsafe characters."""
    return _UNFIT.sub("", text)


def whole_number(text: object, low: int = 0, high: int = MOST) -> int | None:
    """Parse a whole number from `low` to `high`; None for anything else."""
    if not isinstance(text, str) or not _WHOLE.fullmatch(text):
        return None
    number = int(text)
    return number if low <= number <= high else None


def read_json(data: bytes | str, *, most_bytes: int = 1024 * 1024) -> Any:
    """Parse JSON (RFC 8259) and clean its texts.

    Raises `FormatError` if it is invalid, too long, or nested too deep.
    """
    if len(data) > most_bytes:
        raise FormatError("The page sent too much at once. Reload it and try again.")
    try:
        value = json.loads(data, parse_constant=_refuse, parse_float=_finite, parse_int=_bounded)
    except (ValueError, RecursionError):
        raise FormatError(_NOT_UNDERSTOOD) from None
    return _clean(value, 0)


_NOT_UNDERSTOOD = Message("The page sent something that could not be understood. Reload it and try again.")


def _refuse(name: str) -> NoReturn:
    raise ValueError(name)


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(text)
    return number


def _bounded(text: str) -> int:
    if len(text) > 20:
        raise ValueError(text)
    return int(text)


def _clean(value: Any, depth: int) -> Any:
    if depth > _DEEPEST:
        raise FormatError(_NOT_UNDERSTOOD)
    if isinstance(value, str):
        return clean_text(value)
    if isinstance(value, list):
        return [_clean(one, depth + 1) for one in value]
    if isinstance(value, dict):
        return {clean_text(key): _clean(one, depth + 1) for key, one in value.items()}
    return value


def _cleaned(values: QueryDict) -> QueryDict:
    """Clean the fields of a form or a query; returns the same object if nothing changed."""
    if not any(_UNFIT.search(text) for key, texts in values.lists() for text in (key, *texts)):
        return values
    clean = QueryDict(mutable=True)
    for key, texts in values.lists():
        clean.setlistdefault(clean_text(key)).extend(clean_text(text) for text in texts)
    clean._mutable = False
    return clean


class CleanQueryMiddleware:
    """Cleans the query string and the cookies. The first middleware: before sessions, which read cookies."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        request.GET = _cleaned(request.GET)  # type: ignore[assignment]
        if any(_UNFIT.search(name + value) for name, value in request.COOKIES.items()):
            request.COOKIES = {n: v for n, v in request.COOKIES.items() if not _UNFIT.search(n + v)}
        return self.get_response(request)


class CleanFormMiddleware:
    """Cleans the fields of a form and the names of its files.

    The last middleware, after authentication: the body of a stranger's request to a page that is not public is never
    read.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *view: object) -> None:
        """Clean the form."""
        sent = request.content_type or ""
        if request.method != "POST" or not sent.startswith(("multipart/", "application/x-www-form")):
            return
        # The only way to replace a request's form.
        request._post = _cleaned(request.POST)  # type: ignore[attr-defined]
        files: MultiValueDict[str, Any] = request.FILES
        for _, uploads in files.lists():
            for upload in uploads:
                upload.name = clean_text(upload.name or "") or "file"
