"""News by mail. A mail repeats the page's text and links to it; it contains no secret links."""

from collections import defaultdict
from collections.abc import Sequence

from django.conf import settings
from django.core.mail import send_mail
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone, translation

from tinfork.apps.news.models import News
from tinfork.apps.news.queries import DAILY, mailing_of, unseen
from tinfork.apps.people.models import User
from tinfork.core.messages import Message


def _send(user: User, news: Sequence[News], subject: str) -> None:
    rows = [(str(one.said), settings.SITE_ADDRESS + one.address) for one in news]
    text = render_to_string("news/mail.txt", {"rows": rows, "choose": settings.SITE_ADDRESS + reverse("news")})
    send_mail(" ".join(subject.split())[:200], text, None, [user.email])
    News.objects.filter(pk__in=[one.pk for one in news]).update(mailed_at=timezone.now())


def send_one(pk: int) -> None:
    """Mail one piece of news, once, unless it was read, or its reader left the studio."""
    one = unseen().filter(pk=pk, mailed_at=None).select_related("user").first()
    if one:
        with translation.override(settings.LANGUAGE_CODE):
            _send(one.user, [one], str(one.said))


def send_daily() -> int:
    """Send the daily mails with unseen news; returns how many."""
    waiting = defaultdict(list)
    for one in unseen().filter(mailed_at=None).select_related("user").order_by("pk"):
        waiting[one.user_id].append(one)
    sent = 0
    for news in waiting.values():
        user = news[0].user
        how = mailing_of(user)
        mine = [one for one in news if how[one.kind] == DAILY]
        if mine:
            with translation.override(settings.LANGUAGE_CODE):
                _send(user, mine, str(Message("{count} news from Tin Fork", count=len(mine))))
            sent += 1
    return sent
