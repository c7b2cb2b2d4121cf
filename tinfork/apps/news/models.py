"""News for a person."""

from django.conf import settings
from django.db import models

from tinfork.apps.common.messages import MessageField
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.messages import Message


class News(models.Model):
    """A piece of news for one person: for example, a remark that mentions them, or a failed job of theirs."""

    class Kind(models.TextChoices):
        """The kind of news; people choose how each is mailed (`queries.mailing_of`)."""

        MENTION = "mention", Message("Someone mentions me")
        REMARK = "remark", Message("Remark on my shot")
        ANSWER = "answer", Message("Reply to me")
        DECISION = "decision", Message("Shot approved, or changes requested")
        STATUS = "status", Message("Status of my shot changed, or a shot assigned to me")
        JOB = "job", Message("My job failed")

    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="news")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    production = models.ForeignKey(Production, models.CASCADE, related_name="+")
    shot = models.ForeignKey(Shot, models.CASCADE, null=True, related_name="+")
    said = MessageField()
    #: The path of the page that it links to.
    address = models.CharField(max_length=200)
    made_at = models.DateTimeField(auto_now_add=True)
    read_at = models.DateTimeField(null=True)
    mailed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["user"], name="news_unread", condition=models.Q(read_at=None))]
