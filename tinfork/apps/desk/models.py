"""Who is at a Desk."""

from django.conf import settings
from django.db import models

from tinfork.apps.produce.models import Shot


class Presence(models.Model):
    """Somebody was at a frame of a shot's Desk."""

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="presences")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    frame = models.PositiveIntegerField(default=0)
    seen_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shot", "user"], name="once_at_a_desk")]
