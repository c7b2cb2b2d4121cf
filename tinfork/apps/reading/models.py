"""The reading of a shot: one versioned document, its schema in core."""

from django.db import models

from tinfork.apps.produce.models import Shot
from tinfork.core.formats.reading_json import reading_from_dict
from tinfork.core.speech.reading import Reading as CoreReading


class Reading(models.Model):
    """What was read, and the revision that an edit must have seen."""

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="reading")
    document = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    warnings = models.JSONField(default=list)
    read_at = models.DateTimeField(auto_now=True)

    @property
    def content(self) -> CoreReading:
        """The document as the core knows it."""
        return reading_from_dict(self.document)
