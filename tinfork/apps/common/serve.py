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
#: The length of the content hash in a URL.
_DIGITS = 16


def address_of(view: str, pk: int, field: FieldFile) -> str:
    """The URL of a stored file, with a hash of its content."""
    return f"{reverse(view, args=[pk])}?v={_digest(field)[:_DIGITS]}"


def _digest(field: FieldFile) -> str:
    return PurePosixPath(field.name or "").stem


def cache_rule(*, is_fixed: bool) -> str:
    """The Cache-Control of private content.

    A URL with the content's hash never changes; others are revalidated each time.
    """
    return f"private, max-age={_WEEK_S}, immutable" if is_fixed else "private, no-cache"


def serve_file(request: HttpRequest, field: FieldFile, content_type: str, *, download_as: str = "") -> HttpResponseBase:
    """Serve a file, or one range of it.

    The caller has checked permissions. The ETag is the content hash, so that browsers can revalidate without a new
    download; with a URL of `address_of` they need not even ask.
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
        # A file object, not an iterator: the server sends it by itself, and no thread waits for a slow client.
        response = FileResponse(_Part(field, start, end), status=206, content_type=content_type)
        response["Content-Range"] = f"bytes {start}-{end - 1}/{size}"
        response["Content-Length"] = str(end - start)
    response["Accept-Ranges"] = "bytes"
    response["ETag"] = tag
    response["Cache-Control"] = cache_rule(is_fixed=request.GET.get("v") == digest[:_DIGITS])
    response["X-Content-Type-Options"] = "nosniff"
    return response


def _range(header: str, size: int) -> tuple[int, int] | tuple[()] | None:
    """The requested half-open range; None for the whole file, empty if it cannot be satisfied."""
    match = re.fullmatch(r"bytes=([0-9]{0,15})-([0-9]{0,15})", header.strip())
    if not match or match.group() == "bytes=-":
        return None
    first, last = match[1], match[2]
    start = int(first) if first else max(0, size - int(last))
    end = min(size, int(last) + 1) if first and last else size
    return (start, end) if start < end else ()


class _Part(io.RawIOBase):
    """The bytes `[start, end)` of a stored file as a file object."""

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
        """Set the position, within the part."""
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
