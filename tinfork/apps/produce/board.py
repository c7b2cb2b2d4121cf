"""Queries of a production's board, and of one's own work."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db.models import Count, Max, Q, QuerySet
from django.utils import timezone

from tinfork.apps.people.access import RIGHTS, Right, listed
from tinfork.apps.people.models import Membership, User
from tinfork.apps.produce.models import Production, Shot, StatusChange
from tinfork.core.clock import seconds_from_us

#: The weeks over which the pace is measured.
_WEEKS = 4
_WEEK = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class ShotCard:
    """A shot on the board; `moving` is the URL of its animated thumbnail, if it has been read."""

    shot: Shot
    frames: int
    is_late: bool
    remarks: int


def cards_of(production: Production, chosen: Mapping[str, str]) -> list[ShotCard]:
    """The shots of a production that match filters (`who`, `status`, `sequence`, `q`), in their order."""
    shots = _chosen(production.shots.all(), chosen).select_related("soundtrack", "doer", "sequence")
    lists = [f"soundtrack__{name}" for name in ("timeline", "annotations", "proposal", "settled", "warnings")]
    counted = shots.defer(*lists).annotate(remark_count=Count("remarks", filter=Q(remarks__answers_to=None)))
    today = timezone.localdate()
    # Aggregation drops the model's default order.
    return [_card(shot, production, today) for shot in counted.order_by("place", "name")]


def _card(shot: Shot, production: Production, today: date) -> ShotCard:
    soundtrack = getattr(shot, "soundtrack", None)
    frames = production.rate.frames_in(soundtrack.duration_us) if soundtrack else 0
    late = bool(shot.due and shot.due < today and shot.status not in Shot.FINISHED)
    return ShotCard(shot, frames, late, getattr(shot, "remark_count", 0))


def _chosen(shots: QuerySet[Shot], chosen: Mapping[str, str]) -> QuerySet[Shot]:
    who, status, sequence, text = (chosen.get(name, "") for name in ("who", "status", "sequence", "q"))
    if who == "nobody":
        shots = shots.filter(doer=None)
    elif who.isdecimal():
        shots = shots.filter(doer=int(who[:9]))
    if status in Shot.Status.values:
        shots = shots.filter(status=status)
    if sequence == "none":
        shots = shots.filter(sequence=None)
    elif sequence.isdecimal():
        shots = shots.filter(sequence=int(sequence[:9]))
    if text:
        shots = shots.filter(name__icontains=text[:80])
    return shots


def by_status(cards: Iterable[ShotCard], names: Mapping[str, str]) -> list[tuple[str, str, list[ShotCard]]]:
    """The columns of the board: status, its name, its shots."""
    columns: dict[str, list[ShotCard]] = defaultdict(list)
    for card in cards:
        columns[card.shot.status].append(card)
    return [(status, name, columns[status]) for status, name in names.items()]


@dataclass(frozen=True, slots=True)
class Overview:
    """The progress of a production in seconds of picture; `ends` is the day on which it is done at the current pace."""

    seconds: float
    approved: float
    a_week: float
    ends: date | None

    @property
    def left(self) -> float:
        """Seconds that are not approved yet."""
        return self.seconds - self.approved

    @property
    def percent(self) -> int:
        """The approved percentage."""
        return round(100 * self.approved / self.seconds) if self.seconds else 0


def overview_of(production: Production, now: datetime | None = None) -> Overview:
    """Total, approved and weekly seconds, and the day on which it is done at that pace."""
    now = now or timezone.now()
    rows = production.shots.values_list("pk", "status", "soundtrack__duration_us")
    seconds = {pk: seconds_from_us(us or 0) for pk, _, us in rows}
    done = {pk for pk, status, _ in rows if status in Shot.FINISHED}
    approvals = StatusChange.objects.filter(shot__in=done, status=Shot.Status.APPROVED)
    # A shot counts as approved on the day of its first approval since the last time it was reopened.
    newest = approvals.values("shot").annotate(at=Max("made_at")).values_list("shot", "at")
    since = now - _WEEKS * _WEEK
    lately = [(pk, at) for pk, at in newest if at >= since]
    a_week, ends = 0.0, None
    if lately:
        weeks = max(1.0, (now - min(at for _, at in lately)) / _WEEK)
        a_week = sum(seconds[pk] for pk, _ in lately) / weeks
    approved = sum(seconds[pk] for pk in done)
    left = sum(seconds.values()) - approved
    if a_week and left:
        ends = (now + _WEEK * (left / a_week)).date()
    return Overview(sum(seconds.values()), approved, a_week, ends)


@dataclass(frozen=True, slots=True)
class MyWork:
    """A person's work: their own shots, and shots that wait for an approval that they may give."""

    mine: list[ShotCard]
    to_review: list[ShotCard]


def work_of(user: User, most: int = 12) -> MyWork:
    """One's unfinished shots, by due day and priority.

    For those who may approve, also the shots that wait for approval.
    """
    rows = listed(Shot, user).select_related("production", "soundtrack", "doer")
    rows = rows.defer("soundtrack__timeline", "soundtrack__annotations", "soundtrack__proposal")
    today = timezone.localdate()
    mine = rows.filter(doer=user).exclude(status__in=Shot.FINISHED)
    ordered = sorted(mine, key=lambda s: (-s.priority, s.due or date.max, s.place, s.name))
    decides = Membership.objects.filter(user=user, role__in=RIGHTS[Right.LEAD]).exists()
    decides = decides or Membership.objects.filter(user=user, role=Membership.Role.REVIEWER).exists()
    waiting = rows.filter(status=Shot.Status.TO_REVIEW).exclude(doer=user)[:most] if decides else []
    return MyWork(
        [_card(shot, shot.production, today) for shot in ordered[:most]],
        [_card(shot, shot.production, today) for shot in waiting],
    )
