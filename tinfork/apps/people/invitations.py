"""Invitations: links with which somebody joins a studio, or makes an account with a studio of their own."""

from datetime import timedelta

from django.core.mail import send_mail
from django.db import transaction
from django.db.models import F, Q, QuerySet
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.utils import timezone

from tinfork.apps.common.tokens import digest_of, new_token
from tinfork.apps.people.models import Invitation, Membership, Studio, User
from tinfork.core.errors import TimingError
from tinfork.core.messages import Message

#: So long a link can be used.
VALID = timedelta(days=14)
#: Links that a studio may have open at once.
MAX_OPEN = 100
_IN_SESSION = "invitation"


def invite(
    studio: Studio | None = None,
    role: Membership.Role = Membership.Role.ANIMATOR,
    *,
    by: User | None = None,
    email: str = "",
    days: int = VALID.days,
    is_for_many: bool = False,
) -> tuple[Invitation, str]:
    """A new invitation with its token, which is told once: into a studio, or, without one, to found one."""
    if studio and open_invitations(studio).count() >= MAX_OPEN:
        raise TimingError("A studio can have up to {most} open invitations. Withdraw one first.", most=MAX_OPEN)
    token, digest = new_token()
    made = Invitation.objects.create(
        digest=digest,
        studio=studio,
        role=role,
        email=email,
        by=by,
        most_uses=None if is_for_many else 1,
        expires_at=timezone.now() + timedelta(days=days),
    )
    return made, token


def send_invitation(invitation: Invitation, address: str) -> None:
    """Mail the link; it is no use to anybody once it was used."""
    values = {"invitation": invitation, "address": address, "by": invitation.by.called if invitation.by else ""}
    subject = str(Message("You are invited to {studio}", studio=str(invitation)))
    send_mail(subject, render_to_string("people/invitation.txt", values), None, [invitation.email])


def _open() -> QuerySet[Invitation]:
    unused = Q(most_uses=None) | Q(uses__lt=F("most_uses"))
    return Invitation.objects.filter(unused, withdrawn_at=None, expires_at__gt=timezone.now())


def open_invitations(studio: Studio) -> QuerySet[Invitation]:
    """The invitations of a studio that still hold."""
    return _open().filter(studio=studio)


def invitation_of_token(token: str) -> Invitation | None:
    """The invitation of a token, while it holds."""
    return _open().select_related("studio", "by").filter(digest=digest_of(token)).first()


def invitation_of(request: HttpRequest) -> Invitation | None:
    """The invitation that a visitor came with, if it still holds; remembered over the pages of signing up."""
    token = request.GET.get("invitation") or request.session.get(_IN_SESSION, "")
    found = invitation_of_token(token) if token else None
    if found:
        request.session[_IN_SESSION] = token
    return found


def withdraw_invitation(invitation: Invitation) -> None:
    """Nobody comes in with it any more, at once."""
    Invitation.objects.filter(pk=invitation.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())


@transaction.atomic
def accept(invitation: Invitation, user: User) -> bool:
    """Somebody comes in: they are a member of its studio, which they look at from now on; whether it has one and held.

    Who is a member already stays what they are.
    """
    if invitation.studio and invitation.studio.memberships.filter(user=user).exists():
        return True
    used = _open().filter(pk=invitation.pk).update(uses=F("uses") + 1)
    if not used or invitation.studio is None:
        return False
    Membership.objects.create(studio=invitation.studio, user=user, role=invitation.role)
    user.studio = invitation.studio
    user.save(update_fields=["studio"])
    return True
