"""Compression of pages and data, but not of sound, films and pictures, which are compressed already."""

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

_TYPES = ("text/", "application/json", "image/svg+xml")


class CompressPages(GZipMiddleware):
    """Django's compression of complete text responses, with random padding against attacks on secrets by length.

    Files keep their length and support ranges.
    """

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        """The response, compressed if that makes it shorter."""
        kind = response.headers.get("Content-Type", "")
        if isinstance(response, HttpResponse) and kind.startswith(_TYPES):
            return super().process_response(request, response)
        return response
