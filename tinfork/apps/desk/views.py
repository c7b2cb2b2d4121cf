"""The Desk."""

from django.http import HttpResponse
from django.shortcuts import redirect, render

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.people.access import reach
from tinfork.apps.produce.models import Shot


def desk(request: UserRequest, pk: int) -> HttpResponse:
    """A read shot at work; one that is not read yet goes to its page."""
    shot = reach(Shot, request.user, pk=pk)
    if not hasattr(shot, "reading") or shot.take is None:
        return redirect("shot", pk)
    return render(
        request, "desk/desk.html", {"shot": shot, "document": desk_document(shot), "warnings": shot.reading.warnings}
    )
