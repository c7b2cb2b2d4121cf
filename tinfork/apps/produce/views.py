"""Views of productions and shots."""

from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import is_anyone_working
from tinfork.apps.people.access import get_for_user_or_404, listed, may_change, may_make, own_studio, studio_of
from tinfork.apps.produce.actions import add_shot, set_production, start_production
from tinfork.apps.produce.archive import bring_back, days_left, delete_for_good, put_away
from tinfork.apps.produce.board import work_of
from tinfork.apps.produce.forms import ProductionForm, ShotForm
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.queries import recordings_not_opened, shot_rows
from tinfork.apps.reading.forms import DropForm
from tinfork.apps.sound.forms import SOUND_TYPES
from tinfork.core.messages import Message
from tinfork.engines import limits


def production_list(request: UserRequest) -> HttpResponse:
    """The productions as cards, newest first."""
    productions = listed(Production, request.user).select_related("studio")
    there = Q(shots__archived_at=None)
    counted = (
        productions.annotate(
            shot_count=Count("shots", filter=there, distinct=True),
            read_count=Count("shots", filter=there & Q(shots__soundtrack__is_read=True), distinct=True),
        )
        .order_by("-created_at")
        .prefetch_related("shots__parts__character")
    )
    lately = timezone.now() - timedelta(days=1)
    coming = listed(Job, request.user).filter(kind=Job.Kind.UNPACK, created_at__gte=lately)[:3]
    context = {
        "productions": counted,
        "can_make": may_make(request.user),
        "work": work_of(request.user),
        "jobs": [job for job in coming if job.is_open or job.state == Job.State.FAILED],
        "working": is_anyone_working(),
    }
    return render(request, "produce/production_list.html", context)


def production_new(request: UserRequest) -> HttpResponse:
    """Create a production."""
    studio = own_studio(request.user)
    form = ProductionForm(request.POST or None, studio=studio)
    if form.is_valid():
        production = start_production(studio=studio, **form.cleaned_data)
        return redirect("production", production.pk)
    return render(request, "produce/production_new.html", {"form": form}, status=422 if form.errors else 200)


def production_edit(request: UserRequest, pk: int) -> HttpResponse:
    """Edit a production; changing the rate loses no hand work."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    if request.method == "POST":
        production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = ProductionForm(request.POST or None, studio=production.studio, production=production)
    if form.is_valid():
        set_production(production=production, **form.cleaned_data)
        return redirect("production", pk)
    context = {
        "form": form,
        "production": production,
        "can_change": may_change(request.user, production.studio),
        "packed": production.jobs.filter(kind=Job.Kind.PACK).first(),
        "working": is_anyone_working(),
    }
    return render(request, "produce/production_edit.html", context, status=422 if form.errors else 200)


@require_POST
def production_archive(request: UserRequest, pk: int) -> HttpResponse:
    """Archive a production."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    put_away(production)
    messages.info(
        request, str(Message("“{name}” is in the archive. You can restore it for 30 days.", name=production.name))
    )
    return redirect("productions")


@require_POST
def shot_archive(request: UserRequest, pk: int) -> HttpResponse:
    """Archive a shot."""
    shot = get_for_user_or_404(Shot, request.user, change=True, pk=pk)
    put_away(shot)
    messages.info(request, str(Message("“{name}” is in the archive. You can restore it for 30 days.", name=shot.name)))
    return redirect("production", shot.production_id)


def archive(request: UserRequest) -> HttpResponse:
    """Archived productions, and archived shots of other productions."""
    productions = listed(Production, request.user, Production.everything).exclude(archived_at=None)
    shots = listed(Shot, request.user, Shot.everything).exclude(archived_at=None)
    shown: list[Shot | Production] = [
        *productions.select_related("studio"),
        *shots.filter(production__archived_at=None),
    ]
    rows = [
        {
            "item": item,
            "of": item.production.name if isinstance(item, Shot) else "",
            "days": days_left(item),
            "address": reverse(f"archived_{type(item).__name__.lower()}", args=[item.pk]),
            "can_change": may_change(request.user, studio_of(item)),
        }
        for item in sorted(shown, key=lambda item: str(item.archived_at), reverse=True)
    ]
    return render(request, "produce/archive.html", {"rows": rows})


@require_POST
def archived_production(request: UserRequest, pk: int) -> HttpResponse:
    """Restore a production, or delete it for good."""
    kept = Production.everything.exclude(archived_at=None)
    return _brought_or_deleted(request, get_for_user_or_404(Production, request.user, kept, change=True, pk=pk))


@require_POST
def archived_shot(request: UserRequest, pk: int) -> HttpResponse:
    """Restore a shot, or delete it for good."""
    kept = Shot.everything.exclude(archived_at=None)
    return _brought_or_deleted(request, get_for_user_or_404(Shot, request.user, kept, change=True, pk=pk))


def _brought_or_deleted(request: UserRequest, item: Shot | Production) -> HttpResponse:
    do = request.POST.get("do")
    if do == "back":
        bring_back(item)
        messages.info(request, str(Message("“{name}” was restored.", name=item.name)))
    elif do == "delete":
        delete_for_good(item)
        messages.info(request, str(Message("“{name}” was deleted.", name=item.name)))
    return redirect("archive")


def production_detail(request: UserRequest, pk: int) -> HttpResponse:
    """The shot list, and a form for the next shot."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    form = ShotForm(request.POST or None, production=production, user=request.user)
    can_change = may_change(request.user, production.studio)
    if request.method == "POST" and not can_change:
        raise PermissionDenied
    if form.is_valid():
        shot = add_shot(production=production, **form.cleaned_data)
        return redirect("shot", shot.pk)
    context = {
        **_shots(production),
        "form": form,
        "drop": DropForm(production=production),
        "types": SOUND_TYPES,
        "most_bytes": limits.MAX_SOUND_BYTES,
        "most_files": limits.MAX_SOUNDS,
        "can_change": can_change,
    }
    return render(request, "produce/production_detail.html", context, status=422 if form.errors else 200)


def production_shots(request: UserRequest, pk: int) -> HttpResponse:
    """The fragment with the shot list, polled while shots are being read."""
    return render(request, "produce/_shots.html", _shots(get_for_user_or_404(Production, request.user, pk=pk)))


def _shots(production: Production) -> dict[str, Any]:
    rows = shot_rows(production)
    return {
        "production": production,
        "shots": rows,
        "is_working": any(row.job for row in rows),
        "not_opened": recordings_not_opened(production),
    }
