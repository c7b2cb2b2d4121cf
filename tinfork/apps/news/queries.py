"""Queries of news and of mail settings."""

from django.db.models import F, QuerySet

from tinfork.apps.news.models import News
from tinfork.apps.people.models import User
from tinfork.core.messages import Message

NOW, DAILY, NEVER = "now", "daily", "never"
MAILINGS = [(NOW, Message("at once")), (DAILY, Message("once a day")), (NEVER, Message("never"))]
#: How each kind is mailed by default.
_USUAL = {
    News.Kind.MENTION: NOW,
    News.Kind.DECISION: NOW,
    News.Kind.REMARK: DAILY,
    News.Kind.ANSWER: DAILY,
    News.Kind.STATUS: NEVER,
    News.Kind.JOB: NEVER,
}
#: The number of news that are listed.
LISTED = 200


def mailing_of(user: User) -> dict[str, str]:
    """A person's mail settings for each kind of news: at once, once a day, or never."""
    allowed = dict(MAILINGS)
    return {
        kind.value: user.news_mail[kind.value] if user.news_mail.get(kind.value) in allowed else _USUAL[kind]
        for kind in News.Kind
    }


def _theirs() -> QuerySet[News]:
    """News from studios to which their readers still belong."""
    return News.objects.filter(production__studio__memberships__user=F("user"))


def unseen() -> QuerySet[News]:
    """Unseen news."""
    return _theirs().filter(read_at=None)


def news_of(user: User) -> QuerySet[News]:
    """A person's news, the newest first."""
    return _theirs().filter(user=user).select_related("production", "shot")[:LISTED]


def unread_of(user: User) -> int:
    """The number of a person's unseen news."""
    return unseen().filter(user=user).count()
