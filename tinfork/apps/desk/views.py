"""Views of the Desk."""

from datetime import timedelta
from typing import Any

from django import forms
from django.conf import settings
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.desk.looks import looks_document
from tinfork.apps.desk.presence import be_at, others_at
from tinfork.apps.desk.queries import (
    changes_document,
    desk_document,
    timing_document,
    version_document,
    versions_document,
    why_document,
)
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import Right, get_for_user_or_404, may, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.dials import make_usual, name_dials, presets_of, with_dials
from tinfork.apps.reading.actions.versions import delete_version, keep_version, return_to
from tinfork.apps.reading.models import Version
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import drawings_of, is_fetched, other_parts, with_cast
from tinfork.apps.reading.views.sound import answer_edit, revision_in, sent_edit
from tinfork.apps.review.remarks import mark_of_remarks
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.core.motion.acting import KINDS
from tinfork.core.solver.dials import DIALS
from tinfork.core.speech.visemes import sounds_to_pick

#: How long the changes of a reading are shown.
_NEWS = timedelta(minutes=10)


class WhyForm(forms.Form):
    """A character and a frame from 0."""

    character = forms.IntegerField(min_value=1)
    frame = forms.IntegerField(min_value=0, max_value=10_000_000)


def desk(request: UserRequest, pk: int) -> HttpResponse:
    """The Desk of a shot; redirects to the shot's page if it is not read yet."""
    shot = with_cast(get_for_user_or_404(Shot, request.user, pk=pk))
    if not soundtrack_of(shot).is_read:
        return redirect("shot", pk)
    character = shot.character
    context = {
        "shot": shot,
        "document": desk_document(shot),
        "warnings": shot.soundtrack.warnings,
        "dials": DIALS.items(),
        "acting": KINDS.items(),
        "sounds": sounds_to_pick(),
        "presets": list(presets_of(shot.production)),
        "character": character,
        "cast": shot.characters,
        # A part with one drawing only moves: it has no column of drawings.
        "others": [part for part in other_parts(shot) if len(drawings_of(part)) > 1],
        "read_again": _read_again(shot),
        "notes": [take.note for take in shot.soundtrack.takes.exclude(note="")],
        "sets": [chart for c in shot.characters for chart in c.mouth.charts.all()],
        "last_frame": shot.first_frame + shot.production.rate.frames_in(shot.soundtrack.duration_us) - 1,
        "can_change": may_change(request.user, shot.production.studio),
        "can_remark": may(request.user, shot.production.studio, Right.REMARK),
        "live": settings.LIVE,
    }
    return render(request, "desk/desk.html", context)


def _read_again(shot: Shot) -> list[str]:
    """The changes of the last reading, for a while."""
    job = shot.jobs.filter(kind=Job.Kind.READ).first()
    is_news = job and job.state == Job.State.DONE and job.ended_at and timezone.now() - job.ended_at < _NEWS
    return list(job.notes) if job and is_news else []


@require_POST
def shot_dials(request: UserRequest, pk: int) -> JsonResponse:
    """Try dials of a character, save them as a preset, or make them the production's default.

    Trying stores nothing (the edit `dials` does). Returns the resulting mouths.
    """
    shot = with_cast(get_for_user_or_404(Shot, request.user, change=True, pk=pk))
    wanted = request.POST.get("character", "")
    character = next((c for c in shot.characters if str(c.pk) == wanted), None)
    do = request.POST.get("do", "")
    if character is None or do not in ("try", "default", "keep") or not soundtrack_of(shot).is_read:
        return JsonResponse(
            {"error": str(Message("That character is no longer in this shot. Reload the page."))}, status=422
        )
    try:
        if do == "try":
            with_dials(shot, character, _dial_values(request))
        elif do == "keep":
            name_dials(shot=shot, character=character, name=request.POST.get("name", ""))
        else:
            make_usual(shot=shot, character=character)
        now = shot if do == "try" else get_for_user_or_404(Shot, request.user, pk=pk)
        document = timing_document(now, character, now.soundtrack.reading, drawings_of(character.mouth))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse(document | {"presets": list(presets_of(now.production)), "looks": looks_document(now)})


def _dial_values(request: UserRequest) -> dict[str, object]:
    """The dials that were sent; invalid numbers are refused where they are used."""
    out: dict[str, object] = {}
    for name in [*DIALS, "by_loudness"]:
        if name in request.POST:
            text = request.POST[name]
            value = whole_number(text, -(10**9), 10**9)
            out[name] = bool(value) if name == "by_loudness" else value
    return out


@require_POST
def shot_edit(request: UserRequest, pk: int) -> JsonResponse:
    """Apply an edit, undo or redo; 409 if it conflicts with a change made meanwhile.

    Returns the changes since the revision that the page has.
    """
    shot = with_cast(get_for_user_or_404(Shot, request.user, change=True, pk=pk))
    try:
        body = sent_edit(request)
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    status, told = answer_edit(request, shot, body, keeps_reading=True)
    if not is_fetched(shot):
        # An edit of dials or sets may have changed it.
        with_cast(shot)
    if status != 200:
        shot.soundtrack = soundtrack_of(shot)
    seen = revision_in(body, "shown")
    if status == 422 and (seen is None or not soundtrack_of(shot).is_read):
        return JsonResponse(told, status=status)
    return JsonResponse(told | {"document": changes_document(shot, seen)}, status=status)


def shot_changes(request: UserRequest, pk: int) -> JsonResponse:
    """The changes of others since a revision, remarks since `said`, and who else is at this Desk.

    `at` is the frame (from 0) of the person who asks.
    """
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    since = whole_number(request.GET.get("since"), 0, 2**31)
    if since is None or not soundtrack_of(shot).is_read:
        return JsonResponse({"error": str(Message("Reload the page."))}, status=422)
    frame, said = whole_number(request.GET.get("at")), mark_of_remarks(shot)
    if frame is not None:
        be_at(shot, request.user, frame)
    told: dict[str, Any] = {"said": said, "here": others_at(shot, request.user)}
    if since != shot.soundtrack.revision:
        told["document"] = changes_document(shot, since)
    elif request.GET.get("said", said) not in ("", said):
        told["document"] = {"revision": since, "characters": {}, "looks": looks_document(with_cast(shot))}
    return JsonResponse(told)


def shot_versions(request: UserRequest, pk: int) -> JsonResponse:
    """The versions of a shot; a posted name saves a new one."""
    shot = get_for_user_or_404(Shot, request.user, change=request.method == "POST", pk=pk)
    if request.method == "POST":
        try:
            keep_version(shot=shot, name=request.POST.get("name", ""), by=request.user)
        except TinForkError as error:
            return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"versions": versions_document(shot)})


def shot_version(request: UserRequest, pk: int, version: int) -> JsonResponse:
    """The mouths of a version compared with the current ones; a post restores the version, or deletes it."""
    shot = get_for_user_or_404(Shot, request.user, change=request.method == "POST", pk=pk)
    found = get_object_or_404(Version, soundtrack__shot=shot, pk=version)
    try:
        if request.method != "POST":
            return JsonResponse(version_document(shot, found))
        if request.POST.get("what") == "delete":
            delete_version(found)
            return JsonResponse({"versions": versions_document(shot)})
        return_to(shot=shot, version=found, by=request.user)
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    return JsonResponse({"document": changes_document(get_for_user_or_404(Shot, request.user, pk=pk))})


def shot_why(request: UserRequest, pk: int) -> JsonResponse:
    """Why a character shows what it shows on a frame (from 0)."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    form = WhyForm(request.GET)
    character = next((c for c in shot.characters if form.is_valid() and c.pk == form.cleaned_data["character"]), None)
    if character is None or not soundtrack_of(shot).is_read:
        return JsonResponse({"error": str(Message("There is nothing to explain here."))}, status=422)
    return JsonResponse(why_document(shot, character, form.cleaned_data["frame"]))
