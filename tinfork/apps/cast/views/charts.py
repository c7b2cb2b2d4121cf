"""Views of a chart: its drawings and sounds, its sets, its check."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions import charts as actions
from tinfork.apps.cast.actions.steps import undo_step
from tinfork.apps.cast.forms import NameForm, SetForm, checked_files
from tinfork.apps.cast.queries import board_of, findings_of, proposals_of, stage_document
from tinfork.apps.cast.views.shared import answer, board, chart_context, keep_upload, reach_chart
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_DRAWINGS
from tinfork.engines.limits import MAX_PICTURE_BYTES, MAX_PICTURES


def chart(request: UserRequest, pk: int) -> HttpResponse:
    """The page of drawings and the sounds they show."""
    context = chart_context(request, pk, "sounds")
    found = context["chart"]
    context |= {
        "board": board_of(found),
        "most_files": MAX_PICTURES,
        "most_bytes": MAX_PICTURE_BYTES,
        "most_drawings": MAX_DRAWINGS,
        "pages": found.pages.exclude(picture=""),
        "stage": stage_document(found),
    }
    return render(request, "cast/chart.html", context)


@require_POST
def chart_drawings(request: UserRequest, pk: int) -> HttpResponse:
    """Import drawings: the files are stored, and a job opens them."""
    found = reach_chart(request, pk, change=True)
    try:
        files = checked_files(request.FILES.getlist("files"))
    except ValidationError as error:
        return answer(request, "chart", pk, error=error.messages[0])
    options = {
        "chart": pk,
        "files": [keep_upload(file) for file in files],
        "replace": request.POST.get("mode") == "replace",
    }
    start_job(kind=Job.Kind.DRAWINGS, on=found.character, by=request.user, options=options)
    return answer(request, "chart", pk)


@require_POST
def chart_sounds(request: UserRequest, pk: int) -> HttpResponse:
    """Add a sound to a drawing, remove it, or move it."""
    found = reach_chart(request, pk, change=True)
    on, off = (whole_number(request.POST.get(name)) for name in ("on", "off"))
    if any(request.POST.get(name) and number is None for name, number in (("on", on), ("off", off))):
        return board(request, pk, trouble=Message("That drawing does not exist."), status=422)
    try:
        actions.lay_sound(found, claim=request.POST.get("claim", "")[:20], on=on, off=off)
    except ChartError as error:
        return board(request, pk, trouble=str(error), status=422)
    return board(request, pk)


@require_POST
def chart_order(request: UserRequest, pk: int) -> HttpResponse:
    """Move a drawing before another."""
    found = reach_chart(request, pk, change=True)
    drawing, before = whole_number(request.POST.get("drawing")), whole_number(request.POST.get("before"))
    if drawing is None or (before is None and request.POST.get("before")):
        return board(request, pk, trouble=Message("That drawing does not exist."), status=422)
    try:
        actions.order_drawings(found, drawing=drawing, before=before)
    except ChartError as error:
        return board(request, pk, trouble=str(error), status=422)
    return board(request, pk)


def chart_proposal(request: UserRequest, pk: int) -> HttpResponse:
    """Show suggested sounds, and add those that were ticked."""
    found = reach_chart(request, pk, change=request.method == "POST")
    proposals = proposals_of(found)
    if request.method == "POST":
        ticked = set(request.POST.getlist("take"))
        shows = {p.number: p.shows for p, _, _ in proposals if str(p.number) in ticked}
        actions.take_proposal(found, dict(shows))
        return redirect("chart", pk)
    unmeasured = any(d.measures is None for d in found.drawings.all())
    context = {"chart": found, "proposals": proposals, "unmeasured": unmeasured}
    return render(request, "cast/_proposal.html", context)


def chart_check(request: UserRequest, pk: int) -> HttpResponse:
    """The findings of the check."""
    context = chart_context(request, pk, "check")
    found = context["chart"]
    drawings = list(found.drawings.all())
    context |= {
        # Read after the drawings: the page stops polling once all of these are measured, so it must show all findings.
        "findings": findings_of(found),
        "measured": [d for d in drawings if d.measures],
        "unmeasured": sum(d.measures is None for d in drawings),
    }
    return render(request, "cast/check.html", context)


@require_POST
def chart_mend(request: UserRequest, pk: int) -> HttpResponse:
    """Make a correction: at once, or as a job if it makes new pictures."""
    found = reach_chart(request, pk, change=True)
    kind = request.POST.get("mend", "")
    sent = [whole_number(number) for number in request.POST.getlist("number")[:MAX_DRAWINGS]]
    numbers = [number for number in sent if number is not None]
    if kind in actions.REPAINTING:
        options = {"chart": pk, "mend": kind, "numbers": numbers}
        start_job(kind=Job.Kind.MEND, on=found.character, by=request.user, options=options)
        return answer(request, "chart_check", pk)
    try:
        actions.mend(found, kind=kind, numbers=numbers, sounds=request.POST.getlist("sound"))
    except ChartError as error:
        return answer(request, "chart_check", pk, error=error)
    return answer(request, "chart_check", pk)


#: The pages of a chart that have undo.
_PAGES = {"sounds": "chart", "place": "chart_place", "check": "chart_check", "starter": "chart_starter"}


@require_POST
def chart_undo(request: UserRequest, pk: int) -> HttpResponse:
    """Undo the last change of a chart, and stay on the page."""
    found = reach_chart(request, pk, change=True)
    to = _PAGES.get(request.POST.get("place", ""), "chart")
    try:
        what = undo_step(found)
    except ChartError as error:
        return answer(request, to, pk, error=error)
    messages.info(request, f"Undone: {what}.")
    return answer(request, to, pk)


@require_POST
def set_new(request: UserRequest, pk: int) -> HttpResponse:
    """Add a set to the same part."""
    found = reach_chart(request, pk, change=True)
    form = SetForm(request.POST)
    if not form.is_valid():
        return answer(request, "chart", pk, error=Message("Name the set, in up to 80 characters."))
    try:
        like = found if form.cleaned_data["copy"] else None
        new = actions.add_set(found.part, name=form.cleaned_data["name"], like=like)
    except ChartError as error:
        return answer(request, "chart", pk, error=error)
    return answer(request, "chart", new.pk)


@require_POST
def set_rename(request: UserRequest, pk: int) -> HttpResponse:
    """Call a set something else."""
    found = reach_chart(request, pk, change=True)
    form = NameForm(request.POST)
    if not form.is_valid():
        return answer(request, "chart", pk, error=Message("Name the set, in up to 80 characters."))
    try:
        actions.rename_set(found, form.cleaned_data["name"])
    except ChartError as error:
        return answer(request, "chart", pk, error=error)
    return answer(request, "chart", pk)


@require_POST
def set_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Remove a set."""
    try:
        left = actions.delete_set(reach_chart(request, pk, change=True))
    except ChartError as error:
        return answer(request, "chart", pk, error=error)
    return answer(request, "chart", left.pk)
