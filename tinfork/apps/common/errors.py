"""The pages for what is not there, not allowed, or broken."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.core.errors import TinForkError


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404: also what a stranger sees of another studio's things."""
    return render(request, "common/error.html", {"title": "Not here", "text": _GONE}, status=404)


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """403."""
    text = "Your part in this studio does not allow that. Ask its owner."
    return render(request, "common/error.html", {"title": "Not allowed", "text": text}, status=403)


def server_error(request: HttpRequest) -> HttpResponse:
    """500."""
    text = "Something broke on our side. What was saved is safe; go back and try again."
    return render(request, "common/error.html", {"title": "Something broke", "text": text}, status=500)


_GONE = "There is nothing here, or it belongs to another studio. Check the address, or start from your productions."


class SayWhatIsWrong:
    """Errors of ours that a view lets through are said to the person: they are written for that."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """A page with the error's words (422)."""
        if not isinstance(exception, TinForkError):
            return None
        return render(
            request, "common/error.html", {"title": "That does not work yet", "text": str(exception)}, status=422
        )
