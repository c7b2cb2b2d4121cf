"""Views of a shot's sound: the page for clips and turns, its edits, its mix and waveform."""

from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.db.models.fields.files import FieldFile
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import read_json, whole_number
from tinfork.apps.common.serve import serve_file
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions import soundtracks
from tinfork.apps.reading.actions.speakers import accept_speakers, drop_proposal
from tinfork.apps.reading.documents import sound_page
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.waveform import shot_mix, shot_peaks
from tinfork.apps.sound.forms import FILM_TYPES, SOUND_TYPES
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.messages import Message
from tinfork.engines import limits


def shot_sound(request: UserRequest, pk: int) -> HttpResponse:
    """The page with tracks, clips and turns."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    # The jobs first: if one ended after the soundtrack was read, the page would show neither job nor result.
    arriving = list(Job.objects.filter(production=shot.production, options__shot=shot.pk))
    voices = shot.jobs.filter(kind=Job.Kind.VOICES).first()
    soundtrack = soundtrack_of(shot)
    context = {
        "shot": shot,
        "document": sound_page(shot, soundtrack),
        "cast": shot.characters,
        "takes": shot.production.takes.exclude(listening="").order_by("name"),
        "reels": shot.production.reels.exclude(film=""),
        "reel_frame": shot.production.rate.frame_at(shot.reel_from_us),
        "arriving": [job for job in arriving if job.state in Job.OPEN or job.state == Job.State.FAILED][:4],
        "voices_job": voices if voices and voices.state != Job.State.DONE else None,
        "proposal": _proposal(shot, soundtrack),
        "people": shot.production.studio.characters.filter(archived_at=None),
        "working": is_anyone_working(),
        "types": SOUND_TYPES,
        "film_types": FILM_TYPES,
        "most_bytes": limits.MAX_SOUND_BYTES,
        "most_files": limits.MAX_SOUNDS,
        "can_change": may_change(request.user, shot.production.studio),
    }
    return render(request, "reading/shot_sound.html", context)


def _proposal(shot: Shot, soundtrack: Soundtrack) -> list[dict[str, Any]]:
    """The voices of a proposal: how long each speaks, and its probable character."""
    if not soundtrack.proposal:
        return []
    length: dict[int, int] = {}
    for span in soundtrack.proposal["spans"]:
        length[span["who"]] = length.get(span["who"], 0) + span["end"] - span["start"]
    guess = soundtrack.proposal["guess"]
    return [{"who": who, "length_us": length[who], "guess": int(guess.get(str(who)) or 0)} for who in sorted(length)]


def shot_sound_document(request: UserRequest, pk: int) -> JsonResponse:
    """The current data of the page."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    return JsonResponse(sound_page(shot, soundtrack_of(shot)))


def sent_edit(request: UserRequest) -> dict[str, Any]:
    """The edit in a request, as JSON; raises `FormatError` if it is invalid."""
    body = read_json(request.body) if request.content_type == "application/json" else None
    if not isinstance(body, dict):
        raise FormatError("The page sent something that could not be understood. Reload it and try again.")
    return body


def revision_in(body: Mapping[str, Any], name: str) -> int | None:
    """The revision that a page has; None if it is invalid."""
    value = body.get(name)
    is_revision = isinstance(value, int) and not isinstance(value, bool) and 0 <= value < 2**31
    return value if is_revision else None


def answer_edit(
    request: UserRequest, shot: Shot, body: Mapping[str, Any], *, keeps_reading: bool = False
) -> tuple[int, dict[str, str]]:
    """Apply the edit, undo or redo of a request; returns the status, and an error message if any.

    With `keeps_reading` the first reading is not undone.
    """
    try:
        name, revision = body.get("name"), revision_in(body, "revision")
        if revision is None:
            raise TinForkError("The page sent something that could not be understood. Reload it and try again.")
        if name in ("undo", "redo"):
            soundtracks.undo(shot=shot, revision=revision, back=name == "undo", keeps_reading=keeps_reading)
            return 200, {}
        parameters = body.get("parameters")
        if not isinstance(name, str) or not isinstance(parameters, dict):
            raise TinForkError("The page sent something that could not be understood. Reload it and try again.")
        token, own = body.get("token") or "", body.get("own") or []
        if not isinstance(token, str) or len(token) > 40 or not isinstance(own, list) or len(own) > 100:
            raise TinForkError("The page sent something that could not be understood. Reload it and try again.")
        soundtracks.edit(
            shot=shot,
            revision=revision,
            name=name,
            parameters=parameters,
            by=request.user,
            token=token,
            own=[str(one) for one in own],
        )
    except soundtracks.StaleError as error:
        return 409, {"error": str(error)}
    except TinForkError as error:
        return 422, {"error": str(error)}
    return 200, {}


@require_POST
def shot_sound_edit(request: UserRequest, pk: int) -> JsonResponse:
    """Apply an edit, undo or redo; returns the document, with 409 for a conflict."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    try:
        body = sent_edit(request)
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    status, told = answer_edit(request, shot, body)
    now = {"document": sound_page(shot, soundtrack_of(shot))} if status != 422 else {}
    return JsonResponse(told | now, status=status)


class _Stored(FieldFile):
    """A stored file without a model field."""

    def __init__(self, name: str) -> None:
        super().__init__(None, Take._meta.get_field("listening"), name)  # type: ignore[arg-type]


def shot_mix_file(request: UserRequest, pk: int) -> HttpResponseBase:
    """The shot's sound for listening, with range requests."""
    return serve_mix(request, _has_sound(request, pk))


def serve_mix(request: HttpRequest, soundtrack: Soundtrack) -> HttpResponseBase:
    """Serve a shot's sound; the caller has checked permissions."""
    return serve_file(request, _Stored(shot_mix(soundtrack, for_listening=True)), "audio/flac")


def shot_peaks_level(request: UserRequest, pk: int, level: int) -> HttpResponse:
    """One level of the shot's waveform."""
    levels = shot_peaks(_has_sound(request, pk))
    if level >= len(levels):
        raise Http404
    headers = {"Cache-Control": "private, max-age=86400" if request.GET.get("sound") else "no-store"}
    return HttpResponse(levels[level].tobytes(), content_type="application/octet-stream", headers=headers)


def _has_sound(request: UserRequest, pk: int) -> Soundtrack:
    soundtrack = soundtrack_of(get_for_user_or_404(Shot, request.user, pk=pk))
    if not soundtrack.duration_us:
        raise Http404
    return soundtrack


@require_POST
def shot_voices(request: UserRequest, pk: int) -> HttpResponse:
    """Request a proposal of who speaks when, accept one with a character for each voice, or discard it."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    what = request.POST.get("what")
    if what == "accept":
        cast = {key[4:]: str(value) for key, value in request.POST.items() if key.startswith("who-")}
        accept_speakers(shot=shot, cast=cast, by=request.user)
        messages.success(
            request, Message("The turns were added. Drag their ends, split them, or give them to another character.")
        )
    elif what == "leave":
        drop_proposal(shot)
    else:
        count = whole_number(request.POST.get("count"), 1, 8)
        options = {"count": count} if count else {}
        start_job(kind=Job.Kind.VOICES, on=shot, by=request.user, options=options)
    return redirect("shot_sound", pk)


@require_POST
def shot_reel(request: UserRequest, pk: int) -> HttpResponse:
    """Set the story reel beside the shot, and its frame on the shot's first."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    wanted = whole_number(request.POST.get("reel"))
    frame = whole_number(request.POST.get("frame", "0"), -10_000_000, 10_000_000)
    reel = None if wanted is None else get_for_user_or_404(Reel, request.user, pk=wanted, production=shot.production)
    if frame is None:
        messages.error(request, str(Message("Type the story reel's start frame as a whole number.")))
        return redirect("shot_sound", pk)
    rate = shot.production.rate
    shot.reel, shot.reel_from_us = reel, rate.first_us(frame)
    shot.save(update_fields=["reel", "reel_from_us"])
    return redirect("shot_sound", pk)
