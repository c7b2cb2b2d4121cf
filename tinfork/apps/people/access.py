"""The one place that decides who may see and change what.

A model that belongs to a studio names the way there in `STUDIO_PATH` ("studio",
"production__studio" ...). Everything is reached through `visible` and `reach`; what a person
may not see does not exist for them (404), what they may see but not change is 403.
"""

from typing import TypeVar

from django.core.exceptions import PermissionDenied
from django.db.models import Manager, Model, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404

from tinfork.apps.people.models import Membership, Studio, User

M = TypeVar("M", bound=Model)

_EDITORS = (Membership.Role.OWNER, Membership.Role.ANIMATOR)


def visible(model: type[M], user: User, among: Manager[M] | QuerySet[M] | None = None) -> QuerySet[M]:
    """What a user may see of a model: all that belongs to their studios; `among` others than the usual rows."""
    path = getattr(model, "STUDIO_PATH")  # noqa: B009
    rows = model._default_manager if among is None else among
    objects: QuerySet[M] = rows.filter(**{f"{path}__memberships__user": user})
    return objects


def reach(
    model: type[M], user: User, among: Manager[M] | QuerySet[M] | None = None, *, change: bool = False, **lookup: object
) -> M:
    """One object the user may see, or may change; else 404, or 403."""
    path = getattr(model, "STUDIO_PATH")  # noqa: B009
    found = get_object_or_404(visible(model, user, among).select_related(path), **lookup)
    if change and not may_change(user, studio_of(found)):
        raise PermissionDenied
    return found


def studio_of(item: Model) -> Studio:
    """The studio an object belongs to."""
    owner: object = item
    for step in getattr(item, "STUDIO_PATH").split("__"):  # noqa: B009
        owner = getattr(owner, step)
    if not isinstance(owner, Studio):
        raise TypeError(f"STUDIO_PATH of {type(item).__name__} does not end at a studio.")
    return owner


def may_change(user: User, studio: Studio) -> bool:
    """Whether the user may change things of a studio."""
    return Membership.objects.filter(user=user, studio=studio, role__in=_EDITORS).exists()


def may_make(user: User) -> bool:
    """Whether there is a studio in which the user may make new things."""
    return Membership.objects.filter(user=user, role__in=_EDITORS).exists()


def own_studio(user: User) -> Studio:
    """The studio in which a user makes new things: the first they may change."""
    membership = user.memberships.filter(role__in=_EDITORS).select_related("studio").order_by("pk").first()
    if membership is None:
        raise Http404
    return membership.studio
