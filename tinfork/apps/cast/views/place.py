"""Placing a part on the face, and lining up its drawings."""

from django.http import HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions.charts import place_part
from tinfork.apps.cast.forms import PlaceForm
from tinfork.apps.cast.models import Part
from tinfork.apps.cast.queries import stage_document
from tinfork.apps.cast.views.shared import chart_context, reach_chart
from tinfork.apps.common.door import whole_number
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.people.access import reach
from tinfork.core.errors import ChartError


def chart_place(request: UserRequest, pk: int) -> HttpResponse:
    """The Stage of a chart."""
    chart = reach_chart(request, pk)
    document = stage_document(chart)
    drawings = [d for d in chart.drawings.all() if not d.is_hidden]
    context = chart_context(request, chart, "place") | {"document": document, "drawings": drawings}
    return render(request, "cast/place.html", context)


@require_POST
def part_place(request: UserRequest, pk: int) -> JsonResponse:
    """Save a part's place."""
    part = reach(Part, request.user, change=True, pk=pk)
    form = PlaceForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": "Keep the drawings on the picture, 0.5 to 300 % of its width."}, status=422)
    try:
        chart = part.charts.filter(pk=whole_number(request.POST.get("chart")) or 0).first()
        place_part(part, **form.cleaned_data, on=chart)
    except ChartError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"ok": True})
