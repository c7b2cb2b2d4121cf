"""The reading of a shot: one versioned document, its schema in core."""

from django.db import models

from tinfork.apps.cast.models import Chart
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


class SetStretch(models.Model):
    """A stretch of a shot that shows another set of the character's mouths; kept in time, stretches do not overlap."""

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="set_stretches")
    chart = models.ForeignKey(Chart, models.PROTECT, related_name="stretches")
    start_us = models.PositiveBigIntegerField()
    end_us = models.PositiveBigIntegerField()

    class Meta:
        ordering = ["start_us"]
        constraints = [
            models.CheckConstraint(condition=models.Q(end_us__gt=models.F("start_us")), name="a_stretch_has_a_length")
        ]
