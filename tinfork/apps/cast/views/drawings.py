"""Views of a drawing: its form, its pictures, its place."""

from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions import charts as chart_actions
from tinfork.apps.cast.actions import drawings as actions
from tinfork.apps.cast.forms import DrawingForm, RegisterForm, checked_files
from tinfork.apps.cast.models import Drawing
from tinfork.apps.cast.views.boiling import serve_variant, variant_of
from tinfork.apps.cast.views.shared import answer, board, keep_upload
from tinfork.apps.cast.views.tracing import tracing_of
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import PICTURE_TYPES, PNG, serve_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import get_for_user_or_404, may_change, studio_of
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message


def _form(request: UserRequest, drawing: Drawing, form: DrawingForm | None = None) -> HttpResponse:
    fields = {name: getattr(drawing, name) for name in ("number", "name", "key", "size", "is_hidden", "revision")}
    context = {
        "drawing": drawing,
        "form": form or DrawingForm(initial=fields),
        "can_change": may_change(request.user, studio_of(drawing)),
    }
    return render(request, "cast/_drawing.html", context, status=422 if form and form.errors else 200)


def drawing(request: UserRequest, pk: int) -> HttpResponse:
    """The form of a drawing; after saving, the response has the form, and an event that reloads the board."""
    found = get_for_user_or_404(Drawing, request.user, change=request.method == "POST", pk=pk)
    if request.method != "POST":
        return _form(request, found)
    form = DrawingForm(request.POST)
    if not form.is_valid():
        return _form(request, found, form)
    data = form.cleaned_data
    try:
        seen = data.pop("revision")
        actions.edit_drawing(found, seen=seen, **data)
    except actions.StaleDrawingError as error:
        form.add_error(None, str(error))
        # The form keeps what was typed; saving again overwrites the other change knowingly.
        form.data = request.POST.dict() | {"revision": str(error.current.revision)}
        response = _form(request, error.current, form)
        response.status_code = 409
        return response
    except ChartError as error:
        form.add_error(None, str(error))
        return _form(request, found, form)
    found.refresh_from_db()
    response = _form(request, found)
    response["HX-Trigger"] = "boardChanged"
    return response


@require_POST
def drawing_replace(request: UserRequest, pk: int) -> HttpResponse:
    """Replace a drawing's picture; sounds, key and place stay."""
    found = get_for_user_or_404(Drawing, request.user, change=True, pk=pk)
    file = request.FILES.get("picture")
    if file is None or not file.size:
        return answer(request, "chart", found.chart_id, error=Message("Choose the new picture."))
    kept = keep_upload(file)
    # The job finds the drawing by the number at the start of the file's name.
    kept["name"] = f"{found.number:04d} {kept['name']}"
    options = {"chart": found.chart_id, "files": [kept], "replace": True, "first_only": True}
    start_job(kind=Job.Kind.DRAWINGS, on=found.chart.character, by=request.user, options=options)
    return answer(request, "chart", found.chart_id)


@require_POST
def drawing_trace(request: UserRequest, pk: int) -> HttpResponse:
    """Add tracings of a drawing with a job."""
    found = get_for_user_or_404(Drawing, request.user, change=True, pk=pk)
    try:
        files = checked_files(request.FILES.getlist("files"))
    except ValidationError as error:
        return answer(request, "chart", found.chart_id, error=error.messages[0])
    options = {"chart": found.chart_id, "files": [keep_upload(file) for file in files], "tracing_of": pk}
    start_job(kind=Job.Kind.DRAWINGS, on=found.chart.character, by=request.user, options=options)
    return answer(request, "chart", found.chart_id)


@require_POST
def drawing_untrace(request: UserRequest, pk: int) -> HttpResponse:
    """Remove the tracings of a drawing."""
    found = get_for_user_or_404(Drawing, request.user, change=True, pk=pk)
    actions.drop_tracings(found)
    return answer(request, "chart", found.chart_id)


@require_POST
def drawing_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Remove a drawing."""
    found = get_for_user_or_404(Drawing, request.user, change=True, pk=pk)
    actions.delete_drawing(found)
    return answer(request, "chart", found.chart_id)


@require_POST
def drawing_register(request: UserRequest, pk: int) -> JsonResponse:
    """Set the registration point and offset."""
    found = get_for_user_or_404(Drawing, request.user, change=True, pk=pk)
    form = RegisterForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": str(Message("A place needs two numbers, in pixels."))}, status=422)
    d = form.cleaned_data
    try:
        chart_actions.register_drawing(found, point=(d["point_x"], d["point_y"]), offset=(d["offset_x"], d["offset_y"]))
    except ChartError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"ok": True})


def board_piece(request: UserRequest, pk: int) -> HttpResponse:
    """The board of a chart, to refresh it."""
    return board(request, pk)


def drawing_picture(request: UserRequest, pk: int) -> HttpResponseBase:
    """A drawing at full size, one of its tracings, or a variant of its lines."""
    found = get_for_user_or_404(Drawing, request.user, pk=pk)
    if key := tracing_of(request, found.tracings):
        found.picture.name = key
    if variant := variant_of(request):
        return serve_variant(found.picture, found.suffix, found.width / found.height, variant)
    return serve_file(request, found.picture, PICTURE_TYPES[found.suffix])


def drawing_thumb(request: UserRequest, pk: int) -> HttpResponseBase:
    """The thumbnail of a drawing; before it is measured, the drawing itself."""
    found = get_for_user_or_404(Drawing, request.user, pk=pk)
    if found.thumb:
        return serve_file(request, found.thumb, PNG)
    if not found.picture:
        raise Http404
    return serve_file(request, found.picture, PICTURE_TYPES[found.suffix])
