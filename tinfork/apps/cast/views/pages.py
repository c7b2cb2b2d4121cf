"""Views for cutting up a page with many drawings."""

from typing import Any

from django.http import Http404, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.models import Page
from tinfork.apps.cast.views.shared import answer, chart_context, keep_upload, reach_chart
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import read_json, whole_number
from tinfork.apps.common.serve import PNG, serve_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_DRAWINGS
from tinfork.core.pictures.cutting import find_boxes
from tinfork.core.pictures.regions import Box


@require_POST
def page_new(request: UserRequest, pk: int) -> HttpResponse:
    """Upload a page; a job finds its drawings."""
    chart = reach_chart(request, pk, change=True)
    file = request.FILES.get("page")
    if file is None or not file.size:
        return answer(request, "chart", pk, error=Message("Choose the sheet: one picture with several drawings on it."))
    kept = keep_upload(file)
    page = Page.objects.create(chart=chart, name=kept["name"], original=kept["key"])
    options = {"chart": pk, "page": page.pk}
    start_job(kind=Job.Kind.PAGE, on=chart.character, by=request.user, options=options)
    return answer(request, "chart", pk)


def _reach(request: UserRequest, pk: int, *, change: bool = False) -> Page:
    page = get_for_user_or_404(Page, request.user, change=change, pk=pk)
    if not page.picture:
        raise Http404
    return page


def page(request: UserRequest, pk: int) -> HttpResponse:
    """The page with its boxes."""
    found = _reach(request, pk)
    context = chart_context(request, found.chart_id, "page")
    values = {"width": found.width, "height": found.height, "boxes": found.boxes, "gap": found.gap}
    return render(request, "cast/page.html", context | {"page": found, "values": values})


def page_boxes(request: UserRequest, pk: int) -> JsonResponse:
    """The boxes for another gap: closer parts are one drawing."""
    found = _reach(request, pk)
    gap = whole_number(request.GET.get("gap"), 0, 20_000)
    if gap is None:
        return JsonResponse({"error": str(Message("The gap must be a number of pixels."))}, status=422)
    boxes = find_boxes([Box(*sides) for sides in found.parts], gap)
    return JsonResponse({"boxes": [box.sides for box in boxes[:MAX_DRAWINGS]]})


@require_POST
def page_cut(request: UserRequest, pk: int) -> HttpResponse:
    """Cut along the boxes that the person chose."""
    found = _reach(request, pk, change=True)
    boxes = _boxes(request.POST.get("boxes", ""), found)
    if not boxes:
        return answer(
            request, "page", pk, error=Message("There are no boxes on the sheet. Draw one around each mouth.")
        )
    Page.objects.filter(pk=pk).update(boxes=boxes)
    options = {"chart": found.chart_id, "page": pk, "boxes": boxes}
    start_job(kind=Job.Kind.CUT, on=found.chart.character, by=request.user, options=options)
    return answer(request, "chart", found.chart_id)


def _boxes(text: str, page: Page) -> list[list[int]]:
    """The valid boxes on the page; empty for invalid input."""
    try:
        rows: Any = read_json(text)
        boxes = [[int(side) for side in row] for row in rows[:MAX_DRAWINGS]]
    except (FormatError, ValueError, TypeError, KeyError, OverflowError):
        return []
    inside = [[max(0, b[0]), max(0, b[1]), min(page.width, b[2]), min(page.height, b[3])] for b in boxes if len(b) == 4]
    return [b for b in inside if b[2] - b[0] >= 2 and b[3] - b[1] >= 2]


@require_POST
def page_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Delete a page; drawings cut from it stay."""
    found = get_for_user_or_404(Page, request.user, change=True, pk=pk)
    found.delete()
    return answer(request, "chart", found.chart_id)


def page_picture(request: UserRequest, pk: int) -> HttpResponseBase:
    """The picture of the page."""
    return serve_file(request, _reach(request, pk).picture, PNG)
