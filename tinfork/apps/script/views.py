"""Bringing a script: paste or file, look at what was understood, lay it on the shots."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.people.access import may_change, reach
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.casting import people_of, unknown_names
from tinfork.apps.script.actions import lay_script
from tinfork.core.errors import TinForkError, WordsError
from tinfork.core.script import MAX_BYTES, ScriptLine, fold, write_plain
from tinfork.engines.scripts import TYPES, read_script


def _page(request: UserRequest, production: Production, status: int = 200, **more: Any) -> HttpResponse:
    context = {
        "production": production,
        "shots": production.shots.all(),
        "people": production.studio.characters.filter(archived_at=None),
        "types": TYPES,
        "can_change": may_change(request.user, production.studio),
        "words": "",
        "chosen": request.POST.get("shot") or request.GET.get("shot", ""),
    }
    return render(request, "script/script.html", context | more, status=status)


def script(request: UserRequest, pk: int) -> HttpResponse:
    """Paste a script, or choose its file."""
    return _page(request, reach(Production, request.user, pk=pk))


def _sent(request: UserRequest) -> tuple[bytes, str]:
    """The script that came: a file goes before what was pasted."""
    upload = request.FILES.get("file")
    if upload is not None:
        if (upload.size or 0) > MAX_BYTES:
            raise WordsError(f"This script is larger than {MAX_BYTES // 1024**2} MB. Cut it into parts.")
        return upload.read(), upload.name or ""
    return request.POST.get("words", "").replace("\0", "").encode(), ""


@require_POST
def script_look(request: UserRequest, pk: int) -> HttpResponse:
    """What was understood: lines by shot, names that are known and that are not. Nothing is kept yet."""
    production = reach(Production, request.user, change=True, pk=pk)
    people = people_of(production.studio)
    try:
        data, name = _sent(request)
        if not data.strip():
            raise WordsError("Paste the script, or choose its file.")
        lines, notes = read_script(data, name, people)
    except TinForkError as error:
        return _page(request, production, 422, words=request.POST.get("words", ""), problem=str(error))
    return _page(
        request,
        production,
        words=write_plain(lines),
        notes=notes,
        lines=_shown(lines, people),
        total=len(lines),
        unknown=unknown_names(lines, people),
        new_name=name.rsplit(".", 1)[0] or "Script",
        has_loose=any(not line.shot for line in lines),
        shot_names=list(dict.fromkeys(line.shot for line in lines if line.shot)),
    )


def _shown(lines: list[ScriptLine], people: dict[str, Any], most: int = 400) -> list[dict[str, Any]]:
    """The first lines, each with its character where it is known."""
    return [
        {"line": line, "who": people.get(fold(line.speaker)), "is_new": bool(at and lines[at - 1].shot != line.shot)}
        for at, line in enumerate(lines[:most])
    ]


@require_POST
def script_lay(request: UserRequest, pk: int) -> HttpResponse:
    """Lay the lines on the shots."""
    production = reach(Production, request.user, change=True, pk=pk)
    people = people_of(production.studio)
    try:
        lines, _ = read_script(request.POST.get("words", "").replace("\0", "").encode(), "script.txt", people)
        unknown = unknown_names(lines, people)
        names = {fold(name): request.POST.get(f"name-{at}", "make") for at, name in enumerate(unknown)}
        wanted = request.POST.get("shot", "")
        shot = reach(Shot, request.user, pk=int(wanted), production=production) if wanted.isdigit() else None
        new_name = request.POST.get("new_name", "")
        shots = lay_script(production=production, lines=lines, names=names, shot=shot, new_name=new_name)
    except TinForkError as error:
        return _page(request, production, 422, words=request.POST.get("words", ""), problem=str(error))
    if len(shots) == 1:
        return redirect("shot", shots[0].pk)
    messages.success(request, f"{len(lines)} lines in {len(shots)} shots.")
    return redirect("production", pk)
