"""Views of the panel of a shot's reference film, and of the film."""

from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import TemporaryUploadedFile
from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.common.serve import address_of, serve_file
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.acting import face_of
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import drawings_of, other_parts, part_key, with_cast
from tinfork.apps.reference.actions import (
    MOST_US,
    begin_at,
    follow_face,
    remove_reference,
    stop_work,
    upload_reference,
)
from tinfork.apps.reference.models import Reference
from tinfork.apps.sound.actions import Upload
from tinfork.apps.sound.forms import look_into_film
from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.messages import Message
from tinfork.core.motion.faces import blinks
from tinfork.core.motion.following import SHOWN
from tinfork.engines.limits import MAX_REFERENCE_BYTES
from tinfork.engines.tracking.models import MISSING, are_there

#: The most frames before or after frame 0 on which a film starts.
_MOST_FRAMES = 200_000
#: An animated face for machines without a camera (`tools/demo/stand_in_face.py`).
STAND_IN = Path(__file__).resolve().parents[2] / "static" / "films" / "stand-in.webm"


@require_http_methods(["GET", "HEAD", "POST"])
def reference(request: UserRequest, pk: int) -> HttpResponse:
    """The panel; a post uploads a chosen or recorded film that begins at a time of the shot."""
    shot = get_for_user_or_404(Shot, request.user, change=request.method == "POST", pk=pk)
    if request.method != "POST":
        return _panel(request, shot)
    film = request.FILES.get("film")
    begins_us = _signed(request.POST.get("begins_us", "0"), MOST_US)
    try:
        if film is not None and (film.size or 0) > MAX_REFERENCE_BYTES:
            raise SoundError(
                "“{name}” is larger than {max_reference_bytes} MB. Trim it to the shot.",
                name=film.name,
                max_reference_bytes=MAX_REFERENCE_BYTES // 2**20,
            )
        if request.POST.get("stand_in"):
            uploaded = Upload("Stand-in", STAND_IN)
        else:
            uploaded = look_into_film(film if isinstance(film, TemporaryUploadedFile) else None)
        upload_reference(shot=shot, uploaded=uploaded, begins_us=begins_us or 0, by=request.user)
    except TinForkError as error:
        return _panel(request, shot, str(error))
    return _panel(request, shot)


@require_POST
def reference_begin(request: UserRequest, pk: int) -> HttpResponse:
    """Set the frame on which the film begins, in the shot's numbering."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    frame = _signed(request.POST.get("frame", ""), _MOST_FRAMES)
    if frame is None:
        return _panel(
            request,
            shot,
            str(Message("The film's start frame goes from {low} to {high}.", low=-_MOST_FRAMES, high=_MOST_FRAMES)),
        )
    begins_us = shot.production.rate.first_us(frame - shot.first_frame)
    begin_at(reference=get_object_or_404(Reference, shot=shot), begins_us=begins_us)
    return _panel(request, shot)


def _signed(text: str, most: int) -> int | None:
    """A whole number, which may be negative; None if it is invalid."""
    number = whole_number(text.strip().removeprefix("-"), 0, most)
    return -number if number is not None and text.strip().startswith("-") else number


@require_POST
def reference_follow(request: UserRequest, pk: int) -> HttpResponse:
    """Start following the face in it."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    try:
        follow_face(reference=get_object_or_404(Reference, shot=shot), by=request.user)
    except TinForkError as error:
        return _panel(request, shot, str(error))
    return _panel(request, shot)


@require_POST
def reference_stop(request: UserRequest, pk: int) -> HttpResponse:
    """Stop opening the film or following its face."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    stop_work(shot=shot)
    return _panel(request, shot)


@require_POST
def reference_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Delete the film for good."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    remove_reference(shot=shot)
    return _panel(request, shot)


def reference_film(request: UserRequest, pk: int) -> HttpResponseBase:
    """The film, with range requests. It is never cached, so that nothing is left after it is deleted."""
    found = get_for_user_or_404(Reference, request.user, pk=pk)
    if not found.film:
        raise Http404
    response = serve_file(request, found.film, "video/webm")
    response["Cache-Control"] = "private, no-store"
    return response


def _panel(request: UserRequest, shot: Shot, trouble: str = "") -> HttpResponse:
    # The job first: if it ended after the film was read, the panel would show neither its result nor its progress.
    jobs = Job.objects.filter(shot=shot, kind__in=[Job.Kind.REFERENCE, Job.Kind.FACES])
    job = next((j for j in jobs[:1] if j.is_open or j.state == Job.State.FAILED), None)
    found = Reference.objects.filter(shot=shot).first()
    context: dict[str, Any] = {
        "shot": shot,
        "reference": found,
        # For a deleted film only an error is shown.
        "job": job if found or (job and job.state == Job.State.FAILED) else None,
        "working": is_anyone_working(),
        "trouble": trouble,
        "can_change": may_change(request.user, shot.production.studio),
        "missing": "" if are_there() else MISSING,
    }
    if found and found.film:
        rate = shot.production.rate
        context["film"] = address_of("reference_film", found.pk, found.film)
        context["begins"] = rate.nearest_span(found.begins_us, found.begins_us)[0] + shot.first_frame
    if found and found.face and soundtrack_of(shot).is_read:
        context["found"] = _found(found)
        context["columns"] = _columns(with_cast(shot))
        context["has_drawings"] = any(row["drawings"] for row in context["columns"])
    return render(request, "reference/_panel.html", context)


def _found(reference: Reference) -> str:
    """The results for a film in a few words."""
    track = reference.track
    count = len(blinks(track))
    return Message(
        "A face on {share:.0%} of it, {count} blink.",
        many="A face on {share:.0%} of it, {count} blinks.",
        share=track.found,
        count=count,
    )


#: Which movements each kind of column follows, in words.
_FOLLOWS = {
    "head": Message("tilt and moves"),
    "face": Message("turn and nod"),
    "mouth": Message("how wide it opens"),
    "eyes": Message("blinks"),
    "pupils": Message("gaze and blinks"),
    "brows": Message("up and down"),
}


def _columns(shot: Shot) -> list[dict[str, Any]]:
    """Rows of the table: each column that can follow a face, and the drawings that may be shown instead."""
    names = {part_key(part): part for part in other_parts(shot)}
    rows = []
    for character in shot.characters:
        for part, kind in face_of(shot, character).kinds.items():
            own = names.get(part)
            drawings = drawings_of(own) if own and kind in SHOWN else {}
            rows.append(
                {
                    "character": character,
                    "part": part,
                    "name": own.name if own else part.capitalize(),
                    "follows": _FOLLOWS[kind],
                    # The opening of the mouth follows from the sound already.
                    "is_on": kind != "mouth",
                    "drawings": [one for (name, _), one in drawings.items() if not name] if len(drawings) > 1 else [],
                    "when": "shut" if kind == "eyes" else "up",
                }
            )
    return rows
