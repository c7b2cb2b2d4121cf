"""Invitations: links to join a studio, or to sign up with a studio of one's own."""

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

#: How long a link is valid.
VALID = timedelta(days=14)
#: The most valid links of a studio.
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
    """Create an invitation to a studio, or, without one, to found one.

    Returns it with its token, which is not stored.
    """
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
    """Mail the link, which works only once."""
    values = {"invitation": invitation, "address": address, "by": invitation.by.called if invitation.by else ""}
    subject = str(Message("You are invited to {studio}", studio=str(invitation)))
    send_mail(subject, render_to_string("people/invitation.txt", values), None, [invitation.email])


def _open() -> QuerySet[Invitation]:
    unused = Q(most_uses=None) | Q(uses__lt=F("most_uses"))
    return Invitation.objects.filter(unused, withdrawn_at=None, expires_at__gt=timezone.now())


def open_invitations(studio: Studio) -> QuerySet[Invitation]:
    """The valid invitations of a studio."""
    return _open().filter(studio=studio)


def invitation_of_token(token: str) -> Invitation | None:
    """The invitation of a token, if valid."""
    return _open().select_related("studio", "by").filter(digest=digest_of(token)).first()


def invitation_of(request: HttpRequest) -> Invitation | None:
    """The invitation that a visitor opened, if it is still valid; stored in the session during sign-up."""
    token = request.GET.get("invitation") or request.session.get(_IN_SESSION, "")
    found = invitation_of_token(token) if token else None
    if found:
        request.session[_IN_SESSION] = token
    return found


def withdraw_invitation(invitation: Invitation) -> None:
    """Withdraw an invitation at once."""
    Invitation.objects.filter(pk=invitation.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())


@transaction.atomic
def accept(invitation: Invitation, user: User) -> bool:
    """Accept an invitation: the user joins its studio, which becomes their current one.

    Returns whether it had a studio and was valid. An existing member keeps their role.
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
