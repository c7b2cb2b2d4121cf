"""Views of a take: its sound, faults and lines, and sending them to shots."""

from django.contrib import messages
from django.core.files.uploadedfile import TemporaryUploadedFile
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.finding import WantedLine, missing_lines, script_lines, start_finding, use_found
from tinfork.apps.reading.actions.pieces import pieces_by_line, pieces_by_silence, send_pieces
from tinfork.apps.reading.actions.placing import open_later
from tinfork.apps.reading.casting import people_of, script_of, unknown_names
from tinfork.apps.reading.documents import take_document
from tinfork.apps.reading.models import FoundLine
from tinfork.apps.sound.actions import describe_take, remove_take, upload_take
from tinfork.apps.sound.forms import SOUND_TYPES, TakeForm, look_into
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError, TinForkError, WordsError
from tinfork.core.messages import Message
from tinfork.engines import limits

_PAUSES_MS = (350, 600, 1000, 2000)


def take(request: UserRequest, pk: int) -> HttpResponse:
    """A take and its pieces: lines if known, or else stretches between silences."""
    return _page(request, pk)


def _page(request: UserRequest, pk: int, *, words: str | None = None, problem: str = "") -> HttpResponse:
    # The jobs first: if one ended after the take was read, the page would show neither job nor result.
    jobs = list(Job.objects.filter(production__takes=pk, options__take=pk))
    found = get_for_user_or_404(Take, request.user, pk=pk)
    pause = whole_number(request.GET.get("pause"))
    pause_ms = pause if pause in _PAUSES_MS else _PAUSES_MS[1]
    by_line = bool(found.reading) and "pause" not in request.GET
    pieces = [] if not found.is_ready else pieces_by_line(found) if by_line else pieces_by_silence(found, pause_ms)
    context = {
        "take": found,
        "document": take_document(found) | {"url": reverse("take_sound", args=[found.pk]), "gainDb": found.gain_db},
        "pieces": pieces,
        "by_line": by_line,
        "pause_ms": pause_ms,
        "pauses": _PAUSES_MS,
        "words": found.words if words is None else words,
        "has_script": found.production.shots.exclude(words="").exists(),
        "missing": _missing(found),
        "problem": problem,
        "jobs": [job for job in jobs[:6] if job.state in Job.OPEN or job.state == Job.State.FAILED][:2],
        "cancelled": next((j for j in jobs[:1] if j.state == Job.State.CANCELLED and j.error), None),
        "notes": next((j.notes for j in jobs if j.state == Job.State.DONE and j.notes), []),
        "working": is_anyone_working(),
        "uses": found.production.shots.filter(soundtrack__uses__take=found),
        "others": found.production.takes.exclude(pk=found.pk).exclude(listening=""),
        "people": found.production.studio.characters.filter(archived_at=None),
        "shots": found.production.shots.all(),
        "types": SOUND_TYPES,
        "most_bytes": limits.MAX_SOUND_BYTES,
        "can_change": may_change(request.user, found.production.studio),
    }
    return render(request, "sound/take.html", context, status=422 if problem else 200)


def _missing(found: Take) -> list[WantedLine]:
    """Lines of the script without a recording, after the take was searched."""
    if not found.found_lines.exists():
        return []
    try:
        script = script_lines(found.production)
    except TinForkError:
        return []
    return [script[number] for number in missing_lines(script)]


@require_POST
def take_find(request: UserRequest, pk: int) -> HttpResponse:
    """Start finding script lines in the take, which are placed in their shots."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    try:
        if not script_lines(found.production):
            raise WordsError("This production has no script yet. Import one under Script.")
    except TinForkError as error:
        messages.error(request, str(error))
        return redirect("take", pk)
    start_finding(take=found, spoken="", by=request.user)
    return redirect("take", pk)


@require_POST
def take_use(request: UserRequest, pk: int, line: int) -> HttpResponse:
    """Use a found line in its shot, replacing the one there."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    chosen = get_object_or_404(FoundLine, pk=line, take=found)
    try:
        use_found(line=chosen, by=request.user)
    except TinForkError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, str(Message("{shot} uses this take now.", shot=chosen.shot)))
    return redirect("take", pk)


@require_POST
def take_edit(request: UserRequest, pk: int) -> HttpResponse:
    """Change its name and character."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    form = TakeForm(request.POST, production=found.production)
    if form.is_valid():
        describe_take(take=found, **form.cleaned_data)
    else:
        messages.error(request, str(Message("A take needs a name. Its speaker must be in this studio's cast.")))
    return redirect("take", pk)


@require_POST
def take_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Delete the take, unless a shot uses it."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    try:
        remove_take(found)
    except SoundError as error:
        messages.error(request, str(error))
        return redirect("take", pk)
    return redirect("takes", found.production_id)


@require_POST
def take_lines(request: UserRequest, pk: int) -> HttpResponse:
    """Start finding the lines of a text in the take."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    words = request.POST.get("words", "")
    try:
        if len(words) > limits.MAX_TEXT_CHARACTERS:
            raise TinForkError(
                "The words are longer than {max_text_characters:,} characters. Split them into parts.",
                max_text_characters=limits.MAX_TEXT_CHARACTERS,
            )
        people = people_of(found.production.studio)
        lines = script_of(words, people)
        unknown = unknown_names(lines, people)
        if not lines:
            raise TinForkError("Type or paste the dialogue, one phrase per line.")
        if unknown:
            raise TinForkError(
                "No character is called “{unknown}”. Create that character, or correct the name.", unknown=unknown[0]
            )
    except TinForkError as error:
        return _page(request, pk, words=words, problem=str(error))
    options = {"take": found.pk, "words": words}
    start_job(kind=Job.Kind.LINES, on=found.production, by=request.user, options=options, lock=f"take:{pk}")
    return redirect("take", pk)


@require_POST
def take_replace(request: UserRequest, pk: int) -> JsonResponse:
    """Replace the take by a better one: an upload, or one from the library."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    if found.is_ready is False:
        return JsonResponse({"error": str(Message("This take is still being opened."))}, status=422)
    try:
        uploads = [f for f in request.FILES.getlist("sound") if isinstance(f, TemporaryUploadedFile)]
        if uploads:
            (better_one,), _ = look_into(uploads[:1])
            new = upload_take(production=found.production, uploaded=better_one, speaker=found.speaker)
        elif (better := whole_number(request.POST.get("by"))) is not None:
            new = get_for_user_or_404(Take, request.user, pk=better, production=found.production)
            if new == found or not new.is_ready:
                raise SoundError("Choose a take that is ready.")
        else:
            raise SoundError("Choose a sound file, or a take from the library.")
    except TinForkError as error:
        return JsonResponse({"error": str(error)}, status=422)
    open_later(new, by=request.user, job=Job.Kind.REPLACE, old=found.pk)
    return JsonResponse({"next": reverse("take", args=[new.pk])})


@require_POST
def take_send(request: UserRequest, pk: int) -> HttpResponse:
    """Send pieces of the take to shots: each to a new one, or all to an existing one."""
    found = get_for_user_or_404(Take, request.user, change=True, pk=pk)
    spans = []
    for value in request.POST.getlist("piece"):
        first, _, last = value.partition("-")
        start, end = whole_number(first), whole_number(last, 0, found.duration_us)
        if start is None or end is None or start >= end:
            messages.error(request, str(Message("One of the phrases is not in this take. Nothing was sent.")))
            return redirect("take", pk)
        spans.append((start, end))
    if not spans:
        messages.error(request, str(Message("Tick the phrases to send.")))
        return redirect("take", pk)
    shot = None
    if (wanted := whole_number(request.POST.get("shot"))) is not None:
        shot = get_for_user_or_404(Shot, request.user, pk=wanted, production=found.production)
    shots = send_pieces(take=found, spans=spans, shot=shot, by=request.user)
    if len(shots) == 1:
        return redirect("shot_sound", shots[0].pk)
    messages.success(request, f"{len(shots)} shots: {shots[0].name} to {shots[-1].name}.")
    return redirect("production", found.production_id)
