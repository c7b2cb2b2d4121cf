"""Reference films."""

import json

import numpy as np
from django.conf import settings
from django.db import models

from tinfork.apps.common.messages import MessagesField
from tinfork.apps.produce.models import Shot
from tinfork.core.motion.faces import SIGNALS, FaceTrack


class Reference(models.Model):
    """A film of somebody acting a shot; at most one per shot.

    It is never exported, and its files are deleted at once with it. `original` is the upload, until it is opened;
    `film` is a small copy for stepping; `begins_us` is the time in the shot at which it begins. `face` has the measures
    of its face (`core.motion.faces.FaceTrack`), once it was followed; `notes` are about that.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="reference")
    name = models.CharField(max_length=200)
    original = models.FileField(blank=True)
    film = models.FileField(blank=True)
    duration_us = models.PositiveBigIntegerField(default=0)
    begins_us = models.BigIntegerField(default=0)
    face = models.FileField(blank=True)
    notes = MessagesField(default=list)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name

    @property
    def track(self) -> FaceTrack:
        """The measures of its face; only after it was followed."""
        with self.face.open("rb") as file:
            told = json.load(file)
        values = np.array(told["values"], dtype=np.float64).reshape(-1, len(SIGNALS))
        return FaceTrack(np.array(told["times_us"], dtype=np.int64), values, told["found"])

    @property
    def keys(self) -> list[str]:
        """The storage keys of all its files."""
        return [str(field.name) for field in (self.original, self.film, self.face) if field]
