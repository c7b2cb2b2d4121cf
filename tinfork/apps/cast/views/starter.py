"""Views of the starter chart: its styles, adding its drawings, downloading them."""

import base64

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions.drawings import add_starter_drawings
from tinfork.apps.cast.forms import MOOD_CHOICES, StarterForm
from tinfork.apps.cast.views.shared import answer, chart_context, reach_chart
from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.starter import starter_chart, starter_pictures
from tinfork.engines.starter_zip import starter_archive

#: Limits how many are drawn at once: that takes seconds.
_ONE_AT_A_TIME = ConcurrencyLimit()


def _defaults() -> dict[str, object]:
    return {name: field.initial for name, field in StarterForm.base_fields.items()}


def _asked(request: UserRequest) -> StarterForm:
    """The form with the values sent, and defaults for the rest."""
    form = StarterForm(_defaults() | {name: v for name, v in request.GET.items() if name in StarterForm.base_fields})
    if form.is_valid():
        try:
            _ = form.style
        except ChartError as error:
            form.add_error(None, str(error))
    return form


def chart_starter(request: UserRequest, pk: int) -> HttpResponse:
    """The page with its preview; the page's script requests only the preview."""
    chart = reach_chart(request, pk)
    form = _asked(request)
    context = {"form": form, "pictures": _preview(form) if not form.errors else [], "chart": chart}
    if request.headers.get("HX-Request"):
        return render(request, "cast/_starter_preview.html", context, status=422 if form.errors else 200)
    context |= chart_context(request, pk, "starter") | {"moods": MOOD_CHOICES}
    return render(request, "cast/starter.html", context, status=422 if form.errors else 200)


def _preview(form: StarterForm) -> list[tuple[int, str, str]]:
    """Number, name and picture (as a data address) of each drawing."""
    count = form.cleaned_data["drawings"]
    pictures = starter_pictures(form.style, count)
    return [
        (d.number, d.name, "data:image/svg+xml;base64," + base64.b64encode(pictures[d.number].encode()).decode())
        for d in starter_chart(count).drawings
    ]


def chart_starter_zip(request: UserRequest, pk: int) -> HttpResponse:
    """SVG and PNG of every drawing, to draw over and import by number."""
    chart = reach_chart(request, pk)
    form = _asked(request)
    if form.errors:
        return answer(
            request, "chart_starter", pk, error=Message("This combination cannot be drawn. Change an option.")
        )
    with _ONE_AT_A_TIME.inside():
        data = starter_archive(form.style, form.cleaned_data["drawings"])
    name = f"starter chart {chart.name}.zip".encode("ascii", "ignore").decode()
    return HttpResponse(
        data, content_type="application/zip", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@require_POST
def chart_starter_take(request: UserRequest, pk: int) -> HttpResponse:
    """Add the starter drawings to the chart."""
    chart = reach_chart(request, pk, change=True)
    form = StarterForm(_defaults() | request.POST.dict())
    if not form.is_valid():
        return answer(
            request, "chart_starter", pk, error=Message("This combination cannot be drawn. Change an option.")
        )
    try:
        add_starter_drawings(chart, drawings=form.cleaned_data["drawings"], style=form.style)
    except ChartError as error:
        return answer(request, "chart_starter", pk, error=error)
    return answer(request, "chart", pk)
