"""Functions shared by the cast's views."""

from pathlib import Path
from typing import Any

from django.contrib import messages
from django.core.files.uploadedfile import TemporaryUploadedFile, UploadedFile
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from tinfork.apps.cast.models import Chart, Part
from tinfork.apps.cast.queries import board_of
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.storage import keep_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import chart_jobs, is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change, studio_of
from tinfork.core.errors import TinForkError


def reach_chart(request: UserRequest, pk: int, *, change: bool = False) -> Chart:
    """A chart with its part, character and drawings prefetched."""
    chart = get_for_user_or_404(Chart, request.user, change=change, pk=pk)
    found: Chart = Chart.objects.select_related("part__character").prefetch_related("drawings").get(pk=chart.pk)
    return found


def keep_upload(file: "UploadedFile[bytes]") -> dict[str, str]:
    """Store an uploaded file unchanged for a job; returns its key and name."""
    assert isinstance(file, TemporaryUploadedFile)
    return {"key": keep_file(Path(file.temporary_file_path()), ".upload"), "name": str(file.name)[:200]}


def chart_context(request: UserRequest, pk: int, place: str) -> dict[str, Any]:
    """The common context of a chart's pages, with the chart."""
    # The jobs first: if one ended after the chart was read, the page would show neither job nor result.
    job = next((j for j in chart_jobs(pk)[:5] if is_news(j)), None)
    chart = reach_chart(request, pk)
    character = chart.character
    parts = list(Part.objects.filter(character=character).prefetch_related("charts"))
    can_change = may_change(request.user, studio_of(chart))
    if can_change:
        measure_new(request, chart)
    return {
        "chart": chart,
        "character": character,
        "parts": parts,
        "sets": next(part.charts.all() for part in parts if part.pk == chart.part_id),
        "can_change": can_change,
        "place": place,
        "job": job,
        "working": is_anyone_working(),
    }


def is_news(job: Job) -> bool:
    """Whether a job gets a panel: it is running, it failed, or it has notes."""
    if job.kind == Job.Kind.MEASURE:
        return job.state == Job.State.FAILED
    return job.is_open or job.state == Job.State.FAILED or bool(job.notes)


def measure_new(request: UserRequest, chart: Chart) -> None:
    """Start a job that measures generated drawings, once."""
    if any(d.measures is None for d in chart.drawings.all()):
        waiting = chart_jobs(chart.pk).filter(kind=Job.Kind.MEASURE, state=Job.State.WAITING)
        if not waiting.exists():
            start_job(kind=Job.Kind.MEASURE, on=chart.character, by=request.user, options={"chart": chart.pk})


def board(request: UserRequest, chart_pk: int, *, trouble: str = "", status: int = 200) -> HttpResponse:
    """The board of sounds and drawings: the fragment in the response to every change of it."""
    chart = reach_chart(request, chart_pk)
    can_change = may_change(request.user, studio_of(chart))
    context = {"board": board_of(chart), "chart": chart, "can_change": can_change, "trouble": trouble}
    return render(request, "cast/_board.html", context, status=status)


def wants_json(request: UserRequest) -> bool:
    """Whether the request came from the page's script."""
    return request.headers.get("Accept", "") == "application/json"


def answer(request: UserRequest, to: str, *args: int, error: TinForkError | str | None = None) -> HttpResponse:
    """The response to a plain form: a redirect, with an error message if any; the script gets JSON instead."""
    if wants_json(request):
        if error:
            return JsonResponse({"error": str(error)}, status=422)
        return JsonResponse({"next": reverse(to, args=args)})
    if error:
        messages.error(request, str(error))
    return redirect(to, *args)
