"""A take's sound and its peaks."""

import json

from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import serve_file
from tinfork.apps.people.access import reach
from tinfork.apps.sound.models import Take


def sound(request: UserRequest, pk: int) -> HttpResponseBase:
    """The listening copy, with ranges."""
    take = reach(Take, request.user, pk=pk)
    if not take.is_ready:
        raise Http404
    return serve_file(request, take.listening, "audio/flac")


def peaks(request: UserRequest, pk: int, level: int) -> HttpResponse:
    """One level of the waveform: int8 pairs of lowest and highest."""
    take = reach(Take, request.user, pk=pk)
    if not take.is_ready:
        raise Http404
    with take.peaks.open("rb") as file:
        lengths = json.loads(file.readline())["lengths"]
        if level >= len(lengths):
            raise Http404
        file.seek(sum(lengths[:level]), 1)
        data = file.read(lengths[level])
    return HttpResponse(
        data, content_type="application/octet-stream", headers={"Cache-Control": "private, max-age=86400"}
    )
