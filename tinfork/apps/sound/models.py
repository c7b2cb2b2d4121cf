"""Takes and story reels."""

from django.db import models

from tinfork.apps.cast.models import Character
from tinfork.apps.common.messages import MessageField
from tinfork.apps.produce.models import Production
from tinfork.core.formats.reading_json import reading_from_dict
from tinfork.core.messages import Message
from tinfork.core.sound.loudness import listening_gain_db
from tinfork.core.speech.reading import Reading


class Take(models.Model):
    """A recording of a voice or of effects.

    `original` is the upload; `listening` the decoded copy (FLAC, 48 kHz) for playing and exports; `peaks` the waveform
    pyramid; `levels` dB per 10 ms as int8. A take without `listening` is not opened yet; `trouble` is the error if that
    failed on our side. `words` and `reading` are its content, in its own time: a shot in which it is placed starts with
    them.
    """

    STUDIO_PATH = "production__studio"

    class Source(models.TextChoices):
        FILE = "file", Message("file")
        RECORDED = "recorded", Message("recorded here")
        SPOKEN = "spoken", Message("scratch voice")
        REEL = "reel", Message("from a story reel")

    production = models.ForeignKey(Production, models.CASCADE, related_name="takes")
    name = models.CharField(max_length=200)
    source = models.CharField(max_length=12, choices=Source.choices, default=Source.FILE)
    speaker = models.ForeignKey(Character, models.SET_NULL, null=True, blank=True, related_name="takes")
    original = models.FileField(blank=True)
    listening = models.FileField(blank=True)
    peaks = models.FileField(blank=True)
    levels = models.FileField(blank=True)
    duration_us = models.PositiveBigIntegerField(default=0)
    channels = models.PositiveSmallIntegerField(default=0)
    rate_hz = models.PositiveIntegerField(default=0)
    loudness = models.FloatField(null=True)
    true_peak_db = models.FloatField(default=0.0)
    findings = models.JSONField(default=list)
    note = MessageField(blank=True)
    trouble = MessageField(blank=True)
    words = models.TextField(blank=True)
    reading = models.JSONField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    @property
    def said_findings(self) -> list[tuple[str, str]]:
        """Its faults: a kind, and a message."""
        return [(finding["kind"], Message.from_dict(finding["text"])) for finding in self.findings]

    class Meta:
        ordering = ["-created_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(listening="") | models.Q(duration_us__gt=0), name="a_ready_take_has_a_length"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_ready(self) -> bool:
        """Whether it was opened."""
        return bool(self.listening)

    @property
    def content(self) -> Reading | None:
        """Its reading."""
        return reading_from_dict(self.reading) if self.reading else None

    @property
    def gain_db(self) -> float:
        """Its gain for listening."""
        return listening_gain_db(self.loudness, self.true_peak_db)


class Reel(models.Model):
    """A story reel: a film as picture reference.

    `film` is a small copy that can be stepped frame by frame.
    """

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="reels")
    name = models.CharField(max_length=200)
    original = models.FileField(blank=True)
    film = models.FileField(blank=True)
    duration_us = models.PositiveBigIntegerField(default=0)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    take = models.ForeignKey(Take, models.SET_NULL, null=True, blank=True, related_name="reels")
    note = MessageField(blank=True)
    trouble = MessageField(blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at", "-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def is_ready(self) -> bool:
        """Whether it was opened."""
        return bool(self.film)
