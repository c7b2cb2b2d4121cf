"""A shot's sound and what is read in it: one versioned document, its schema in core; every edit to it is kept."""

from dataclasses import replace
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models

from tinfork.apps.cast.models import Chart
from tinfork.apps.common.latest import Latest
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
        st = self._parsed[0]
        stretches = tuple(Pin(s.pk, s.start_us, s.end_us) for s in self.shot.set_stretches.all())
        return replace(st, pins=(*stretches, *st.pins)) if stretches else st

    @property
    def reading(self) -> Reading:
        """What is read in the shot, in its time."""
        return self._parsed[1]

    def store(self, document: dict[str, Any], content: CoreSoundtrack) -> None:
        """Take another document, of which the content is known; pins of stretches of sets are rows of their own."""
        was, reading = self._parsed
        own = replace(content, pins=tuple(p for p in content.pins if p.mouth))
        if (own.voices, own.clips, own.length_us) != (was.voices, was.clips, was.length_us):
            reading = reading_of(own)
        self.document = document | {"pins": [pin for pin in document.get("pins", []) if len(pin) > 3]}
        self.__dict__["_kept"] = self.document, own, reading

    def remember(self) -> None:
        """The row was stored as it is: whoever loads it knows what its document says."""
        self.__dict__["_loaded"] = self.document
        _PARSED.put((self.pk, self.revision, self.changed_at), self._parsed)

    @classmethod
    def from_db(cls, *given: Any, **more: Any) -> "Soundtrack":
        """A row as it is stored: what its document says may be known in this process."""
        row = super().from_db(*given, **more)
        row.__dict__["_loaded"] = row.__dict__.get("document")
        return row

    @property
    def _parsed(self) -> tuple[CoreSoundtrack, Reading]:
        """The document and its reading, worked out once for each document, and once for each row as it is stored."""
        kept: tuple[object, CoreSoundtrack, Reading] | None = self.__dict__.get("_kept")
        if kept is not None and kept[0] is self.document:
            return kept[1], kept[2]
        key = (self.pk, self.revision, self.changed_at) if self.__dict__.get("_loaded") is self.document else None
        known = _PARSED.get(key) if key else None
        if known is None:
            st = soundtrack_from_dict(self.document)
            known = st, reading_of(st)
        if key:
            _PARSED.put(key, known)
        self.__dict__["_kept"] = self.document, *known
        return known


#: Documents as they were read last.
_PARSED: Latest[tuple[int, int, datetime], tuple[CoreSoundtrack, Reading]] = Latest(12)


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
    #: The revision that doing it, or undoing it, gave last.
    revision = models.PositiveIntegerField(default=0)
    #: What the page called it: an edit whose answer was lost on the way is sent again, and done once.
    token = models.CharField(max_length=40, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]


class Version(models.Model):
    """A shot's sound, reading and pins as they were when somebody gave them a name; `beside`, its dials and sets."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="versions")
    name = models.CharField(max_length=80)
    document = models.JSONField()
    beside = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [models.UniqueConstraint(fields=["soundtrack", "name"], name="a_version_s_name_once_a_shot")]


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
