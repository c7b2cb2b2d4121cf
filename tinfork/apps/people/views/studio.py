"""Views of a studio: members, invitations, name."""

from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import AnonymousUser
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.apps.common.requests import UserRequest
from tinfork.apps.common.tokens import count_wrong
from tinfork.apps.people.access import RIGHTS, SAID, Right, Role, get_studio_or_404
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.forms import InvitationForm, StudioForm
from tinfork.apps.people.invitations import (
    accept,
    invitation_of_token,
    invite,
    open_invitations,
    send_invitation,
    withdraw_invitation,
)
from tinfork.apps.people.members import (
    hand_over_studio,
    look_at,
    remove_member,
    rename_studio,
    roles_to_give,
    set_role,
)
from tinfork.apps.people.models import Invitation, Membership, Studio
from tinfork.apps.produce.models import Shot
from tinfork.core.messages import Message


def _membership(request: UserRequest, studio: Studio) -> Membership:
    return Membership.objects.get(studio=studio, user=request.user)


def people(
    request: UserRequest,
    pk: int,
    form: InvitationForm | None = None,
    naming: StudioForm | None = None,
    made: str = "",
) -> HttpResponse:
    """The members of a studio, and the rights of each role."""
    studio = get_studio_or_404(request.user, pk)
    mine = _membership(request, studio)
    roles = roles_to_give(mine)
    members = sorted(
        studio.memberships.select_related("user"), key=lambda m: (list(Role).index(Role(m.role)), m.user.called.lower())
    )
    context = {
        "studio": studio,
        "members": members,
        "mine": mine,
        "roles": roles,
        "all_roles": list(Role),
        "rights": [(SAID[right], [(role, role in RIGHTS[right]) for role in Role]) for right in Right],
        "is_owner": mine.role in RIGHTS[Right.OWN],
        "invitations": open_invitations(studio).select_related("by") if roles else [],
        "form": form or (InvitationForm(roles=roles, has_mail=settings.HAS_MAIL) if roles else None),
        "statuses": [(one.value, one.label, studio.status_names.get(one.value, "")) for one in Shot.Status],
        "naming": naming or StudioForm(initial={"name": studio.name}),
        "made": request.build_absolute_uri(made) if made else "",
    }
    wrong = any(one and one.errors for one in (form, naming))
    return render(request, "people/studio.html", context, status=422 if wrong else 200)


@require_POST
def studio_new(request: UserRequest) -> HttpResponse:
    """Create a studio."""
    form = StudioForm(request.POST)
    if not form.is_valid():
        messages.error(request, str(Message("Give the studio a name of up to 120 characters.")))
        return redirect("account")
    studio = found_studio(name=form.cleaned_data["name"], owner=request.user)
    look_at(request.user, studio)
    return redirect("people", studio.pk)


@require_POST
def studio_switch(request: UserRequest) -> HttpResponse:
    """Switch to another of one's studios."""
    number = request.POST.get("studio", "")
    if not number.isdecimal() or len(number) > 9:
        raise Http404
    look_at(request.user, get_studio_or_404(request.user, int(number)))
    return redirect("productions")


@require_POST
def studio_rename(request: UserRequest, pk: int) -> HttpResponse:
    """Rename the studio."""
    studio = get_studio_or_404(request.user, pk, Right.OWN)
    form = StudioForm(request.POST)
    if not form.is_valid():
        return people(request, pk, naming=form)
    rename_studio(studio, form.cleaned_data["name"])
    return redirect("people", pk)


@require_POST
def invitation_new(request: UserRequest, pk: int) -> HttpResponse:
    """Create an invitation: the link is mailed, or shown once."""
    studio = get_studio_or_404(request.user, pk, Right.LEAD)
    form = InvitationForm(request.POST, roles=roles_to_give(_membership(request, studio)), has_mail=settings.HAS_MAIL)
    if not form.is_valid():
        return people(request, pk, form)
    data = form.cleaned_data
    made, token = invite(
        studio,
        Role(data["role"]),
        by=request.user,
        email=data.get("email", ""),
        days=data["days"],
        is_for_many=data["is_for_many"],
    )
    address = reverse("join", args=[token])
    if made.email:
        send_invitation(made, request.build_absolute_uri(address))
        messages.success(request, str(Message("The invitation was mailed to {email}.", email=made.email)))
    return people(request, pk, made=address)


@require_POST
def invitation_withdraw(request: UserRequest, pk: int) -> HttpResponse:
    """Withdraw an invitation."""
    found = get_object_or_404(Invitation.objects.exclude(studio=None), pk=pk)
    studio = get_studio_or_404(request.user, found.studio_id or 0, Right.LEAD)
    withdraw_invitation(found)
    messages.success(request, str(Message("The invitation was withdrawn.")))
    return redirect("people", studio.pk)


def _other(request: UserRequest, pk: int, right: Right) -> tuple[Membership, Membership]:
    """A membership, and one's own in the same studio."""
    found = get_object_or_404(Membership.objects.select_related("user", "studio"), pk=pk)
    studio = get_studio_or_404(request.user, found.studio_id, right)
    return found, _membership(request, studio)


@require_POST
def member_role(request: UserRequest, pk: int) -> HttpResponse:
    """Change a member's role."""
    found, mine = _other(request, pk, Right.LEAD)
    role = request.POST.get("role", "")
    if role not in Role.values:
        raise PermissionDenied
    set_role(found, Role(role), by=mine)
    return redirect("people", found.studio_id)


@require_POST
def member_remove(request: UserRequest, pk: int) -> HttpResponse:
    """Remove a member."""
    found, mine = _other(request, pk, Right.LEAD)
    remove_member(found, by=mine)
    messages.success(request, str(Message("{name} was removed. Their work stays.", name=found.user.called)))
    return redirect("people", found.studio_id)


@require_POST
def studio_leave(request: UserRequest, pk: int) -> HttpResponse:
    """Leave a studio."""
    studio = get_studio_or_404(request.user, pk)
    mine = _membership(request, studio)
    remove_member(mine, by=mine)
    messages.success(request, str(Message("You left {studio}.", studio=studio.name)))
    return redirect("productions")


@require_POST
def studio_hand_over(request: UserRequest, pk: int) -> HttpResponse:
    """Make another member the owner."""
    found, mine = _other(request, pk, Right.OWN)
    hand_over_studio(found, by=mine)
    messages.success(
        request,
        str(Message("{name} owns {studio} now.", name=found.user.called, studio=found.studio.name)),
    )
    return redirect("people", found.studio_id)


@login_not_required
def join(request: HttpRequest, token: str) -> HttpResponse:
    """Open an invitation: join with one's account, or sign up first."""
    invitation = invitation_of_token(token)
    if invitation is None:
        count_wrong(request)
        return render(request, "people/join_closed.html", status=404)
    request.session["invitation"] = token
    if isinstance(request.user, AnonymousUser):
        return render(request, "people/join.html", {"invitation": invitation, "next": reverse("join", args=[token])})
    if request.method == "POST":
        if not accept(invitation, request.user):
            return render(request, "people/join_closed.html", status=404)
        messages.success(request, str(Message("You joined {studio}.", studio=str(invitation))))
        return redirect("productions")
    is_member = request.user.memberships.filter(studio=invitation.studio).exists()
    return render(request, "people/join.html", {"invitation": invitation, "is_member": is_member})
