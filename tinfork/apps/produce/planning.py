"""Planning shots: status, who does them, due day, order."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from django.db import transaction

from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.models import Production, Shot, StatusChange
from tinfork.apps.produce.models import Sequence as ShotSequence
from tinfork.core.errors import TimingError

MAX_SEQUENCES = 200
_MAX_STATUS_NAME = 30


def status_names(studio: Studio) -> dict[str, str]:
    """A studio's names of the statuses, in the order of the work."""
    return {status.value: studio.status_names.get(status.value) or str(status.label) for status in Shot.Status}


def rename_statuses(studio: Studio, names: dict[str, str]) -> None:
    """Rename statuses; an empty name restores the default."""
    usual = {status.value: str(status.label) for status in Shot.Status}
    kept = {}
    for status, name in names.items():
        plain = " ".join(name.split())[:_MAX_STATUS_NAME]
        if status in usual and plain and plain != usual[status]:
            kept[status] = plain
    Studio.objects.filter(pk=studio.pk).update(status_names=kept)
    studio.status_names = kept


@transaction.atomic
def plan(shots: Iterable[Shot], *, by: User | None, **changes: Any) -> None:
    """Change status, doer, due day, priority or sequence of shots; changes of status are recorded."""
    wanted = [shot.pk for shot in shots]
    rows = Shot.objects.select_for_update().filter(pk__in=wanted)
    if "status" in changes:
        status = Shot.Status(changes["status"])
        StatusChange.objects.bulk_create(
            StatusChange(shot=shot, status=status, by=by) for shot in rows.exclude(status=status)
        )
    Shot.objects.filter(pk__in=wanted).update(**changes)


def begin(shot: Shot, *, by: User | None) -> None:
    """Mark a waiting shot as in progress, since somebody works on it."""
    if shot.status == Shot.Status.WAITING:
        plan([shot], by=by, status=Shot.Status.IN_HAND)
        shot.status = Shot.Status.IN_HAND


@transaction.atomic
def move_shots(
    production: Production, shots: Iterable[Shot], *, place: str = "last", before: Shot | None = None
) -> None:
    """Move shots in their production, keeping their relative order.

    They go before another shot, `first`, `last`, or past the next one `up` or `down`.
    """
    Production.objects.select_for_update().get(pk=production.pk)
    wanted = {shot.pk for shot in shots}
    all_of_them = list(production.shots.values_list("pk", flat=True))
    moved = [pk for pk in all_of_them if pk in wanted]
    order = [pk for pk in all_of_them if pk not in wanted]
    at = {"first": 0, "last": len(order)}.get(place, 0)
    if before and before.pk in order:
        at = order.index(before.pk)
    elif place in ("up", "down") and moved:
        edge = all_of_them.index(moved[0] if place == "up" else moved[-1])
        # The number of staying shots before them, minus or plus one.
        at = sum(pk not in wanted for pk in all_of_them[:edge]) + (1 if place == "down" else -1)
    at = min(max(0, at), len(order))
    order[at:at] = moved
    rows = {shot.pk: shot for shot in production.shots.only("pk", "place")}
    for number, pk in enumerate(order, start=1):
        rows[pk].place = number
    Shot.objects.bulk_update(rows.values(), ["place"], batch_size=500)


def next_place(production: Production) -> int:
    """The place of a new shot: at the end if shots were ordered by hand, else by name."""
    last: int = production.shots.order_by("-place").values_list("place", flat=True).first() or 0
    return last + 1 if last else 0


def sequence_named(production: Production, name: str) -> ShotSequence:
    """The sequence with a name, created if needed. Raises `TimingError` for too many."""
    name = " ".join(name.split())[:80]
    found = production.sequences.filter(name=name).first()
    if found:
        return found
    if production.sequences.count() >= MAX_SEQUENCES:
        raise TimingError("A production can have up to {most} sequences.", most=MAX_SEQUENCES)
    return ShotSequence.objects.create(production=production, name=name)


def packed_plan(shot: Shot) -> dict[str, Any]:
    """A shot's plan for its production's archive, without the person, who belongs to one installation."""
    return {
        "status": shot.status,
        "due": shot.due.isoformat() if shot.due else "",
        "priority": shot.priority,
        "sequence": shot.sequence.name if shot.sequence else "",
        "place": shot.place,
    }


def unpack_plan(shot: Shot, packed: dict[str, Any]) -> None:
    """Store a plan from an archive; raises `ValueError` or `TimingError` for invalid data. Older archives have none."""
    if not packed:
        return
    shot.status = Shot.Status(packed["status"])
    shot.due = date.fromisoformat(packed["due"]) if packed["due"] else None
    shot.priority = Shot.Priority(packed["priority"])
    shot.sequence = sequence_named(shot.production, str(packed["sequence"])) if packed["sequence"] else None
    shot.place = min(max(0, int(packed["place"])), 100_000)
    shot.save(update_fields=["status", "due", "priority", "sequence", "place"])
