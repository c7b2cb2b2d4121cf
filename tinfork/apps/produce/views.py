"""Pages of productions and their shots."""

from django.core.exceptions import PermissionDenied
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import redirect, render

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.people.access import may_change, own_studio, reach, visible
from tinfork.apps.produce.actions import add_shot, start_production
from tinfork.apps.produce.forms import ProductionForm, ShotForm
from tinfork.apps.produce.models import Production
from tinfork.apps.produce.queries import shot_rows


def production_list(request: UserRequest) -> HttpResponse:
    """Cards, newest first."""
    productions = visible(Production, request.user).select_related("studio")
    counted = productions.annotate(
        shot_count=Count("shots", distinct=True),
        read_count=Count("shots", filter=Q(shots__reading__isnull=False), distinct=True),
    ).prefetch_related("shots__character")
    return render(request, "produce/production_list.html", {"productions": counted})


def production_new(request: UserRequest) -> HttpResponse:
    """Make a production."""
    studio = own_studio(request.user)
    form = ProductionForm(request.POST or None, studio=studio)
    if form.is_valid():
        width, height = form.cleaned_data["size"].split("x")
        production = start_production(
            studio=studio,
            name=form.cleaned_data["name"],
            rate=form.cleaned_data["rate"],
            size=(int(width), int(height)),
        )
        return redirect("production", production.pk)
    return render(request, "produce/production_new.html", {"form": form}, status=422 if form.errors else 200)


def production_detail(request: UserRequest, pk: int) -> HttpResponse:
    """The shot list, and a form for the next shot."""
    production = reach(Production, request.user, pk=pk)
    form = ShotForm(request.POST or None, production=production, user=request.user)
    can_change = may_change(request.user, production.studio)
    if request.method == "POST" and not can_change:
        raise PermissionDenied
    if form.is_valid():
        shot = add_shot(production=production, **form.cleaned_data)
        return redirect("shot", shot.pk)
    context = {"production": production, "shots": shot_rows(production), "form": form, "can_change": can_change}
    return render(request, "produce/production_detail.html", context, status=422 if form.errors else 200)
