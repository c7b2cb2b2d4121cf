"""The pages for what is not there, not allowed, or broken."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


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
