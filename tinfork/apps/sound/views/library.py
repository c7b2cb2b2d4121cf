"""Views of a production's takes: uploading, recording, synthesising, and story reels."""

from django.contrib import messages
from django.core.files.uploadedfile import TemporaryUploadedFile
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.cast.models import Character
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change, visible
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.placing import open_later, start_reel, upload_sounds
from tinfork.apps.reading.casting import people_of, script_of
from tinfork.apps.sound.actions import remove_reel
from tinfork.apps.sound.forms import FILM_TYPES, SOUND_TYPES, SpeakForm, look_into, look_into_film
from tinfork.apps.sound.models import Reel, Take
from tinfork.apps.sound.queries import library
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.core.script import ScriptLine, fold
from tinfork.engines import limits


def takes(request: UserRequest, pk: int) -> HttpResponse:
    """The library."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    return _library(request, production)


def _library(request: UserRequest, production: Production, form: SpeakForm | None = None) -> HttpResponse:
    kinds = (Job.Kind.TAKE, Job.Kind.SPEAK, Job.Kind.REEL)
    jobs = production.jobs.filter(kind__in=kinds)[:40]
    context = {
        "production": production,
        "takes": library(production),
        "reels": production.reels.select_related("take").prefetch_related("shots"),
        "jobs": [job for job in jobs if job.state in Job.OPEN or job.state == Job.State.FAILED][:8],
        "working": is_anyone_working(),
        "form": form or SpeakForm(initial={"language": production.language or "en-us"}),
        "people": production.studio.characters.filter(archived_at=None),
        "types": SOUND_TYPES,
        "film_types": FILM_TYPES,
        "most_bytes": limits.MAX_SOUND_BYTES,
        "most_files": limits.MAX_SOUNDS,
        "can_change": may_change(request.user, production.studio),
    }
    return render(request, "sound/takes.html", context, status=422 if form and form.errors else 200)


def _sent(request: UserRequest, name: str) -> list[TemporaryUploadedFile]:
    return [f for f in request.FILES.getlist(name) if isinstance(f, TemporaryUploadedFile)]


def _named(request: UserRequest, model: type[Shot] | type[Character], field: str, production: Production):  # type: ignore[no-untyped-def]
    """The shot or character given in a form, of this production; None if there is none."""
    wanted = whole_number(request.POST.get(field))
    if wanted is None:
        return None
    own = {"production": production} if model is Shot else {"studio": production.studio}
    return visible(model, request.user).filter(pk=wanted, **own).first()


@require_POST
def take_upload(request: UserRequest, pk: int) -> JsonResponse:
    """Upload sound files, chosen, dropped or recorded, and place them in a shot if one is given."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    try:
        good, wrong = look_into(_sent(request, "sound"))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    recorded = request.POST.get("source") == "recorded"
    upload_sounds(
        production=production,
        uploaded=good,
        by=request.user,
        shot=_named(request, Shot, "shot", production),
        speaker=_named(request, Character, "speaker", production),
        source=Take.Source.RECORDED if recorded else Take.Source.FILE,
    )
    for text in wrong:
        messages.error(request, text)
    return JsonResponse({"next": reverse("takes", args=[pk])})


@require_POST
def takes_speak(request: UserRequest, pk: int) -> HttpResponse:
    """Synthesise a text as a take; names in it are speakers."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = SpeakForm(request.POST)
    lines: list[ScriptLine] = []
    if form.is_valid():
        people = people_of(production.studio)
        usual = _named(request, Character, "speaker", production)
        for line in script_of(form.cleaned_data["text"], people):
            who = people.get(fold(line.speaker)) if line.speaker else usual
            lines.append(ScriptLine(str(who.pk) if who else "", line.text, line.language))
        if not lines:
            form.add_error("text", Message("Type the dialogue, one phrase per line."))
    if form.errors:
        return _library(request, production, form)
    data = form.cleaned_data
    take = Take.objects.create(
        production=production,
        name=(data["name"] or lines[0].text)[:80],
        source=Take.Source.SPOKEN,
        speaker=_named(request, Character, "speaker", production),
        words=data["text"],
    )
    open_later(
        take,
        by=request.user,
        shot=_named(request, Shot, "shot", production),
        job=Job.Kind.SPEAK,
        voicing={key: data[key] for key in ("language", "variant", "words_per_minute", "pitch")},
        lines=[{"speaker": line.speaker, "text": line.text, "language": line.language} for line in lines],
    )
    return redirect("takes", pk)


def record(request: UserRequest, pk: int) -> HttpResponse:
    """The page for recording in the browser."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    shot = None
    if (wanted := whole_number(request.GET.get("shot"))) is not None:
        shot = get_for_user_or_404(Shot, request.user, pk=wanted, production=production)
    words = shot.words if shot else ""
    context = {
        "production": production,
        "shot": shot,
        "lines": script_of(words, people_of(production.studio)),
        "people": production.studio.characters.filter(archived_at=None),
        "can_change": may_change(request.user, production.studio),
    }
    return render(request, "sound/record.html", context)


@require_POST
def reel_upload(request: UserRequest, pk: int) -> JsonResponse:
    """Upload a film as picture reference, for a shot if one is given."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    shot = _named(request, Shot, "shot", production)
    try:
        uploaded = look_into_film(next(iter(_sent(request, "film")), None))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    start_reel(production=production, uploaded=uploaded, by=request.user, shot=shot)
    return JsonResponse({"next": reverse("shot_sound", args=[shot.pk]) if shot else reverse("takes", args=[pk])})


@require_POST
def reel_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Delete a story reel; its sound stays as a take."""
    reel = get_for_user_or_404(Reel, request.user, change=True, pk=pk)
    remove_reel(reel)
    return redirect("takes", reel.production_id)
