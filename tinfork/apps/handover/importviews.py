"""Importing a file into a shot: first a preview of what it will change and what it cannot, then the import."""

from pathlib import Path

from django.contrib import messages
from django.core import signing
from django.core.files.uploadedfile import TemporaryUploadedFile
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.storage import keep_file, local_copy_of
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.importing import apply_import, import_context, preview
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.core.errors import FormatError, TinForkError
from tinfork.core.messages import Message, joined
from tinfork.core.scene.incoming import Incoming
from tinfork.engines.importing import MAX_BYTES, READERS, import_file
from tinfork.engines.isolated import run_isolated, unheard
from tinfork.engines.limits import PICTURE_CHILD_BYTES

_SALT = "bring in"
#: The time limit for reading a file, and how long a preview stays valid.
_READ_S, _LOOKED_S = 30, 3600
_TWO_AT_A_TIME = ConcurrencyLimit(2)


def shot_import(request: UserRequest, pk: int) -> HttpResponse:
    """The page; a post with a file shows the preview, a post of a previewed file imports it."""
    shot = get_for_user_or_404(Shot, request.user, change=request.method == "POST", pk=pk)
    if not soundtrack_of(shot).is_read:
        raise Http404
    context: dict[str, object] = {"shot": shot, "suffixes": ", ".join(READERS)}
    try:
        if request.method == "POST" and "looked" in request.POST:
            return _done(request, shot)
        if request.method == "POST":
            context |= _looked(request, shot)
    except TinForkError as error:
        context["error"] = str(error)
    context["cast"] = [character.name for character in shot.characters]
    context["can_change"] = may_change(request.user, shot.production.studio)
    return render(request, "handover/import.html", context, status=422 if "error" in context else 200)


def _looked(request: UserRequest, shot: Shot) -> dict[str, object]:
    file = request.FILES.get("file")
    if not isinstance(file, TemporaryUploadedFile) or not file.size:
        raise FormatError("Choose a file first.")
    if file.size > MAX_BYTES:
        raise FormatError("“{name}” is larger than {max_bytes} MB.", name=file.name, max_bytes=MAX_BYTES // 2**20)
    name, character = str(file.name)[:200], request.POST.get("character", "")[:80]
    path = Path(file.temporary_file_path())
    laid = preview(shot, _read(shot, path, name, character))
    looked = {"shot": shot.pk, "key": keep_file(path, ".upload"), "name": name, "character": character}
    return {"laid": laid, "name": name, "looked": signing.dumps(looked, salt=_SALT), "character": character}


def _done(request: UserRequest, shot: Shot) -> HttpResponse:
    try:
        looked = signing.loads(request.POST["looked"][:2000], salt=_SALT, max_age=_LOOKED_S)
    except signing.BadSignature:
        raise FormatError("The preview of this file has expired. Choose it again.") from None
    if looked["shot"] != shot.pk:
        raise FormatError("That preview was for another shot. Choose the file again.")
    try:
        with local_copy_of(looked["key"]) as path:
            incoming = _read(shot, path, looked["name"], looked["character"])
    except FileNotFoundError:
        raise FormatError("That file is no longer stored. Choose it again.") from None
    laid = apply_import(shot=shot, incoming=incoming, name=looked["name"], by=request.user)
    told = []
    if laid.moved or laid.added:
        told.append(Message("{moved} words moved, {added} added", moved=laid.moved, added=laid.added))
    if laid.frames:
        told.append(
            Message("{count} frame with a new drawing", many="{count} frames with a new drawing", count=laid.frames)
        )
    what = joined(told, ", ") or Message("nothing was different")
    done = Message("“{name}” was imported: {what}. Undo reverts all of it.", name=looked["name"], what=what)
    messages.success(request, str(done))
    return redirect(reverse("desk", args=[shot.pk]))


def _read(shot: Shot, path: Path, name: str, character: str) -> Incoming:
    """Read an untrusted file in a process of its own."""
    with _TWO_AT_A_TIME.inside():
        return run_isolated(
            import_file,
            path.read_bytes(),
            name,
            import_context(shot, character),
            progress=unheard,
            limit_s=_READ_S,
            memory_bytes=PICTURE_CHILD_BYTES,
            too_much=FormatError("“{name}” takes too much time or memory to read.", name=name),
            reports=False,
        )
