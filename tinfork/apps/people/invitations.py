"""Invitations: links with which somebody makes an account, in a studio or with one of their own."""

import secrets
from datetime import timedelta

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone

from tinfork.apps.people.models import Invitation, Membership, Studio, User

#: So long a link can be used.
VALID = timedelta(days=14)
_IN_SESSION = "invitation"


def invite(studio: Studio | None = None, role: Membership.Role = Membership.Role.ANIMATOR) -> Invitation:
    """A new invitation: into a studio, or, without one, to found one."""
    return Invitation.objects.create(
        token=secrets.token_urlsafe(24), studio=studio, role=role, expires_at=timezone.now() + VALID
    )


def invitation_of(request: HttpRequest) -> Invitation | None:
    """The invitation that a visitor came with, if it still holds; remembered over the pages of signing up."""
    token = request.GET.get("invitation") or request.session.get(_IN_SESSION, "")
    found = (
        Invitation.objects.filter(token=token, used_by=None, expires_at__gt=timezone.now()).first() if token else None
    )
    if found:
        request.session[_IN_SESSION] = token
    return found


@transaction.atomic
def accept(invitation: Invitation, user: User) -> bool:
    """The invitation is used up by a user, and makes them a member of its studio; whether it has one."""
    used = Invitation.objects.filter(pk=invitation.pk, used_by=None).update(used_by=user)
    if used and invitation.studio:
        Membership.objects.get_or_create(studio=invitation.studio, user=user, defaults={"role": invitation.role})
    return bool(used and invitation.studio)
