"""Views for importing a script: paste or upload it, check the preview, assign it to shots."""

from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.casting import people_of, unknown_names
from tinfork.apps.script.actions import AT_ONCE, MAX_NAMES, lay_script
from tinfork.core.errors import TinForkError, WordsError
from tinfork.core.messages import Message
from tinfork.core.script import MAX_BYTES, ScriptLine, fold, write_plain
from tinfork.engines.scripts import TYPES, read_script_apart


def _page(request: UserRequest, production: Production, status: int = 200, **more: Any) -> HttpResponse:
    context = {
        "production": production,
        "shots": production.shots.all(),
        "people": production.studio.characters.filter(archived_at=None),
        "types": TYPES,
        "can_change": may_change(request.user, production.studio),
        "words": "",
        "chosen": request.POST.get("shot") or request.GET.get("shot", ""),
        "jobs": _jobs(production),
        "working": is_anyone_working(),
    }
    return render(request, "script/script.html", context | more, status=status)


def _jobs(production: Production) -> list[Job]:
    """Running or failed imports of long scripts."""
    lately = timezone.now() - timedelta(days=1)
    jobs = production.jobs.filter(kind=Job.Kind.SCRIPT, created_at__gte=lately)[:1]
    return [job for job in jobs if job.is_open or job.state == Job.State.FAILED]


def script(request: UserRequest, pk: int) -> HttpResponse:
    """Paste a script, or choose its file."""
    return _page(request, get_for_user_or_404(Production, request.user, pk=pk))


def _sent(request: UserRequest) -> tuple[bytes, str]:
    """The script in a request: a file takes precedence over pasted text."""
    upload = request.FILES.get("file")
    if upload is not None:
        if (upload.size or 0) > MAX_BYTES:
            raise WordsError(
                "This script is larger than {max_bytes} MB. Split it into parts.", max_bytes=MAX_BYTES // 1024**2
            )
        return upload.read(), upload.name or ""
    return request.POST.get("words", "").encode(), ""


@require_POST
def script_preview(request: UserRequest, pk: int) -> HttpResponse:
    """The preview: lines by shot, known and unknown names. Nothing is stored yet."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    people = people_of(production.studio)
    try:
        data, name = _sent(request)
        if not data.strip():
            raise WordsError("Paste the script, or choose its file.")
        lines, notes = read_script_apart(data, name, people)
        unknown = _few_unknown(lines, people)
    except TinForkError as error:
        return _page(request, production, 422, words=request.POST.get("words", ""), problem=str(error))
    return _page(
        request,
        production,
        words=write_plain(lines),
        notes=notes,
        lines=_shown(lines, people),
        total=len(lines),
        unknown=unknown,
        new_name=name.rsplit(".", 1)[0] or "Script",
        has_loose=any(not line.shot for line in lines),
        shot_names=list(dict.fromkeys(line.shot for line in lines if line.shot)),
    )


def _shown(lines: list[ScriptLine], people: dict[str, Any], most: int = 400) -> list[dict[str, Any]]:
    """The first lines, each with its character if known."""
    return [
        {"line": line, "who": people.get(fold(line.speaker)), "is_new": bool(at and lines[at - 1].shot != line.shot)}
        for at, line in enumerate(lines[:most])
    ]


@require_POST
def script_apply(request: UserRequest, pk: int) -> HttpResponse:
    """Import lines into shots."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    people = people_of(production.studio)
    try:
        lines, _ = read_script_apart(request.POST.get("words", "").encode(), "script.txt", people)
        unknown = _few_unknown(lines, people)
        names = {fold(name): request.POST.get(f"name-{at}", "make") for at, name in enumerate(unknown)}
        wanted = whole_number(request.POST.get("shot"))
        shot = None if wanted is None else get_for_user_or_404(Shot, request.user, pk=wanted, production=production)
        new_name = request.POST.get("new_name", "")
        if len(unknown) + len({line.shot for line in lines}) > AT_ONCE:
            options = {"words": write_plain(lines), "names": names, "shot": wanted, "new_name": new_name}
            start_job(kind=Job.Kind.SCRIPT, on=production, by=request.user, options=options)
            return redirect("script", pk)
        shots = lay_script(production=production, lines=lines, names=names, shot=shot, new_name=new_name)
    except TinForkError as error:
        return _page(request, production, 422, words=request.POST.get("words", ""), problem=str(error))
    if len(shots) == 1:
        return redirect("shot", shots[0].pk)
    messages.success(request, str(Message("{count} lines in {count2} shots.", count=len(lines), count2=len(shots))))
    return redirect("production", pk)


def _few_unknown(lines: list[ScriptLine], people: dict[str, Any]) -> list[str]:
    """The unknown names; raises `WordsError` for so many that it cannot be a script."""
    unknown = unknown_names(lines, people)
    if len(unknown) > MAX_NAMES:
        raise WordsError(
            "{count} names of speakers are new, and {max_names} at once are the most. "
            "Is it a script with NAME: dialogue? Import it in parts.",
            count=len(unknown),
            max_names=MAX_NAMES,
        )
    return unknown
