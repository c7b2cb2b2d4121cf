"""Tracings, which are shown in turn: serving them, adding them to faces, removing them."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions.characters import drop_face_tracings
from tinfork.apps.cast.actions.charts import drop_face_tracings_of_set
from tinfork.apps.cast.forms import checked_files
from tinfork.apps.cast.models import Character, Chart
from tinfork.apps.cast.views.boiling import serve_variant, variant_of
from tinfork.apps.cast.views.shared import answer, keep_upload, reach_chart
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.common.serve import PICTURE_TYPES, serve_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import get_for_user_or_404


def tracing_of(request: UserRequest, tracings: Sequence[str]) -> str:
    """The key of the requested tracing, "" for none. Raises `Http404` if it does not exist."""
    asked = request.GET.get("tracing")
    if not asked:
        return ""
    number = whole_number(asked)
    if number is None or not 1 <= number <= len(tracings):
        raise Http404
    return tracings[number - 1]


def serve_face(request: UserRequest, of: Character | Chart) -> HttpResponseBase:
    """A face picture, one of its tracings, or a variant of its lines."""
    if not of.face:
        raise Http404
    if key := tracing_of(request, of.face_tracings):
        of.face.name = key
    if variant := variant_of(request):
        return serve_variant(of.face, of.face_suffix, of.face_aspect, variant)
    return serve_file(request, of.face, PICTURE_TYPES[of.face_suffix])


@require_POST
def face_trace(request: UserRequest, pk: int) -> HttpResponse:
    """Add tracings of a character's face with a job."""
    character = get_for_user_or_404(Character, request.user, change=True, pk=pk)
    first = character.mouth.charts.all()[0]
    if trouble := _start(request, first, of_set=False):
        return answer(request, "character_edit", pk, error=trouble)
    return redirect("character_edit", pk)


@require_POST
def face_untrace(request: UserRequest, pk: int) -> HttpResponse:
    """Remove the tracings of a character's face."""
    drop_face_tracings(get_for_user_or_404(Character, request.user, change=True, pk=pk))
    return redirect("character_edit", pk)


@require_POST
def chart_face_trace(request: UserRequest, pk: int) -> HttpResponse:
    """Add tracings of a set's own face with a job."""
    chart = reach_chart(request, pk, change=True)
    return answer(request, "chart_place", pk, error=_start(request, chart, of_set=True))


@require_POST
def chart_face_untrace(request: UserRequest, pk: int) -> HttpResponse:
    """Remove the tracings of a set's own face."""
    drop_face_tracings_of_set(reach_chart(request, pk, change=True))
    return answer(request, "chart_place", pk)


def _start(request: UserRequest, chart: Chart, *, of_set: bool) -> str:
    """Start the job; returns an error message, if any."""
    try:
        files = checked_files(request.FILES.getlist("files"))
    except ValidationError as error:
        return str(error.messages[0])
    kept = [keep_upload(file) for file in files]
    options = {"chart": chart.pk, "files": kept, "traces": True, "of_set": of_set}
    start_job(kind=Job.Kind.FACE, on=chart.character, by=request.user, options=options)
    return ""
