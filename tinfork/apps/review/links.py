"""Making, opening and withdrawing review links."""

import hashlib
import secrets
from collections.abc import Sequence
from datetime import timedelta

from django.contrib.auth.hashers import check_password, make_password
from django.core.cache import cache
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.versions import keep_version
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.review.models import ReviewedShot, ReviewLink
from tinfork.core.errors import TimingError

#: Shots that one link may show, and links that a production may have open at once.
MAX_SHOTS = 200
MAX_LINKS = 100
#: Wrong passwords that a link takes in a quarter of an hour.
_MAX_TRIES, _TRIES_S = 10, 900


@transaction.atomic
def make_link(
    *,
    production: Production,
    shots: Sequence[Shot],
    by: User,
    for_whom: str = "",
    days: int | None = None,
    password: str = "",
) -> tuple[ReviewLink, str]:
    """A link for shots as they are now, with its token, which is told once. A version is kept of each shot; a job makes
    the film. Raises `TimingError` where nothing can be shown.
    """
    rows = [(shot, soundtrack_of(shot)) for shot in shots]
    shown = [(shot, row) for shot, row in rows if row.is_read][:MAX_SHOTS]
    if not shown:
        raise TimingError("None of these shots has been read yet. Read their tracks first.")
    if open_links(production) >= MAX_LINKS:
        raise TimingError("A production can have up to {most} open review links. Withdraw one first.", most=MAX_LINKS)
    token = secrets.token_urlsafe(24)
    link = ReviewLink.objects.create(
        production=production,
        digest=_digest(token),
        for_whom=for_whom,
        password=make_password(password) if password else "",
        ends_at=timezone.now() + timedelta(days=days) if days else None,
        by=by,
    )
    start, seconds = 0, 5.0
    for shot, row in shown:
        frames = production.rate.frames_in(row.duration_us)
        version = keep_version(shot=shot, name=f"Review {link.pk}", by=by)
        ReviewedShot.objects.create(link=link, shot=shot, version=version, start=start, frames=frames)
        start += frames
        seconds += row.duration_us / 2_000_000
    start_job(
        kind=Job.Kind.REVIEW,
        on=production,
        by=by,
        options={"link": link.pk},
        lock=f"review:{link.pk}",
        seconds=round(seconds),
    )
    return link, token


def open_links(production: Production) -> int:
    """How many links of a production still open."""
    return sum(link.is_open for link in production.review_links.filter(withdrawn_at=None))


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def link_of(token: str) -> ReviewLink | None:
    """The link of a token, while it opens."""
    link = ReviewLink.objects.select_related("production").filter(digest=_digest(token)).first()
    return link if link and link.is_open and link.production.archived_at is None else None


def withdraw(link: ReviewLink) -> None:
    """It opens no more, at once."""
    ReviewLink.objects.filter(pk=link.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())


def count_opening(link: ReviewLink) -> None:
    """Somebody opened it."""
    ReviewLink.objects.filter(pk=link.pk).update(openings=F("openings") + 1, opened_at=timezone.now())


def is_right_password(link: ReviewLink, password: str) -> bool:
    """Whether a password opens a link; after too many wrong ones none does for a while."""
    key = f"review-tries-{link.pk}"
    cache.add(key, 0, _TRIES_S)
    if cache.incr(key) > _MAX_TRIES:
        raise TimingError("Too many wrong passwords. Wait a quarter of an hour, then try again.")
    if not check_password(password[:200], link.password):
        return False
    cache.delete(key)
    return True
