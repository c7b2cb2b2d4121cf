"""Views of a production's board."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.serve import serve_file
from tinfork.apps.news.actions import tell
from tinfork.apps.news.models import News
from tinfork.apps.people.access import Right, get_for_user_or_404, get_studio_or_404, may_change
from tinfork.apps.people.models import User
from tinfork.apps.produce.board import by_status, cards_of, overview_of
from tinfork.apps.produce.forms import PlanForm
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.moving import moving_picture, still_picture
from tinfork.apps.produce.planning import move_shots, plan, rename_statuses, sequence_named, status_names
from tinfork.core.messages import Message

_CHOICES = ("who", "status", "sequence", "q", "as")


def board(request: UserRequest, pk: int, form: PlanForm | None = None) -> HttpResponse:
    """The board: shots by status, as cards or as a list, with controls for selected shots."""
    production = get_for_user_or_404(Production, request.user, pk=pk)
    chosen = {name: request.GET.get(name, "") for name in _CHOICES}
    cards, names = cards_of(production, chosen), status_names(production.studio)
    if chosen["as"] == "list":
        # By sequence, then in the order of shots.
        cards.sort(key=lambda card: card.shot.sequence.name if card.shot.sequence else "")
    context = {
        "production": production,
        "cards": cards,
        "columns": by_status(cards, names),
        "names": names,
        "overview": overview_of(production),
        "people": _people(production),
        "sequences": production.sequences.all(),
        "chosen": chosen,
        "form": form or PlanForm(production=production),
        "can_change": may_change(request.user, production.studio),
        "query": request.GET.urlencode(),
    }
    return render(request, "produce/board.html", context, status=422 if form and form.errors else 200)


def _people(production: Production) -> list[User]:
    return sorted(production.studio.members.all(), key=lambda person: person.called.lower())


@require_POST
def board_plan(request: UserRequest, pk: int) -> HttpResponse:
    """Change selected shots, or move them; redirects to the board with the same filters."""
    production = get_for_user_or_404(Production, request.user, change=True, pk=pk)
    form = PlanForm(request.POST, production=production)
    if not form.is_valid():
        return board(request, pk, form)
    data = form.cleaned_data
    shots = list(data["shots"])
    changes = _changes(production, data)
    if changes:
        plan(shots, by=request.user, **changes)
        _tell_doers(production, [shot.pk for shot in shots], changes, request.user)
    if data["before"] or data["place"]:
        move_shots(production, shots, place=data["place"], before=data["before"])
    query = request.GET.urlencode()
    return redirect(reverse("board", args=[pk]) + (f"?{query}" if query else ""))


def _tell_doers(production: Production, shots: list[int], changes: dict[str, Any], by: User) -> None:
    """Tell people that a shot was assigned to them, or that its status changed."""
    names = status_names(production.studio)
    for shot in production.shots.filter(pk__in=shots).select_related("doer"):
        if "doer" in changes:
            said = Message("{shot} is yours now", shot=shot.name)
        elif "status" in changes:
            said = Message("{shot}: {status}", shot=shot.name, status=names[shot.status])
        else:
            continue
        tell([shot.doer], News.Kind.STATUS, said, about=shot, address=reverse("shot", args=[shot.pk]), by=by)


def _changes(production: Production, data: dict[str, Any]) -> dict[str, Any]:
    """The changes in a form; empty fields change nothing."""
    changes: dict[str, Any] = {}
    if data["status"]:
        changes["status"] = data["status"]
    if data["priority"]:
        changes["priority"] = int(data["priority"])
    if data["doer"]:
        changes["doer"] = None if data["doer"] == "nobody" else User.objects.get(pk=int(data["doer"]))
    if data["no_due"] or data["due"]:
        changes["due"] = None if data["no_due"] else data["due"]
    if data["new_sequence"]:
        changes["sequence"] = sequence_named(production, data["new_sequence"])
    elif data["sequence"]:
        none = data["sequence"] == "none"
        changes["sequence"] = None if none else production.sequences.get(pk=int(data["sequence"]))
    return changes


@require_POST
def status_rename(request: UserRequest, pk: int) -> HttpResponse:
    """Rename a studio's statuses."""
    studio = get_studio_or_404(request.user, pk, Right.LEAD)
    rename_statuses(studio, {name: request.POST.get(name, "") for name in Shot.Status.values})
    messages.success(request, str(Message("Saved.")))
    return redirect("people", pk)


def shot_moving(request: UserRequest, pk: int) -> HttpResponseBase:
    """The animated thumbnail of a shot that has been read; with `still`, its first picture, for reduced motion."""
    shot = get_for_user_or_404(Shot, request.user, pk=pk)
    if request.GET.get("still"):
        return HttpResponse(still_picture(shot), content_type="image/webp")
    return serve_file(request, moving_picture(shot), "image/webp")
