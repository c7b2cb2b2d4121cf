"""Sending news to people."""

from collections.abc import Iterable
from functools import partial

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from tinfork.apps.news.models import News
from tinfork.apps.news.queries import MAILINGS, NOW, mailing_of
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.messages import Message

#: The most news that are kept for a person.
_KEPT = 1000


def tell(
    users: Iterable[User | None],
    kind: News.Kind,
    said: Message,
    *,
    about: Shot | Production,
    address: str,
    by: User | None = None,
) -> None:
    """Send news to people, each once, but not to the person who caused it, nor to anybody outside the studio.

    Those who want immediate mail get it after the transaction commits.
    """
    production = about.production if isinstance(about, Shot) else about
    wanted = {user.pk for user in users if user} - {by.pk if by else 0}
    for user in production.studio.members.filter(pk__in=wanted):
        made = News.objects.create(
            user=user,
            kind=kind,
            production=production,
            shot=about if isinstance(about, Shot) else None,
            said=said,
            address=address,
        )
        if settings.HAS_MAIL and mailing_of(user)[kind] == NOW:
            transaction.on_commit(partial(_mail, made.pk))
        old = user.news.values_list("pk", flat=True)[_KEPT : _KEPT + 1]
        user.news.filter(pk__lte=next(iter(old), 0)).delete()


def _mail(pk: int) -> None:
    from tinfork.apps.news.tasks import mail_now

    mail_now.defer(news=pk)


def mark_read(user: User) -> None:
    """Mark all of a person's news as read."""
    user.news.filter(read_at=None).update(read_at=timezone.now())


def set_mailing(user: User, wanted: dict[str, str]) -> None:
    """Change how kinds of news are mailed; invalid choices are ignored."""
    known, allowed = {kind.value for kind in News.Kind}, {value for value, _ in MAILINGS}
    chosen = {kind: how for kind, how in wanted.items() if kind in known and how in allowed}
    user.news_mail = user.news_mail | chosen
    user.save(update_fields=["news_mail"])
