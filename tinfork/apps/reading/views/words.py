"""Views of the shot's page: upload the sound, type the words, read."""

from django.contrib import messages
from django.core.files.uploadedfile import TemporaryUploadedFile
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.cast.forms import NameForm
from tinfork.apps.cast.models import Character
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.actions import add_to_cast, remove_from_cast, set_shot
from tinfork.apps.produce.forms import ShotSettingsForm
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.placing import upload_sounds
from tinfork.apps.reading.actions.reading import read_stretch, start_reading
from tinfork.apps.reading.forms import ReadForm, StretchForm
from tinfork.apps.reading.methods import ReadingMethod, ReadingRequest
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.script.actions import make_character
from tinfork.apps.sound.forms import SOUND_TYPES, look_into
from tinfork.apps.sound.models import Take
from tinfork.core.errors import TinForkError
from tinfork.core.messages import Message
from tinfork.engines import limits


def _page(request: UserRequest, shot: Shot, form: ReadForm, status: int = 200) -> HttpResponse:
    # The jobs first: if one ended after the soundtrack was read, the page would show neither job nor result.
    job = shot.jobs.filter(kind=Job.Kind.READ).first()
    # A reading that waits for its sound shows that itself.
    shown = (Job.State.FAILED,) if job and job.is_open else (*Job.OPEN, Job.State.FAILED)
    arriving = list(Job.objects.filter(production=shot.production, options__shot=shot.pk, state__in=shown)[:6])
    soundtrack = soundtrack_of(shot)
    st = soundtrack.content
    takes = {t.pk: t for t in Take.objects.filter(pk__in={c.take for c in st.clips})}
    context = {
        "shot": shot,
        "form": form,
        "soundtrack": soundtrack,
        "clips": [(clip, takes[clip.take]) for clip in st.clips],
        "job": job,
        "arriving": arriving,
        "working": is_anyone_working(),
        "then": "desk",
        "types": SOUND_TYPES,
        "most_bytes": limits.MAX_SOUND_BYTES,
        "can_change": may_change(request.user, shot.production.studio),
        "characters": shot.production.studio.characters.filter(archived_at=None).exclude(shots=shot),
    }
    return render(request, "reading/shot_detail.html", context, status=status)


def shot_detail(request: UserRequest, pk: int) -> HttpResponse:
    """The page with sound, words and the reading's progress."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    way = ReadingMethod.WORDS if shot.words else ReadingMethod.HEARD
    return _page(
        request, shot, ReadForm(shot=shot, initial={"words": shot.words, "way": way, "language": shot.language})
    )


def sounds_sent(request: UserRequest) -> list[TemporaryUploadedFile]:
    """The uploaded sounds of a request."""
    return [f for f in request.FILES.getlist("sound") if isinstance(f, TemporaryUploadedFile)]


@require_POST
def shot_read(request: UserRequest, pk: int) -> HttpResponse:
    """Start reading. Returns JSON if the page's script sent the form, so that the form stays."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    form = ReadForm(request.POST, shot=shot, sounds=sounds_sent(request))
    wants_json = request.headers.get("Accept") == "application/json"
    if not form.is_valid():
        told = {"sound": form.sound_errors, "words": form.errors.get("words", [])}
        return (
            JsonResponse({"errors": told, "unknown": form.unknown}, status=422)
            if wants_json
            else _page(request, shot, form, 422)
        )
    given = form.cleaned_data
    for name in form.unknown:
        character = make_character(shot.production.studio, name)
        messages.success(request, str(_added(character)))
    way = ReadingMethod(given["way"] or ReadingMethod.WORDS)
    asked = ReadingRequest(given["words"], given["language"], way, given["everything"], given["spoken"])
    start_reading(shot=shot, asked=asked, by=request.user, uploaded=form.uploaded)
    return JsonResponse({"next": reverse("shot", args=[pk])}) if wants_json else redirect("shot", pk)


def _added(character: Character) -> Message:
    return Message("{name} was added to the cast with a starter mouth chart.", name=character.name)


@require_POST
def shot_read_again(request: UserRequest, pk: int) -> HttpResponse:
    """Re-read a stretch of frames, numbered as on the sheet."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    form = StretchForm(request.POST)
    if not form.is_valid():
        messages.error(request, str(Message("Type the first and the last frame.")))
        return redirect("desk", pk)
    try:
        read_stretch(shot=shot, by=request.user, **form.cleaned_data)
    except TinForkError as error:
        messages.error(request, str(error))
        return redirect("desk", pk)
    return redirect("shot", pk)


@require_POST
def shot_sounds(request: UserRequest, pk: int) -> HttpResponse:
    """Upload sounds: each becomes a take, and a clip after the existing ones."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    try:
        good, wrong = look_into(sounds_sent(request))
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    kind = "effects" if request.POST.get("kind") == "effects" else "voice"
    upload_sounds(production=shot.production, uploaded=good, by=request.user, shot=shot, kind=kind)
    for text in wrong:
        messages.error(request, text)
    return JsonResponse({"next": reverse("shot_sound" if request.POST.get("from") == "sound" else "shot", args=[pk])})


@require_POST
def shot_settings(request: UserRequest, pk: int) -> HttpResponse:
    """Change the shot's name and the number of its first frame."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    form = ShotSettingsForm(request.POST, shot=shot)
    if form.is_valid():
        set_shot(shot=shot, **form.cleaned_data)
    for errors in form.errors.values():
        messages.error(request, " ".join(map(str, errors)))
    return redirect("shot", pk)


@require_POST
def shot_cast(request: UserRequest, pk: int) -> HttpResponse:
    """Add a character or a new one to the shot, or remove one."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    made = NameForm({"name": request.POST.get("make", "")})
    if made.is_valid():
        character = make_character(shot.production.studio, made.cleaned_data["name"])
        add_to_cast(shot, [character])
        messages.success(request, str(_added(character)))
    elif (added := whole_number(request.POST.get("add"))) is not None:
        add_to_cast(shot, [get_for_user_or_404(Character, request.user, pk=added, studio=shot.production.studio)])
    elif (removed := whole_number(request.POST.get("remove"))) is not None:
        remove_from_cast(shot, get_for_user_or_404(Character, request.user, pk=removed))
    return redirect("shot", pk)
