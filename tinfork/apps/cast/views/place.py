"""Views for placing a part on the face, and registering its drawings."""

from django.http import HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions.charts import drop_face_of_set, place_on_face, place_part
from tinfork.apps.cast.forms import PlaceForm, SetFaceForm
from tinfork.apps.cast.models import Chart, Part
from tinfork.apps.cast.queries import stage_document
from tinfork.apps.cast.views.shared import answer, chart_context, keep_upload, reach_chart
from tinfork.apps.cast.views.tracing import serve_face
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message


def chart_place(request: UserRequest, pk: int) -> HttpResponse:
    """The Stage of a chart, on the own face of a set of mouths (`face`) if given."""
    context = chart_context(request, pk, "place")
    chart = context["chart"]
    faces = [one for one in chart.character.mouth.charts.all() if one.face]
    on = chart if chart.face else _named(faces, request.GET.get("face"))
    context |= {
        "document": stage_document(chart, on),
        "drawings": [d for d in chart.drawings.all() if not d.is_hidden],
        "faces": [] if chart.part.speaks else faces,
        "on": on,
        "form": SetFaceForm(),
    }
    return render(request, "cast/place.html", context)


def _named(faces: list[Chart], wanted: str | None) -> Chart | None:
    """The set of mouths whose face is requested; None for the character's face."""
    number = whole_number(wanted)
    return next((one for one in faces if one.pk == number), None)


def chart_face(request: UserRequest, pk: int) -> HttpResponseBase:
    """The face picture of a set, one of its tracings, or a variant of its lines."""
    return serve_face(request, get_for_user_or_404(Chart, request.user, pk=pk))


@require_POST
def chart_face_give(request: UserRequest, pk: int) -> HttpResponse:
    """Set a set's own face picture with a job."""
    chart = reach_chart(request, pk, change=True)
    form = SetFaceForm(request.POST, request.FILES)
    if not chart.part.speaks:
        return answer(request, "chart_place", chart.pk, error=Message("Only a set of mouths can have a face."))
    if not form.is_valid():
        return answer(request, "chart_place", chart.pk, error=str(next(iter(form.errors.values()))[0]))
    options = {"chart": chart.pk, "files": [keep_upload(form.cleaned_data["face"])], "of_set": True}
    start_job(kind=Job.Kind.FACE, on=chart.character, by=request.user, options=options)
    return answer(request, "chart_place", chart.pk)


@require_POST
def chart_face_drop(request: UserRequest, pk: int) -> HttpResponse:
    """Remove a set's own face."""
    chart = reach_chart(request, pk, change=True)
    drop_face_of_set(chart)
    return answer(request, "chart_place", chart.pk)


@require_POST
def part_place(request: UserRequest, pk: int) -> JsonResponse:
    """Save a part's place; with `face`, on the face of that set of mouths, where it may be `hidden`, too."""
    part = get_for_user_or_404(Part, request.user, change=True, pk=pk)
    form = PlaceForm(request.POST)
    if not form.is_valid():
        return JsonResponse(
            {"error": str(Message("Keep the drawings inside the picture, at 0.5 to 300 % of its width."))}, status=422
        )
    try:
        chart = part.charts.filter(pk=whole_number(request.POST.get("chart")) or 0).first()
        number = whole_number(request.POST.get("face"))
        if number is None:
            place_part(part, **form.cleaned_data, on=chart)
        else:
            on = _named([one for one in part.character.mouth.charts.all() if one.face], str(number))
            if on is None:
                raise ChartError("That face was removed. Reload the page.")
            place_on_face(part, on, None if request.POST.get("hidden") == "1" else form.cleaned_data)
    except ChartError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"ok": True})
