"""The Desk."""

from django.http import HttpResponse
from django.shortcuts import redirect, render

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.people.access import reach
from tinfork.apps.produce.models import Shot
from tinfork.core.solver.problem import Dials


def desk(request: UserRequest, pk: int) -> HttpResponse:
    """A read shot at work; one that is not read yet goes to its page."""
    shot = reach(Shot, request.user, pk=pk)
    if not hasattr(shot, "reading") or shot.take is None:
        return redirect("shot", pk)
    context = {
        "shot": shot,
        "document": desk_document(shot),
        "warnings": shot.reading.warnings,
        "dials": Dials(),
    }
    return render(request, "desk/desk.html", context)
