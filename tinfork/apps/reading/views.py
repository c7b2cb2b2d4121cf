"""The shot's page: bring the sound, type the words, read."""

from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import may_change, reach
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions import start_reading
from tinfork.apps.reading.forms import ReadForm
from tinfork.engines import limits


def _page(request: UserRequest, shot: Shot, form: ReadForm, status: int = 200) -> HttpResponse:
    job = shot.jobs.filter(kind=Job.Kind.READ).first()
    context = {"shot": shot, "form": form, "job": job, "working": is_anyone_working(), "then": "desk"}
    context |= {"most_bytes": limits.MAX_SOUND_BYTES, "can_change": may_change(request.user, shot.production.studio)}
    return render(request, "reading/shot_detail.html", context, status=status)


def shot_detail(request: UserRequest, pk: int) -> HttpResponse:
    """Sound, words and the reading's progress."""
    shot = reach(Shot, request.user, pk=pk)
    return _page(request, shot, ReadForm(shot=shot, initial={"words": shot.words}))


@require_POST
def shot_read(request: UserRequest, pk: int) -> HttpResponse:
    """Start reading. Answers JSON where the page sent the file itself, to keep the form as it is."""
    shot = reach(Shot, request.user, change=True, pk=pk)
    form = ReadForm(request.POST, request.FILES, shot=shot)
    wants_json = request.headers.get("Accept") == "application/json"
    if not form.is_valid():
        return JsonResponse({"errors": form.errors}, status=422) if wants_json else _page(request, shot, form, 422)
    start_reading(shot=shot, words=form.cleaned_data["words"], by=request.user, brought=form.brought)
    return JsonResponse({"next": reverse("shot", args=[pk])}) if wants_json else redirect("shot", pk)
