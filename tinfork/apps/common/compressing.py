"""Pages and their data are sent compressed; what is compressed already, sound, films, pictures, is not."""

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

_TYPES = ("text/", "application/json", "image/svg+xml")


class CompressPages(GZipMiddleware):
    """Django's compression, with random bytes against guessing secrets by length, for text that is at hand whole.

    What is sent as a file keeps its length and its ranges.
    """

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        """The answer, compressed where that makes it shorter."""
        kind = response.headers.get("Content-Type", "")
        if isinstance(response, HttpResponse) and kind.startswith(_TYPES):
            return super().process_response(request, response)
        return response
