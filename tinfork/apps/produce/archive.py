"""Archived shots and productions: they can be restored for 30 days, and are deleted then."""

from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from tinfork.apps.jobs.actions import ask_to_cancel
from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot

#: How long it can be restored.
KEPT = timedelta(days=30)


@transaction.atomic
def put_away(item: Shot | Production) -> None:
    """Archive a shot or a production: it leaves all lists, and its jobs are cancelled."""
    type(item).everything.filter(pk=item.pk, archived_at=None).update(archived_at=timezone.now())
    jobs = Job.objects.filter(state__in=Job.OPEN)
    mine = {"shot": item} if isinstance(item, Shot) else {"shot__production": item}
    own = Job.objects.none() if isinstance(item, Shot) else jobs.filter(production=item)
    for job in [*jobs.filter(**mine), *own]:
        ask_to_cancel(job)


@transaction.atomic
def bring_back(item: Shot | Production) -> None:
    """Restore it, under another name if its own is taken now."""
    kin: dict[str, object]
    kin = {"production": item.production} if isinstance(item, Shot) else {"studio": item.studio}
    names = set(type(item).objects.filter(**kin).values_list("name", flat=True))
    name, number = item.name, 2
    while name in names:
        name, number = f"{item.name[:70]} ({number})", number + 1
    type(item).everything.filter(pk=item.pk).update(archived_at=None, name=name)


@transaction.atomic
def delete_for_good(item: Shot | Production) -> None:
    """Delete it with all its content for good."""
    shots = Shot.everything.filter(production=item) if isinstance(item, Production) else [item]
    for shot in shots:
        # Takes cannot be deleted as long as a soundtrack uses them.
        shot.delete()
    if isinstance(item, Production):
        item.delete()


def delete_old(now: datetime | None = None) -> int:
    """Delete what was archived too long ago; returns how many."""
    before = (now or timezone.now()) - KEPT
    old: list[Shot | Production] = [
        *Shot.everything.filter(archived_at__lt=before),
        *Production.everything.filter(archived_at__lt=before),
    ]
    for item in old:
        delete_for_good(item)
    return len(old)


def days_left(item: Shot | Production) -> int:
    """The days for which it can still be restored."""
    assert item.archived_at is not None
    return max(0, (item.archived_at + KEPT - timezone.now()).days + 1)
