"""Reference films."""

import json

import numpy as np
from django.conf import settings
from django.db import models

from tinfork.apps.common.messages import MessagesField
from tinfork.apps.produce.models import Shot
from tinfork.core.motion.faces import SIGNALS, FaceTrack


class Reference(models.Model):
    """A film of somebody acting a shot; a shot has one. It is never handed over, and goes at once when it is removed.

    `original` is what came, until it is opened; `film` a small copy that browsers step through; `begins_us` the time of
    the shot at which it begins. `face` is how the face in it is held (`core.motion.faces.Track`), once it was followed;
    `notes` what to know of that.
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
        """How the face in it is held. Only where it was followed."""
        with self.face.open("rb") as file:
            told = json.load(file)
        values = np.array(told["values"], dtype=np.float64).reshape(-1, len(SIGNALS))
        return FaceTrack(np.array(told["times_us"], dtype=np.int64), values, told["found"])

    @property
    def keys(self) -> list[str]:
        """The keys of all its stored files."""
        return [str(field.name) for field in (self.original, self.film, self.face) if field]
