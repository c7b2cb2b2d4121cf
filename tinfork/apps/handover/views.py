"""Views of handing over: the exporters of a shot, or of a production's shots, with a preview; small files at once."""

import base64
import io
import tempfile
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.cast.views.shared import keep_upload
from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.handover.choosing import fields_of, kind_in, presets_of, remember, values_in
from tinfork.apps.handover.looks import look_of
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change, own_studio
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.dials import take_in_dials
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import with_cast
from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.formats import dials_json
from tinfork.core.messages import Message
from tinfork.core.scene.exporting import Exporter, Purpose
from tinfork.core.solver.dials import dials_from
from tinfork.engines.handover.preview import preview_of
from tinfork.engines.handover.table import BY_KIND, EXPORTERS
from tinfork.engines.limits import MAX_DIALS_BYTES

#: The number of finished exports that are listed.
_LISTED = 12
#: The estimated time for a second of a movie, the slowest export (seconds).
_SECONDS_EACH = 0.5
#: Rendering takes a core: limits previews and files that are made at once in a web process.
_TWO_AT_A_TIME = ConcurrencyLimit(2)


def _read_shot(request: UserRequest, pk: int, *, change: bool = False) -> Shot:
    shot = get_for_user_or_404(Shot, request.user, change=change, pk=pk)
    if not soundtrack_of(shot).is_read:
        raise Http404
    return with_cast(shot)


def handover(request: UserRequest, pk: int) -> HttpResponse:
    """The exporters of a shot, one of them with its options and a preview, and finished exports."""
    shot = _read_shot(request, pk)
    look = look_of(shot)
    made = [(job, _is_stale(job, look)) for job in shot.jobs.filter(kind=Job.Kind.EXPORT)[:_LISTED]]
    names = [character.name for character in shot.characters]
    return _page(request, shot.production, {"shot": shot, "made": made}, names)


def _is_stale(job: Job, look: str) -> bool:
    return job.state == Job.State.DONE and job.options.get("look") != look


def handover_all(request: UserRequest, pk: int) -> HttpResponse:
    """The same for all shots of a production, in one file."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    shots = _shots_of(production)
    made = [(job, False) for job in production.jobs.filter(kind=Job.Kind.EXPORT)[:_LISTED]]
    return _page(request, production, {"shots": shots, "made": made}, [])


def _shots_of(production: Production) -> list[Shot]:
    return [shot for shot in production.shots.all() if soundtrack_of(shot).is_read]


def _page(request: UserRequest, production: Production, more: dict[str, Any], names: list[str]) -> HttpResponse:
    status, error = 200, ""
    try:
        exporter = kind_in(request.GET)
        values = values_in(exporter, request.GET, production)
    except TinForkError as wrong:
        status, error = 422, str(wrong)
        exporter = kind_in({})
        values = exporter.chosen({})
    groups = [(p.value, [each for each in EXPORTERS if each.purpose == p]) for p in Purpose]
    context = {
        "production": production,
        "groups": [(title, kinds) for title, kinds in groups if kinds],
        "exporter": exporter,
        "fields": fields_of(exporter, values, names),
        "presets": [(name, preset["as"]) for name, preset in presets_of(production).items()],
        "error": error,
        "working": is_anyone_working(),
        "can_change": may_change(request.user, production.studio),
        "page": request.path,
        **more,
    }
    return render(request, "handover/handover.html", context, status=status)


def preview(request: UserRequest, pk: int) -> HttpResponse:
    """The fragment with the preview for the current options."""
    shot = _read_shot(request, pk)
    frame = whole_number(request.GET.get("frame"), 0, 10**7)
    context: dict[str, Any] = {}
    try:
        exporter = kind_in(request.GET)
        values = values_in(exporter, request.GET, shot.production)
        with _TWO_AT_A_TIME.inside():
            scene = scene_of(shot)
            seen = preview_of(exporter, scene, values, _liveliest(scene.holds_by_name) if frame is None else frame)
        picture = base64.b64encode(seen.picture).decode()
        context = {"picture": picture, "text": seen.text, "note": seen.note, "name": _file_name(shot, exporter, values)}
    except TinForkError as wrong:
        context = {"error": str(wrong)}
    return render(request, "handover/_preview.html", context)


def _liveliest(holds: dict[str, Any]) -> int:
    """The middle frame of those on which a mouth is not at rest."""
    spoken = sorted(hold.start for own in holds.values() for hold in own if hold.viseme != "rest")
    return spoken[len(spoken) // 2] if spoken else 0


def _file_name(on: Shot | Production, exporter: Exporter, values: dict[str, Any]) -> str:
    """The name of a file."""
    who = f" {values['character']}" if values.get("character") else ""
    suffix = exporter.file_type(values)[0]
    title = f"{on.production.name} {on.name}" if isinstance(on, Shot) else on.name
    return f"{title}{who}{suffix}"


def handover_file(request: UserRequest, pk: int, kind: str) -> HttpResponseBase:
    """A file without pictures, made at once."""
    shot = _read_shot(request, pk)
    try:
        exporter = kind_in({"as": kind})
        if exporter.takes_long:
            raise Http404
        values = values_in(exporter, request.GET, shot.production)
        made = tempfile.TemporaryFile()  # noqa: SIM115 - the answer closes it
        with _TWO_AT_A_TIME.inside():
            exporter.write(scene_of(shot), values, made, lambda done: None)
    except TinForkError as wrong:
        return _refused(request, shot, kind, wrong)
    if request.GET.get("options") and may_change(request.user, shot.production.studio):
        remember(shot.production, exporter, values)
    made.seek(0)
    name, media_type = _file_name(shot, exporter, values), exporter.file_type(values)[1]
    return FileResponse(made, as_attachment=True, filename=name, content_type=media_type)


def _refused(request: UserRequest, on: Shot | Production, kind: str, wrong: object) -> HttpResponse:
    messages.error(request, str(wrong))
    return redirect(f"{_home(on)}?{urlencode({'as': kind} if kind in BY_KIND else {})}")


def _home(on: Shot | Production) -> str:
    return reverse("handover" if isinstance(on, Shot) else "handover_all", args=[on.pk])


@require_POST
def handover_make(request: UserRequest, pk: int) -> HttpResponse:
    """Start a job that exports a shot."""
    shot = _read_shot(request, pk, change=True)
    return _make(request, shot, shot.production, {"look": look_of(shot)})


@require_POST
def handover_all_make(request: UserRequest, pk: int) -> HttpResponse:
    """Start a job that exports a production's shots."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    there = {shot.pk for shot in _shots_of(production)}
    shots = [int(text) for text in request.POST.getlist("shot") if text.isdecimal() and len(text) < 18]
    wanted = [number for number in shots if number in there]
    if not wanted:
        return _refused(request, production, request.POST.get("as", ""), Message("Choose at least one shot."))
    return _make(request, production, production, {"shots": wanted, "reel": request.POST.get("reel") == "on"})


def _make(request: UserRequest, on: Shot | Production, production: Production, more: dict[str, Any]) -> HttpResponse:
    try:
        exporter = kind_in(request.POST)
        values = values_in(exporter, request.POST, production)
        remember(production, exporter, values, request.POST.get("name", ""))
    except TinForkError as wrong:
        return _refused(request, on, request.POST.get("as", ""), wrong)
    if request.POST.get("do") != "keep":
        is_reel = bool(more.get("reel")) and exporter.kind == "movie"
        suffix, media_type = exporter.file_type(values)
        name = _file_name(on, exporter, values)
        if isinstance(on, Production) and not is_reel:
            name, media_type = f"{on.name}{suffix.removesuffix('.zip')}.zip", "application/zip"
        options = {**more, "reel": is_reel, "as": exporter.kind, "values": values, "name": name, "type": media_type}
        shots = [on] if isinstance(on, Shot) else [shot for shot in _shots_of(on) if shot.pk in more["shots"]]
        seconds = 3 + round(_SECONDS_EACH * sum(soundtrack_of(shot).duration_us for shot in shots) / 1e6)
        lock = f"export {type(on).__name__} {on.pk}"
        start_job(kind=Job.Kind.EXPORT, on=on, by=request.user, options=options, lock=lock, seconds=seconds)
    return redirect(f"{_home(on)}?{urlencode({'as': exporter.kind})}")


@require_POST
def production_pack(request: UserRequest, pk: int) -> HttpResponse:
    """Start a job that exports a whole production."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    seconds = 5 + sum(take.duration_us for take in production.takes.all()) // 60_000_000
    name = f"{production.name}.production.zip"
    options = {"name": name, "type": "application/zip"}
    start_job(kind=Job.Kind.PACK, on=production, by=request.user, options=options, seconds=seconds)
    return redirect("production_edit", pk)


def production_dials(request: UserRequest, pk: int) -> HttpResponseBase:
    """Download a production's presets and default dials."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    named = {name: dials_from(values) for name, values in production.presets.items()}
    named |= {
        Message("Default of {name}", name=production.name)[: dials_json.LONGEST_NAME].strip(): dials_from(
            production.dials
        )
    }
    return FileResponse(
        io.BytesIO(dials_json.write(named)),
        as_attachment=True,
        filename=f"{production.name}.dials.json",
        content_type="application/json",
    )


@require_POST
def production_dials_in(request: UserRequest, pk: int) -> HttpResponse:
    """Import presets of another production."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    file = request.FILES.get("dials")
    try:
        if file is None or not 0 < (file.size or 0) <= MAX_DIALS_BYTES:
            raise FormatError("Choose a presets file: .dials.json, up to 1 MB.")
        called = take_in_dials(production=production, named=dials_json.read(file.read()))
        messages.info(
            request,
            str(
                Message("Presets you can use now: {names}.", names=", ".join(called))
                if called
                else Message("The file has no presets.")
            ),
        )
    except TinForkError as error:
        messages.error(request, str(error))
    return redirect("production_edit", pk)


@require_POST
def production_unpack(request: UserRequest) -> HttpResponse:
    """Start a job that imports a production."""
    studio = own_studio(request.user)
    file = request.FILES.get("packed")
    if file is None or not file.size:
        messages.error(request, str(Message("Choose a production backup: .production.zip.")))
    else:
        options = {"name": str(file.name)[:80], "files": [keep_upload(file)]}
        lock = f"unpack:{studio.pk}"
        seconds = 10 + file.size // 1_000_000
        start_job(kind=Job.Kind.UNPACK, on=studio, by=request.user, options=options, lock=lock, seconds=seconds)
    return redirect("productions")
