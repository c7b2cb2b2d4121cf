"""Creating, opening and withdrawing review links."""

from collections.abc import Mapping, Sequence
from datetime import timedelta

from django.contrib.auth.hashers import check_password, make_password
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from tinfork.apps.common.tokens import digest_of, forget_count, is_too_often, new_token
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.produce.planning import plan
from tinfork.apps.reading.actions.versions import keep_version
from tinfork.apps.reading.models import Version
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.review.models import ReviewedShot, ReviewLink
from tinfork.core.errors import TimingError

#: The most shots of a link, and valid links of a production.
MAX_SHOTS = 200
MAX_LINKS = 100
#: How long a failed film is not tried again.
_REST = timedelta(minutes=10)
#: The most wrong passwords for a link in a quarter of an hour.
_MAX_TRIES = 10


@transaction.atomic
def make_link(
    *,
    production: Production,
    shots: Sequence[Shot],
    by: User,
    for_whom: str = "",
    days: int | None = None,
    password: str = "",
    is_newest: bool = False,
    burns_name: bool = False,
) -> tuple[ReviewLink, str]:
    """Create a link to the current state of shots; returns it with its token, which is not stored.

    A version of each shot is saved, and a job makes the film. With `is_newest` both are renewed when the link is opened
    after a change; `burns_name` writes the recipient's name on each frame. Raises `TimingError` if nothing can be
    shown.
    """
    shown = [shot for shot in shots if soundtrack_of(shot).is_read][:MAX_SHOTS]
    if not shown:
        raise TimingError("None of these shots has been read yet. Read their tracks first.")
    if open_links(production) >= MAX_LINKS:
        raise TimingError("A production can have up to {most} open review links. Withdraw one first.", most=MAX_LINKS)
    token, digest = new_token()
    link = ReviewLink.objects.create(
        production=production,
        digest=digest,
        for_whom=for_whom,
        password=make_password(password) if password else "",
        ends_at=timezone.now() + timedelta(days=days) if days else None,
        is_newest=is_newest,
        burns_name=burns_name,
        by=by,
    )
    ReviewedShot.objects.bulk_create(ReviewedShot(link=link, shot=shot) for shot in shown)
    _film(link, by)
    open_ones = [shot for shot in shown if shot.status not in (Shot.Status.TO_REVIEW, *Shot.FINISHED)]
    plan(open_ones, by=by, status=Shot.Status.TO_REVIEW)
    return link, token


def _film(link: ReviewLink, by: User | None) -> None:
    """Save a version of each shot of a link, and start the job that makes their film.

    Until it is done, the link shows the film that it has.
    """
    start, seconds, rate = 0, 5.0, link.production.rate
    rows = []
    for one in link.reviewed.select_related("shot__production").filter(shot__archived_at=None).order_by("pk"):
        row = soundtrack_of(one.shot)
        frames = rate.frames_in(row.duration_us)
        version = _version_as_it_is(one.shot, link, by)
        rows.append({"id": one.pk, "version": version.pk, "revision": row.revision, "start": start, "frames": frames})
        start += frames
        seconds += row.duration_us / 2_000_000
    if not link.film:
        show(rows)
    start_job(
        kind=Job.Kind.REVIEW,
        on=link.production,
        by=by,
        options={"link": link.pk, "shots": rows},
        lock=f"review:{link.pk}",
        seconds=round(seconds),
    )


def show(rows: Sequence[Mapping[str, int]]) -> None:
    """Set the content of a link's film: versions of shots, and their places in it."""
    for row in rows:
        ReviewedShot.objects.filter(pk=row["id"]).update(
            version=Version.objects.filter(pk=row["version"]).first(),
            revision=row["revision"],
            start=row["start"],
            frames=row["frames"],
        )


def _version_as_it_is(shot: Shot, link: ReviewLink, by: User | None) -> Version:
    """A version of the current shot; one from another review is reused if nothing changed since."""
    row = soundtrack_of(shot)
    same = Version.objects.filter(soundtrack=row, reviewed__revision=row.revision).first() if row.revision else None
    if same:
        return same
    taken = row.versions.filter(name__startswith=f"Review {link.pk}").count()
    name = f"Review {link.pk}" + (f".{taken + 1}" if taken else "")
    return keep_version(shot=shot, name=name, by=by, is_kept=True)


def renew(link: ReviewLink) -> bool:
    """Start a new film for a link to the newest state if shots changed; returns whether one is coming.

    Concurrent visitors start only one; after a failure it is tried again after a while.
    """
    if not link.is_newest or not _is_behind(link):
        return False
    with transaction.atomic():
        held = ReviewLink.objects.select_for_update().get(pk=link.pk)
        job = Job.objects.filter(kind=Job.Kind.REVIEW, options__link=link.pk).first()
        if job and job.is_open:
            return True
        has_failed = job is not None and job.state == Job.State.FAILED
        if (has_failed and job and timezone.now() - job.created_at < _REST) or not _is_behind(held):
            return False
        _film(held, link.by)
    return True


def _is_behind(link: ReviewLink) -> bool:
    """Whether shots changed since the film of a link was made."""
    rows = link.reviewed.filter(shot__archived_at=None).values_list("revision", "shot__soundtrack__revision")
    return any(shown != now for shown, now in rows)


def open_links(production: Production) -> int:
    """The number of valid links of a production."""
    return sum(link.is_open for link in production.review_links.filter(withdrawn_at=None))


def link_of(token: str) -> ReviewLink | None:
    """The link of a token, if valid."""
    link = ReviewLink.objects.select_related("production").filter(digest=digest_of(token)).first()
    return link if link and link.is_open and link.production.archived_at is None else None


def withdraw(link: ReviewLink) -> None:
    """Withdraw a link at once."""
    ReviewLink.objects.filter(pk=link.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())


def count_opening(link: ReviewLink) -> None:
    """Count an opening of a link."""
    ReviewLink.objects.filter(pk=link.pk).update(openings=F("openings") + 1, opened_at=timezone.now())


def is_right_password(link: ReviewLink, password: str) -> bool:
    """Check a link's password; after too many wrong ones, all are refused for a while."""
    key = f"review-tries-{link.pk}"
    if is_too_often(key, _MAX_TRIES):
        raise TimingError("Too many wrong passwords. Wait a quarter of an hour, then try again.")
    if not check_password(password[:200], link.password):
        return False
    forget_count(key)
    return True
