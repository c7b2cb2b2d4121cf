"""Exporting and importing characters and sets of drawings as archives."""

import secrets
import tempfile
from collections.abc import Callable
from typing import IO

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.http import FileResponse, HttpResponse
from django.views.decorators.http import require_POST

from tinfork.apps.cast.actions import archive
from tinfork.apps.cast.actions.characters import MAX_CHARACTERS
from tinfork.apps.cast.models import Character
from tinfork.apps.cast.views.shared import answer, keep_upload, reach_chart
from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.access import get_for_user_or_404, own_studio
from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.engines.limits import MAX_ARCHIVE_BYTES

#: Limits how many are exported at once: a large one takes seconds.
_TWO_AT_A_TIME = ConcurrencyLimit(2)


def _packed(pack: Callable[[IO[bytes]], None], name: str) -> FileResponse:
    """An archive as a download: packed on disk, not in memory."""
    with _TWO_AT_A_TIME.inside():
        packed = tempfile.TemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR)  # noqa: SIM115 - the answer closes it
        pack(packed)
    packed.seek(0)
    return FileResponse(packed, as_attachment=True, filename=f"{name}.zip", content_type="application/zip")


def character_export(request: UserRequest, pk: int) -> FileResponse:
    """The character as an archive."""
    found = get_for_user_or_404(Character, request.user, pk=pk)
    return _packed(lambda out: archive.pack(found, out), found.name)


def set_export(request: UserRequest, pk: int) -> FileResponse:
    """A set of drawings alone as an archive."""
    found = reach_chart(request, pk)
    return _packed(lambda out: archive.pack_set(found, out), f"{found.character.name} {found.part.name} {found.name}")


def _archive_in(request: UserRequest) -> "UploadedFile[bytes]":
    """The uploaded archive; raises `FormatError` if it is missing or too large."""
    file = request.FILES.get("archive")
    if file is None or not file.size:
        raise FormatError("Choose the archive that was exported: a ZIP file.")
    if file.size > MAX_ARCHIVE_BYTES:
        raise FormatError(
            "The archive is larger than {max_archive_bytes} MB.", max_archive_bytes=MAX_ARCHIVE_BYTES // 2**20
        )
    return file


def _seconds(file: "UploadedFile[bytes]") -> int:
    return 1 + (file.size or 0) // 4_000_000


@require_POST
def character_import(request: UserRequest) -> HttpResponse:
    """Import a character's archive with a job."""
    studio = own_studio(request.user)
    try:
        file = _archive_in(request)
    except FormatError as error:
        return answer(request, "cast", error=error)
    if studio.characters.count() >= MAX_CHARACTERS:
        return answer(
            request,
            "cast",
            error=Message("A studio can have up to {max_characters} characters.", max_characters=MAX_CHARACTERS),
        )
    name = str(file.name).removesuffix(".zip").strip()[:80] or "Imported"
    start_job(
        kind=Job.Kind.IMPORT,
        on=studio,
        by=request.user,
        options={"name": name, "files": [keep_upload(file)]},
        lock=f"import:{secrets.token_hex(8)}",
        seconds=_seconds(file),
    )
    return answer(request, "cast")


@require_POST
def set_import(request: UserRequest, pk: int) -> HttpResponse:
    """Import a set's archive into the same part with a job."""
    chart = reach_chart(request, pk, change=True)
    try:
        file = _archive_in(request)
    except FormatError as error:
        return answer(request, "chart", pk, error=error)
    options = {"chart": pk, "files": [keep_upload(file)]}
    start_job(kind=Job.Kind.SET, on=chart.character, by=request.user, options=options, seconds=_seconds(file))
    return answer(request, "chart", pk)
