"""Handing over: sheet and data at once, pictures as a job."""

from urllib.parse import quote

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.cast.models import Character
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import may_change, reach
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import (
    look_of,
    named_reading,
    notes_of,
    parts_of,
    pinned_classes,
    sheet_of,
    solve_character,
    work_out_character,
)
from tinfork.core.formats import reading_json as json_format
from tinfork.core.formats import sheet_csv as csv_format
from tinfork.core.formats import weights_json as weights_format
from tinfork.core.solver.weights import viseme_weights


def _read_shot(request: UserRequest, pk: int, *, change: bool = False) -> Shot:
    shot = reach(Shot, request.user, change=change, pk=pk)
    if not soundtrack_of(shot).is_read:
        raise Http404
    return shot


def _character(request: UserRequest, shot: Shot) -> Character:
    """The character asked for, or the first."""
    wanted = request.GET.get("character", "")
    found = [c for c in shot.characters if not wanted or str(c.pk) == wanted]
    if not found:
        raise Http404
    return found[0]


def _attachment(data: bytes, content_type: str, name: str) -> HttpResponse:
    disposition = f"attachment; filename*=UTF-8''{quote(name, safe='')}"
    return HttpResponse(data, content_type=content_type, headers={"Content-Disposition": disposition})


def handover(request: UserRequest, pk: int) -> HttpResponse:
    """What can be handed over, and the latest picture sequence."""
    shot = _read_shot(request, pk)
    job = shot.jobs.filter(kind=Job.Kind.PICTURES).first()
    stale = bool(job and job.options.get("look") != look_of(shot))
    context = {
        "shot": shot,
        "job": job,
        "stale": stale,
        "working": is_anyone_working(),
        "sheet": sheet_of(shot, shot.character),
    }
    context["can_change"] = may_change(request.user, shot.production.studio)
    return render(request, "handover/handover.html", context)


def sheet_csv(request: UserRequest, pk: int) -> HttpResponse:
    """The sheet as CSV, a row per frame or per hold."""
    shot = _read_shot(request, pk)
    per_hold = request.GET.get("rows") == "holds"
    character = _character(request, shot)
    who = f" {character.name}" if len(shot.characters) > 1 else ""
    name = f"{shot.production.name} {shot.name}{who}{' holds' if per_hold else ''}.csv"
    return _attachment(csv_format.write(sheet_of(shot, character), per_hold=per_hold), "text/csv; charset=utf-8", name)


def reading_json(request: UserRequest, pk: int) -> HttpResponse:
    """Reading and holds as open data."""
    shot = _read_shot(request, pk)
    reading = shot.soundtrack.reading
    tracks = {c.name: solve_character(shot, c, reading) for c in shot.characters}
    data = json_format.write(named_reading(shot), shot.production.rate, tracks, parts_of(shot), notes_of(shot))
    return _attachment(data, "application/json", f"{shot.production.name} {shot.name}.json")


def weights_json(request: UserRequest, pk: int) -> HttpResponse:
    """Weights of each viseme class on each frame, for rigged faces."""
    shot = _read_shot(request, pk)
    reading = shot.soundtrack.reading
    tracks = {}
    for character in shot.characters:
        worked = work_out_character(shot, character, reading)
        frames = len(worked.problem.costs)
        tracks[character.name] = viseme_weights(
            worked.parts, worked.rate, frames, worked.dials, pinned_classes(shot, character)
        )
    data = weights_format.write(tracks, shot.production.rate, shot.first_frame)
    return _attachment(data, "application/json", f"{shot.production.name} {shot.name} weights.json")


@require_POST
def pictures(request: UserRequest, pk: int) -> HttpResponse:
    """Start making the picture sequence."""
    shot = _read_shot(request, pk, change=True)
    start_job(kind=Job.Kind.PICTURES, on=shot, by=request.user, options={"look": look_of(shot)})
    return redirect("handover", pk)
