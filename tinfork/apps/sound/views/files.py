"""Views of files: a take's sound and waveform, a story reel's picture."""

from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import serve_file
from tinfork.apps.people.access import get_for_user_or_404
from tinfork.apps.sound.models import Reel, Take
from tinfork.apps.sound.queries import peaks_of


def sound(request: UserRequest, pk: int) -> HttpResponseBase:
    """The listening copy, with range requests."""
    take = get_for_user_or_404(Take, request.user, pk=pk)
    if not take.is_ready:
        raise Http404
    return serve_file(request, take.listening, "audio/flac")


def peaks(request: UserRequest, pk: int, level: int) -> HttpResponse:
    """One level of the waveform: int8 pairs of lowest and highest."""
    take = get_for_user_or_404(Take, request.user, pk=pk)
    data = peaks_of(take, level) if take.is_ready else None
    if data is None:
        raise Http404
    return HttpResponse(
        data, content_type="application/octet-stream", headers={"Cache-Control": "private, max-age=86400"}
    )


def film(request: UserRequest, pk: int) -> HttpResponseBase:
    """A story reel's picture, with range requests."""
    reel = get_for_user_or_404(Reel, request.user, pk=pk)
    if not reel.is_ready:
        raise Http404
    return serve_file(request, reel.film, "video/webm")
