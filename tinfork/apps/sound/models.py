"""Takes."""

from django.db import models

from tinfork.apps.produce.models import Production


class Take(models.Model):
    """One recording of a voice.

    `original` is what was brought; `listening` the decoded copy (FLAC, 48 kHz) that is heard and
    handed over; `peaks` the waveform pyramid. A take without `listening` is still arriving.
    """

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="takes")
    name = models.CharField(max_length=200)
    original = models.FileField()
    listening = models.FileField(blank=True)
    peaks = models.FileField(blank=True)
    duration_us = models.PositiveBigIntegerField(default=0)
    channels = models.PositiveSmallIntegerField(default=0)
    rate_hz = models.PositiveIntegerField(default=0)
    note = models.CharField(max_length=300, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(listening="") | models.Q(duration_us__gt=0), name="a_ready_take_has_a_length"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_ready(self) -> bool:
        """Whether it has been decoded."""
        return bool(self.listening)
