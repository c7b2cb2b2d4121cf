"""The cast page and its pictures."""

from django.http import Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render

from tinfork.apps.cast.models import Character, Drawing
from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import serve_file
from tinfork.apps.people.access import reach, visible
from tinfork.core.speech.visemes import VISEMES, typical_sounds

SVG = "image/svg+xml"


def cast_list(request: UserRequest) -> HttpResponse:
    """Every character with its mouth chart."""
    characters = visible(Character, request.user).prefetch_related("drawings")
    sounds = {viseme: " ".join(typical_sounds(viseme)) for viseme in VISEMES}
    return render(request, "cast/cast_list.html", {"characters": characters, "sounds": sounds})


def face(request: UserRequest, pk: int) -> HttpResponseBase:
    """A character's face."""
    character = reach(Character, request.user, pk=pk)
    if not character.face:
        raise Http404
    return serve_file(request, character.face, SVG)


def drawing_picture(request: UserRequest, pk: int) -> HttpResponseBase:
    """A mouth of a chart."""
    return serve_file(request, reach(Drawing, request.user, pk=pk).picture, SVG)
