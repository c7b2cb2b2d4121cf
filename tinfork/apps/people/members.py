"""Who belongs to a studio, and as what."""

from collections.abc import Sequence

from django.core.exceptions import PermissionDenied
from django.db import transaction

from tinfork.apps.people.access import RIGHTS, Right, Role
from tinfork.apps.people.models import Membership, Studio, User
from tinfork.core.errors import TimingError

_NEEDS_OWNER = "A studio needs an owner. Make somebody else an owner first."


def roles_to_give(by: Membership) -> Sequence[Membership.Role]:
    """The roles that a member may give to others: their own and those below, if they may give any."""
    roles = list(Role)
    return roles[roles.index(Role(by.role)) :] if by.role in RIGHTS[Right.LEAD] else []


@transaction.atomic
def set_role(membership: Membership, role: Membership.Role, *, by: Membership) -> None:
    """Give a member another role. Nobody changes who stands above them; one owner always stays."""
    _need_above(by, membership)
    if role not in roles_to_give(by):
        raise PermissionDenied
    _keep_an_owner(membership, role)
    Membership.objects.filter(pk=membership.pk).update(role=role)


@transaction.atomic
def remove_member(membership: Membership, *, by: Membership) -> None:
    """Take somebody out of a studio, or leave it oneself. What they made stays."""
    if membership.pk != by.pk:
        _need_above(by, membership)
    _keep_an_owner(membership, None)
    membership.delete()


@transaction.atomic
def hand_over_studio(to: Membership, *, by: Membership) -> None:
    """Another member owns the studio from now on; who gave it away is a lead."""
    if by.role != Role.OWNER or to.pk == by.pk:
        raise PermissionDenied
    Membership.objects.filter(pk=to.pk).update(role=Role.OWNER)
    Membership.objects.filter(pk=by.pk).update(role=Role.LEAD)


def _need_above(by: Membership, membership: Membership) -> None:
    if Role(membership.role) not in roles_to_give(by):
        raise PermissionDenied


def _keep_an_owner(membership: Membership, role: Membership.Role | None) -> None:
    """Raise `TimingError` where a studio would be without an owner. Two who do so at once wait for each other."""
    Studio.objects.select_for_update().get(pk=membership.studio_id)
    owners = membership.studio.memberships.filter(role=Role.OWNER)
    if role != Role.OWNER and membership.role == Role.OWNER and not owners.exclude(pk=membership.pk).exists():
        raise TimingError(_NEEDS_OWNER)


def rename_studio(studio: Studio, name: str) -> None:
    """Another name for it."""
    Studio.objects.filter(pk=studio.pk).update(name=name)


def look_at(user: User, studio: Studio) -> None:
    """Lists show this studio from now on, and new things are made in it."""
    User.objects.filter(pk=user.pk).update(studio=studio)


def studios_alone(user: User) -> list[Studio]:
    """The studios that would be without anybody if the user went."""
    return [studio for studio in user.studios.all() if studio.memberships.count() == 1]


def studios_without_owner(user: User) -> list[Studio]:
    """The studios of others besides them that would be without an owner if the user went."""
    mine = user.memberships.filter(role=Role.OWNER).select_related("studio")
    out = []
    for membership in mine:
        others = membership.studio.memberships.exclude(user=user)
        if others.exists() and not others.filter(role=Role.OWNER).exists():
            out.append(membership.studio)
    return out
