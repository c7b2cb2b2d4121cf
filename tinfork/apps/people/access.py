"""The one place that decides who may see and change what.

A model that belongs to a studio has the lookup path to it in `STUDIO_PATH` ("studio", "production__studio" ...).
Everything is fetched through `visible` and `get_for_user_or_404`: objects that a person may not see do not exist for
them (404), and those they may see but not change give 403.
"""

from enum import StrEnum
from typing import TypeVar

from django.core.exceptions import PermissionDenied
from django.db.models import Manager, Model, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404

from tinfork.apps.people.models import Membership, Studio, User
from tinfork.core.messages import Message

M = TypeVar("M", bound=Model)
Role = Membership.Role


class Right(StrEnum):
    """A right in a studio."""

    SEE = "see"
    REMARK = "remark"
    CHANGE = "change"
    LEAD = "lead"
    OWN = "own"


#: The lowest role that has each right; all higher roles have it, too.
_LEAST = {
    Right.SEE: Role.VIEWER,
    Right.REMARK: Role.REVIEWER,
    Right.CHANGE: Role.ANIMATOR,
    Right.LEAD: Role.LEAD,
    Right.OWN: Role.OWNER,
}
_BY_RANK = list(Role)
RIGHTS: dict[Right, tuple[Membership.Role, ...]] = {
    right: tuple(_BY_RANK[: _BY_RANK.index(least) + 1]) for right, least in _LEAST.items()
}
#: The description of each right for people.
SAID = {
    Right.SEE: Message("See productions and characters, play shots, download what was made"),
    Right.REMARK: Message("Make remarks, answer them, approve shots or request changes"),
    Right.CHANGE: Message("Work on productions, shots, sound and characters; make review links"),
    Right.LEAD: Message("Invite people, change their roles, remove them"),
    Right.OWN: Message("Rename the studio, make owners, hand it over"),
}


def visible(model: type[M], user: User, among: Manager[M] | QuerySet[M] | None = None) -> QuerySet[M]:
    """The rows of a model that a user may see: those of their studios; `among` replaces the default rows."""
    path = getattr(model, "STUDIO_PATH")  # noqa: B009
    rows = model._default_manager if among is None else among
    objects: QuerySet[M] = rows.filter(**{f"{path}__memberships__user": user})
    return objects


def listed(model: type[M], user: User, among: Manager[M] | QuerySet[M] | None = None) -> QuerySet[M]:
    """The rows of a model for lists: those of the user's current studio."""
    path = getattr(model, "STUDIO_PATH")  # noqa: B009
    return visible(model, user, among).filter(**{path: current_studio(user)})


def get_for_user_or_404(
    model: type[M],
    user: User,
    among: Manager[M] | QuerySet[M] | None = None,
    *,
    change: bool = False,
    right: Right = Right.SEE,
    **lookup: object,
) -> M:
    """Get an object that the user may see, change, or has another right to; else 404, or 403."""
    path = getattr(model, "STUDIO_PATH")  # noqa: B009
    found = get_object_or_404(visible(model, user, among).select_related(path), **lookup)
    need(user, studio_of(found), Right.CHANGE if change else right)
    return found


def get_studio_or_404(user: User, pk: int, right: Right = Right.SEE) -> Studio:
    """Get one of a user's studios in which they have a right; else 404, or 403."""
    studio = get_object_or_404(user.studios, pk=pk)
    need(user, studio, right)
    return studio


def need(user: User, studio: Studio, right: Right) -> None:
    """Raise `PermissionDenied` if a user lacks a right in a studio. The user must be a member already."""
    if right is not Right.SEE and not may(user, studio, right):
        raise PermissionDenied


def studio_of(item: Model) -> Studio:
    """The studio an object belongs to."""
    owner: object = item
    for step in getattr(item, "STUDIO_PATH").split("__"):  # noqa: B009
        owner = getattr(owner, step)
    if not isinstance(owner, Studio):
        raise TypeError(f"STUDIO_PATH of {type(item).__name__} does not end at a studio.")
    return owner


def may(user: User, studio: Studio, right: Right) -> bool:
    """Whether a user has a right in a studio."""
    return Membership.objects.filter(user=user, studio=studio, role__in=RIGHTS[right]).exists()


def may_change(user: User, studio: Studio) -> bool:
    """Whether the user may change objects of a studio."""
    return may(user, studio, Right.CHANGE)


def studios_of(user: User) -> list[Studio]:
    """The studios of a user, the current one first: the one they chose last, else the one they joined first."""
    found = [one.studio for one in user.memberships.select_related("studio").order_by("pk")]
    return sorted(found, key=lambda studio: studio.pk != user.studio_id)


def current_studio(user: User) -> Studio | None:
    """The user's current studio."""
    return next(iter(studios_of(user)), None)


def may_make(user: User) -> bool:
    """Whether the user may create objects in their current studio."""
    studio = current_studio(user)
    return studio is not None and may_change(user, studio)


def own_studio(user: User) -> Studio:
    """The studio in which a user creates objects: the current one, if they may change it."""
    studio = current_studio(user)
    if studio is None or not may_change(user, studio):
        raise Http404
    return studio
