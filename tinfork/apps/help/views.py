"""Views of help pages, the tour, and the sample scene."""

from urllib.parse import urlparse

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.help.guide import chapters
from tinfork.apps.help.sample import make_sample
from tinfork.apps.help.tour import STEPS, address_of_step, go_to_step, leave_tour, shot_of_tour, tour_of
from tinfork.apps.people.access import own_studio


def help_index(request: UserRequest) -> HttpResponse:
    """All chapters, and the tour."""
    step = request.user.tour_step
    context = {
        "chapters": chapters().values(),
        "has_shot": shot_of_tour(request.user) is not None,
        "left_at": step if request.user.has_left_tour and 1 <= step <= len(STEPS) else 0,
        "count": len(STEPS),
        "version": settings.VERSION,
    }
    return render(request, "help/index.html", context)


def help_chapter(request: HttpRequest, slug: str) -> HttpResponse:
    """One chapter, with the others beside it."""
    found = chapters()
    if slug not in found:
        raise Http404
    return render(request, "help/chapter.html", {"chapter": found[slug], "chapters": found.values()})


@require_POST
def tour_step(request: UserRequest) -> HttpResponse:
    """Go to a step of the tour, and to its page unless it is the current one; after the last step the tour ends."""
    number = whole_number(request.POST.get("step"), 1, len(STEPS) + 1) or 1
    go_to_step(request.user, number)
    address = address_of_step(request.user, number) if number <= len(STEPS) else None
    seen = urlparse(request.headers.get("HX-Current-URL", "")).path
    if not request.headers.get("HX-Request"):
        return redirect(address or "productions")
    if address == seen or number > len(STEPS):
        return render(
            request, "help/_tour.html", {"tour": tour_of(request.user, STEPS[min(number, len(STEPS)) - 1].page)}
        )
    return HttpResponse(headers={"HX-Redirect": address or "/"})


@require_POST
def tour_leave(request: UserRequest) -> HttpResponse:
    """Leave the tour; the page stays."""
    leave_tour(request.user)
    return HttpResponse() if request.headers.get("HX-Request") else redirect("help")


@require_POST
def sample(request: UserRequest) -> HttpResponse:
    """Create the sample scene in one's studio, and start the tour."""
    production = make_sample(studio=own_studio(request.user), by=request.user)
    go_to_step(request.user, 1)
    return redirect("production", production.pk)
