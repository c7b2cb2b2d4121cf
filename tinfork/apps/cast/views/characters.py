"""Views of the cast list, and of a character as a whole."""

from datetime import timedelta

from django.core.files.uploadedfile import UploadedFile
from django.core.paginator import Paginator
from django.db.models import prefetch_related_objects
from django.http import HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions import characters as actions
from tinfork.apps.cast.forms import CharacterForm, PartForm
from tinfork.apps.cast.models import Character, Part
from tinfork.apps.cast.queries import LISTED, cards_of, characters, hash_of, head_of
from tinfork.apps.cast.small_pictures import mark_of, small_pictures
from tinfork.apps.cast.views.boiling import serve_variant, variant_of
from tinfork.apps.cast.views.shared import answer, is_news, keep_upload
from tinfork.apps.cast.views.tracing import serve_face
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import SVG, cache_rule
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, listed, may_change, may_make, own_studio
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message


def cast_list(request: UserRequest, form: CharacterForm | None = None) -> HttpResponse:
    """The studio's characters, a page at a time, found by name."""
    search, archived = request.GET.get("q", "")[:80], request.GET.get("archived") == "1"
    # The jobs first: if one ended after the characters were read, the page would show neither job nor result.
    jobs = _imports(request)
    found = characters(request.user, search=search, archived=archived)
    page = Paginator(found, LISTED).get_page(request.GET.get("page"))
    firsts = {c.pk: c.mouth.charts.all()[0] for c in page}
    drawings = cards_of([chart.pk for chart in firsts.values()])
    context = {
        "page": page,
        "rows": [(c, firsts[c.pk], drawings[firsts[c.pk].pk]) for c in page],
        "search": search,
        "archived": archived,
        "form": form or CharacterForm(),
        "can_change": may_make(request.user),
        "jobs": jobs,
        "working": is_anyone_working(),
    }
    return render(request, "cast/cast_list.html", context, status=422 if form else 200)


def _imports(request: UserRequest) -> list[Job]:
    """Running imports of archives, and today's failed ones."""
    lately = timezone.now() - timedelta(days=1)
    jobs = listed(Job, request.user).filter(kind=Job.Kind.IMPORT, created_at__gte=lately)[:5]
    return [job for job in jobs if job.is_open or job.state == Job.State.FAILED]


@require_POST
def character_new(request: UserRequest) -> HttpResponse:
    """Create a character."""
    studio = own_studio(request.user)
    form = CharacterForm(request.POST, request.FILES)
    if form.is_valid():
        data = form.cleaned_data
        try:
            character = actions.add_character(studio=studio, name=data["name"], ink=data["ink"])
        except ChartError as error:
            form.add_error(None, str(error))
        else:
            _open_face(request, character, data["face"])
            return redirect("character", character.pk)
    return cast_list(request, form)


def _open_face(request: UserRequest, character: Character, face: "UploadedFile[bytes] | None") -> None:
    """Start a job that opens the uploaded face, if any: uploads are not opened in the web process."""
    if face:
        options = {"chart": character.mouth.charts.all()[0].pk, "files": [keep_upload(face)]}
        start_job(kind=Job.Kind.FACE, on=character, by=request.user, options=options)


def character(request: UserRequest, pk: int) -> HttpResponse:
    """Redirect to the first set of a character's mouth."""
    found = get_for_user_or_404(Character, request.user, pk=pk)
    return redirect("chart", found.mouth.charts.all()[0].pk)


def character_edit(request: UserRequest, pk: int) -> HttpResponse:
    """Name, colour, face, parts; and what can be done with the whole character."""
    # The job first: if it ended after the character was read, the page would show neither job nor result.
    jobs = list(Job.objects.filter(character=pk, kind=Job.Kind.FACE)[:1])
    found = get_for_user_or_404(Character, request.user, change=request.method == "POST", pk=pk)
    form = CharacterForm(request.POST or None, request.FILES or None, initial={"name": found.name, "ink": found.ink})
    if request.method == "POST" and form.is_valid():
        try:
            face = form.cleaned_data.pop("face")
            actions.edit_character(found, **form.cleaned_data, drop_face="drop_face" in request.POST and not face)
            _open_face(request, found, face)
            return redirect("character_edit", pk)
        except ChartError as error:
            form.add_error("name", str(error))
    context = {
        "job": next((job for job in jobs if is_news(job)), None),
        "working": is_anyone_working(),
        "character": found,
        "form": form,
        "parts": found.parts.prefetch_related("charts"),
        "part_form": PartForm(auto_id="part_%s"),
        "shots": found.shots.select_related("production")[:20],
        "can_change": may_change(request.user, found.studio),
    }
    return render(request, "cast/character_edit.html", context, status=422 if form.errors else 200)


@require_POST
def character_duplicate(request: UserRequest, pk: int) -> HttpResponse:
    """Copy a character."""
    return redirect(
        "character", actions.duplicate_character(get_for_user_or_404(Character, request.user, change=True, pk=pk)).pk
    )


@require_POST
def character_archive(request: UserRequest, pk: int) -> HttpResponse:
    """Archive a character, or restore it."""
    found = get_for_user_or_404(Character, request.user, change=True, pk=pk)
    actions.archive_character(found, archived=found.archived_at is None)
    return redirect("character_edit", pk)


@require_POST
def character_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Delete a character that no shot uses."""
    try:
        actions.delete_character(get_for_user_or_404(Character, request.user, change=True, pk=pk))
    except ChartError as error:
        return answer(request, "character_edit", pk, error=error)
    return answer(request, "cast")


@require_POST
def part_new(request: UserRequest, pk: int) -> HttpResponse:
    """Add a part of the face."""
    found = get_for_user_or_404(Character, request.user, change=True, pk=pk)
    form = PartForm(request.POST)
    if not form.is_valid():
        return answer(request, "character_edit", pk, error=Message("Give the part a name and a kind."))
    try:
        chart = actions.add_part(found, kind=form.cleaned_data["kind"], name=form.cleaned_data["name"])
    except ChartError as error:
        return answer(request, "character_edit", pk, error=error)
    return answer(request, "chart", chart.pk)


@require_POST
def part_delete(request: UserRequest, pk: int) -> HttpResponse:
    """Remove a part with its sets."""
    part = get_for_user_or_404(Part, request.user, change=True, pk=pk)
    try:
        actions.delete_part(part)
    except ChartError as error:
        return answer(request, "character_edit", part.character_id, error=error)
    return answer(request, "character_edit", part.character_id)


def face(request: UserRequest, pk: int) -> HttpResponseBase:
    """A character's face, one of its tracings, or a variant of its lines."""
    return serve_face(request, get_for_user_or_404(Character, request.user, pk=pk))


def plain_head(request: UserRequest, pk: int) -> HttpResponse:
    """The plain head of a character without a face picture."""
    found = get_for_user_or_404(Character, request.user, pk=pk)
    svg = head_of(found)
    if variant := variant_of(request):
        return serve_variant(svg, ".svg", found.mouth.placement.aspect, variant)
    kept = cache_rule(is_fixed=request.GET.get("v") == hash_of(svg))
    return HttpResponse(svg, content_type=SVG, headers={"Cache-Control": kept})


def small_drawings(request: UserRequest, pk: int) -> JsonResponse:
    """The small drawings of a character in one response: data URLs (RFC 2397) by address."""
    found = get_for_user_or_404(Character, request.user, pk=pk)
    # Both the hash and the pictures need all drawings: fetch them once.
    prefetch_related_objects([found], "parts__charts__drawings")
    kept = cache_rule(is_fixed=request.GET.get("v") == mark_of(found))
    return JsonResponse(small_pictures(found), headers={"Cache-Control": kept})
