"""Members of a studio and their roles."""

from collections.abc import Sequence

from django.core.exceptions import PermissionDenied
from django.db import transaction

from tinfork.apps.people.access import RIGHTS, Right, Role
from tinfork.apps.people.models import Membership, Studio, User
from tinfork.core.errors import TimingError

_NEEDS_OWNER = "A studio needs an owner. Make somebody else an owner first."


def roles_to_give(by: Membership) -> Sequence[Membership.Role]:
    """The roles that a member may assign: their own and lower ones, if they may assign any."""
    roles = list(Role)
    return roles[roles.index(Role(by.role)) :] if by.role in RIGHTS[Right.LEAD] else []


@transaction.atomic
def set_role(membership: Membership, role: Membership.Role, *, by: Membership) -> None:
    """Change a member's role. Nobody can change somebody with a higher role, and the last owner stays."""
    _need_above(by, membership)
    if role not in roles_to_give(by):
        raise PermissionDenied
    _keep_an_owner(membership, role)
    Membership.objects.filter(pk=membership.pk).update(role=role)


@transaction.atomic
def remove_member(membership: Membership, *, by: Membership) -> None:
    """Remove a member, or leave a studio. Their work stays."""
    if membership.pk != by.pk:
        _need_above(by, membership)
    _keep_an_owner(membership, None)
    membership.delete()


@transaction.atomic
def hand_over_studio(to: Membership, *, by: Membership) -> None:
    """Make another member the owner; the former owner becomes a lead."""
    if by.role != Role.OWNER or to.pk == by.pk:
        raise PermissionDenied
    Membership.objects.filter(pk=to.pk).update(role=Role.OWNER)
    Membership.objects.filter(pk=by.pk).update(role=Role.LEAD)


def _need_above(by: Membership, membership: Membership) -> None:
    if Role(membership.role) not in roles_to_give(by):
        raise PermissionDenied


def _keep_an_owner(membership: Membership, role: Membership.Role | None) -> None:
    """Raise `TimingError` if a studio would lose its last owner. Concurrent changes are serialised."""
    Studio.objects.select_for_update().get(pk=membership.studio_id)
    owners = membership.studio.memberships.filter(role=Role.OWNER)
    if role != Role.OWNER and membership.role == Role.OWNER and not owners.exclude(pk=membership.pk).exists():
        raise TimingError(_NEEDS_OWNER)


def rename_studio(studio: Studio, name: str) -> None:
    """Rename a studio."""
    Studio.objects.filter(pk=studio.pk).update(name=name)


def look_at(user: User, studio: Studio) -> None:
    """Make a studio the user's current one."""
    User.objects.filter(pk=user.pk).update(studio=studio)


def studios_alone(user: User) -> list[Studio]:
    """The studios in which nobody else is."""
    return [studio for studio in user.studios.all() if studio.memberships.count() == 1]


def studios_without_owner(user: User) -> list[Studio]:
    """The studios with other members of which the user is the only owner."""
    mine = user.memberships.filter(role=Role.OWNER).select_related("studio")
    out = []
    for membership in mine:
        others = membership.studio.memberships.exclude(user=user)
        if others.exists() and not others.filter(role=Role.OWNER).exists():
            out.append(membership.studio)
    return out
