"""Stored files over HTTP, with ranges (RFC 9110, section 14): browsers need them to seek in sound."""

import io
import logging
import re
from pathlib import PurePosixPath
from typing import Any

from django.db.models.fields.files import FieldFile
from django.http import (
    FileResponse,
    Http404,
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    HttpResponseNotModified,
)
from django.urls import reverse

log = logging.getLogger("tinfork.storage")

#: Media types of the pictures that are stored, by suffix (RFC 6838).
SVG, PNG = "image/svg+xml", "image/png"
PICTURE_TYPES = {".svg": SVG, ".png": PNG, ".jpg": "image/jpeg", ".webp": "image/webp"}
_WEEK_S = 7 * 24 * 3600
#: How much of a content hash an address has.
_DIGITS = 16


def address_of(view: str, pk: int, field: FieldFile) -> str:
    """The address of a stored file with what is in it: another content has another address."""
    return f"{reverse(view, args=[pk])}?v={_digest(field)[:_DIGITS]}"


def _digest(field: FieldFile) -> str:
    return PurePosixPath(field.name or "").stem


def cache_rule(*, is_fixed: bool) -> str:
    """The Cache-Control of what is for one person.

    At a fixed address, which names its content, it never changes; elsewhere a browser asks each time.
    """
    return f"private, max-age={_WEEK_S}, immutable" if is_fixed else "private, no-cache"


def serve_file(request: HttpRequest, field: FieldFile, content_type: str, *, download_as: str = "") -> HttpResponseBase:
    """The file, or the one range asked for. The caller has checked who may read it.

    Files are kept by content hash: a browser that has one asks whether it may still show it, and is told
    without being sent it again. At an address by `address_of` it need not even ask.
    """
    digest = _digest(field)
    tag = f'"{digest}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponseNotModified(headers={"ETag": tag})
    try:
        size = field.size
    except FileNotFoundError:
        log.error("the stored file %s is missing", field.name)
        raise Http404 from None
    span = _range(request.headers.get("Range", ""), size)
    response: HttpResponseBase
    if span is None:
        opened = field.open("rb")
        response = FileResponse(
            opened, content_type=content_type, as_attachment=bool(download_as), filename=download_as
        )
        response["Content-Length"] = str(size)
    elif not span:
        response = HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    else:
        start, end = span
        # A file, not a row of blocks: the web process sends it by itself, and no thread waits for a slow client.
        response = FileResponse(_Part(field, start, end), status=206, content_type=content_type)
        response["Content-Range"] = f"bytes {start}-{end - 1}/{size}"
        response["Content-Length"] = str(end - start)
    response["Accept-Ranges"] = "bytes"
    response["ETag"] = tag
    response["Cache-Control"] = cache_rule(is_fixed=request.GET.get("v") == digest[:_DIGITS])
    response["X-Content-Type-Options"] = "nosniff"
    return response


def _range(header: str, size: int) -> tuple[int, int] | tuple[()] | None:
    """The half-open span asked for; None for the whole file, empty when it cannot be met."""
    match = re.fullmatch(r"bytes=([0-9]{0,15})-([0-9]{0,15})", header.strip())
    if not match or match.group() == "bytes=-":
        return None
    first, last = match[1], match[2]
    start = int(first) if first else max(0, size - int(last))
    end = min(size, int(last) + 1) if first and last else size
    return (start, end) if start < end else ()


class _Part(io.RawIOBase):
    """The bytes `[start, end)` of a stored file, as a file of their own."""

    def __init__(self, field: FieldFile, start: int, end: int) -> None:
        self._file = field.storage.open(field.name or "", "rb")
        self._start, self._end = start, end
        self._file.seek(start)

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return int(self._file.tell()) - self._start

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Where it stands now; never outside the part."""
        base = {io.SEEK_SET: self._start, io.SEEK_CUR: self._file.tell(), io.SEEK_END: self._end}[whence]
        self._file.seek(max(self._start, min(self._end, base + offset)))
        return self.tell()

    def readinto(self, into: Any) -> int:
        data = self._file.read(min(len(into), self._end - self._file.tell()))
        into[: len(data)] = data
        return len(data)

    def close(self) -> None:
        self._file.close()
        super().close()
