"""Views of the guide at a stop-motion set, for members and by link."""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.handover.atset import link_for, set_document, shot_in, withdraw_links
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.people.access import get_for_user_or_404, may_change
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.solving import with_cast
from tinfork.apps.reading.views.sound import serve_mix


def at_the_set(request: UserRequest, pk: int) -> HttpResponse:
    """The guide for members."""
    shot = _read(get_for_user_or_404(Shot, request.user, pk=pk))
    can_link = may_change(request.user, shot.production.studio)
    return _page(request, shot, reverse("shot_mix", args=[pk]), can_link=can_link)


@require_POST
def set_link(request: UserRequest, pk: int) -> HttpResponse:
    """Create a link that opens the guide on a tablet, without an account."""
    shot = _read(get_for_user_or_404(Shot, request.user, change=True, pk=pk))
    return redirect("set_by_link", link_for(shot))


@require_POST
def set_withdraw(request: UserRequest, pk: int) -> HttpResponse:
    """Withdraw all links to the guide."""
    withdraw_links(_read(get_for_user_or_404(Shot, request.user, change=True, pk=pk)))
    return redirect("at_the_set", pk)


@login_not_required
def set_by_link(request: HttpRequest, token: str) -> HttpResponse:
    """The guide for visitors with the link."""
    shot = _linked(token)
    return _page(request, shot, reverse("set_sound", args=[token]), can_link=False)


@login_not_required
def set_sound(request: HttpRequest, token: str) -> HttpResponseBase:
    """The shot's sound for visitors with the link."""
    return serve_mix(request, soundtrack_of(_linked(token)))


def _linked(token: str) -> Shot:
    shot = shot_in(token)
    if shot is None:
        raise Http404
    return _read(shot)


def _read(shot: Shot) -> Shot:
    if not soundtrack_of(shot).is_read:
        raise Http404
    return with_cast(shot)


def _page(request: HttpRequest, shot: Shot, sound: str, *, can_link: bool) -> HttpResponse:
    context = {"shot": shot, "document": set_document(scene_of(shot)), "sound": sound, "can_link": can_link}
    return render(request, "handover/set.html", context)
