"""What was put away: shots and productions stay for 30 days, to be brought back, and go then."""

from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from tinfork.apps.jobs.actions import ask_to_cancel
from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot

#: So long can it be brought back.
KEPT = timedelta(days=30)


@transaction.atomic
def put_away(item: Shot | Production) -> None:
    """Take a shot or a production out of every list; what still works on it is cancelled."""
    type(item).everything.filter(pk=item.pk, archived_at=None).update(archived_at=timezone.now())
    jobs = Job.objects.filter(state__in=Job.OPEN)
    mine = {"shot": item} if isinstance(item, Shot) else {"shot__production": item}
    own = Job.objects.none() if isinstance(item, Shot) else jobs.filter(production=item)
    for job in [*jobs.filter(**mine), *own]:
        ask_to_cancel(job)


@transaction.atomic
def bring_back(item: Shot | Production) -> None:
    """Put it back into its list; under another name where its own is taken by now."""
    kin: dict[str, object]
    kin = {"production": item.production} if isinstance(item, Shot) else {"studio": item.studio}
    names = set(type(item).objects.filter(**kin).values_list("name", flat=True))
    name, number = item.name, 2
    while name in names:
        name, number = f"{item.name[:70]} ({number})", number + 1
    type(item).everything.filter(pk=item.pk).update(archived_at=None, name=name)


@transaction.atomic
def delete_for_good(item: Shot | Production) -> None:
    """Remove it with all that is in it: nothing brings it back."""
    shots = Shot.everything.filter(production=item) if isinstance(item, Production) else [item]
    for shot in shots:
        # Takes are in use as long as there is a soundtrack that has them.
        shot.delete()
    if isinstance(item, Production):
        item.delete()


def delete_old(now: datetime | None = None) -> int:
    """Remove what was put away longer ago than it is kept; how much went."""
    before = (now or timezone.now()) - KEPT
    old: list[Shot | Production] = [
        *Shot.everything.filter(archived_at__lt=before),
        *Production.everything.filter(archived_at__lt=before),
    ]
    for item in old:
        delete_for_good(item)
    return len(old)


def days_left(item: Shot | Production) -> int:
    """How many days it can still be brought back."""
    assert item.archived_at is not None
    return max(0, (item.archived_at + KEPT - timezone.now()).days + 1)
