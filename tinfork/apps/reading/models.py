"""A shot's sound and what is read in it: one versioned document, its schema in core; every edit to it is kept."""

from dataclasses import replace

from django.conf import settings
from django.db import models

from tinfork.apps.cast.models import Chart
from tinfork.apps.produce.models import Shot
from tinfork.apps.sound.models import Take
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict
from tinfork.core.soundtrack.model import Pin
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.speech.reading import Reading


class Soundtrack(models.Model):
    """Clips, tracks and readings of a shot, and the revision that an edit must have seen.

    `is_read`, `duration_us` and `doubts` repeat what the document says, for lists. `proposal` is who seems to speak
    when, until someone accepts it or not. `settled` are the second looks that someone settled, by their keys.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="soundtrack")
    document = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    takes = models.ManyToManyField(Take, through="TakeUse", related_name="soundtracks")
    is_read = models.BooleanField(default=False)
    duration_us = models.PositiveBigIntegerField(default=0)
    doubts = models.PositiveIntegerField(default=0)
    warnings = models.JSONField(default=list)
    proposal = models.JSONField(null=True)
    settled = models.JSONField(default=list)
    mixes = models.JSONField(default=dict)
    changed_at = models.DateTimeField(auto_now=True)

    @property
    def content(self) -> CoreSoundtrack:
        """The document as the core knows it, with the stretches that people decided about as pins."""
        st = soundtrack_from_dict(self.document)
        stretches = tuple(Pin(s.pk, s.start_us, s.end_us) for s in self.shot.set_stretches.all())
        return replace(st, pins=(*stretches, *(p for p in st.pins if p.mouth)))

    @property
    def reading(self) -> Reading:
        """What is read in the shot, in its time."""
        return reading_of(soundtrack_from_dict(self.document))


class TakeUse(models.Model):
    """A take in a shot's soundtrack: such a take cannot be deleted."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="uses")
    take = models.ForeignKey(Take, models.PROTECT, related_name="uses")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["soundtrack", "take"], name="a_take_once_a_soundtrack")]


class Edit(models.Model):
    """One edit, with the parts of the document before and after it: undo and redo walk them."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="edits")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=40)
    parameters = models.JSONField(default=dict)
    before = models.JSONField()
    after = models.JSONField()
    is_undone = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]


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
