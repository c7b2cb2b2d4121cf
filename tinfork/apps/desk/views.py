"""The Desk."""

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.models import Chart
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.desk.queries import desk_document
from tinfork.apps.people.access import may_change, reach
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.sets import show_set
from tinfork.apps.reading.forms import StretchForm
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.core.errors import ChartError, TimingError
from tinfork.core.solver.problem import Dials


class SetStretchForm(StretchForm):
    """A set and the frames that show it."""

    chart = forms.IntegerField(min_value=1)


def desk(request: UserRequest, pk: int) -> HttpResponse:
    """A read shot at work; one that is not read yet goes to its page."""
    shot = reach(Shot, request.user, pk=pk)
    if not soundtrack_of(shot).is_read:
        return redirect("shot", pk)
    character = shot.character
    context = {
        "shot": shot,
        "document": desk_document(shot),
        "warnings": shot.soundtrack.warnings,
        "dials": Dials(),
        "character": character,
        "cast": shot.characters,
        "notes": [take.note for take in shot.soundtrack.takes.exclude(note="")],
        "sets": [chart for c in shot.characters for chart in c.mouth.charts.all()],
        "last_frame": shot.first_frame + shot.production.rate.frames_in(shot.soundtrack.duration_us) - 1,
        "can_change": may_change(request.user, shot.production.studio),
    }
    return render(request, "desk/desk.html", context)


@require_POST
def shot_set(request: UserRequest, pk: int) -> HttpResponse:
    """Show another set of the character's mouths on some frames; the timing stays."""
    shot = reach(Shot, request.user, change=True, pk=pk)
    form = SetStretchForm(request.POST)
    if not form.is_valid():
        messages.error(request, "Say which set, and from which frame to which.")
        return redirect("desk", pk)
    data = form.cleaned_data
    try:
        show_set(shot=shot, chart=reach(Chart, request.user, pk=data["chart"]), first=data["first"], last=data["last"])
    except (ChartError, TimingError) as error:
        messages.error(request, str(error))
    return redirect("desk", pk)
