"""A shot's sound and what is read in it: one versioned document, its schema in core; every edit to it is kept."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models

from tinfork.apps.cast.models import Character, Chart
from tinfork.apps.common.latest import Latest
from tinfork.apps.common.messages import MessagesField
from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.sound.models import Take
from tinfork.core.formats.soundtrack_json import ROWS, heard_to_dict, rows_to_dict, soundtrack_from_dict
from tinfork.core.soundtrack.model import Pin
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.speech.reading import Reading


class _Soundtracks(models.Manager["Soundtrack"]):
    """Rows without what is heard, which is long: it is fetched where it is asked for."""

    def get_queryset(self) -> models.QuerySet["Soundtrack"]:
        return super().get_queryset().defer("heard")


class Soundtrack(models.Model):
    """Clips, tracks and readings of a shot, and the revision that an edit must have seen.

    The document is kept in two parts: `heard`, and `rows`, the pins and notes, which most edits are about.

    `is_read` and `duration_us` repeat what the document says, for lists; `looks_left` is how many second looks nobody
    has settled, None until they are counted. `proposal` is who seems to speak
    when, until someone accepts it or not. `settled` are the second looks that someone settled, by their keys.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="soundtrack")
    heard = models.JSONField()
    rows = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=1)
    #: The next lasting number that is free for a line, a word or a turn.
    next_id = models.PositiveIntegerField(default=1)
    takes = models.ManyToManyField(Take, through="TakeUse", related_name="soundtracks")
    is_read = models.BooleanField(default=False)
    duration_us = models.PositiveBigIntegerField(default=0)
    looks_left = models.PositiveIntegerField(null=True)
    warnings = MessagesField(default=list)
    proposal = models.JSONField(null=True)
    settled = models.JSONField(default=list)
    mixes = models.JSONField(default=dict)
    changed_at = models.DateTimeField(auto_now=True)

    objects = _Soundtracks()

    class Meta:
        base_manager_name = "objects"

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Soundtrack"]]:
        """The mixes that are stored: their keys, with the row."""
        for row in cls.objects.exclude(mixes={}).only("mixes", "shot").iterator():
            for mix in row.mixes.values():
                # Mixes of before they were kept by content are names alone: they are made anew.
                if isinstance(mix, dict):
                    yield mix["key"], row

    @property
    def document(self) -> dict[str, Any]:
        """The whole of it."""
        return {**self.heard, **self.rows}

    @document.setter
    def document(self, document: dict[str, Any]) -> None:
        self.heard = {key: part for key, part in document.items() if key not in ROWS}
        self.rows = {key: document.get(key, []) for key in ROWS}

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

    def store(self, content: CoreSoundtrack) -> None:
        """Take another content; its pins of stretches of sets are rows of their own."""
        was, reading = self._parsed
        own = replace(content, pins=tuple(p for p in content.pins if p.mouth))
        if replace(own, pins=(), notes=()) != replace(was, pins=(), notes=()):
            self.heard = heard_to_dict(own)
            reading = reading_of(own)
        self.rows = rows_to_dict(own)
        self.__dict__["_kept"] = self._parts, own, reading

    def remember(self) -> None:
        """The row was stored as it is: whoever loads it knows what its document says."""
        self.__dict__["_loaded"] = self._parts
        _PARSED.put((self.pk, self.revision, self.changed_at), self._parsed)

    @classmethod
    def from_db(cls, *given: Any, **more: Any) -> "Soundtrack":
        """A row as it is stored: what its document says may be known in this process."""
        row = super().from_db(*given, **more)
        row.__dict__["_loaded"] = row._parts
        return row

    def refresh_from_db(self, using: Any = None, fields: Any = None, from_queryset: Any = None) -> None:
        """As it is stored now. What is heard is of one moment with all the rest: where somebody has changed the shot
        since, all of it is fetched.
        """
        if fields is not None and list(fields) != ["heard"]:
            super().refresh_from_db(using, fields, from_queryset)
            return
        now = Soundtrack.objects.defer(None).get(pk=self.pk)
        if fields is None or now.revision != self.revision:
            names = [field.attname for field in self._meta.concrete_fields]
        else:
            names = ["heard"]
        is_stored = self._is_stored
        self.__dict__ |= {name: now.__dict__[name] for name in names}
        if is_stored or len(names) > 1:
            self.__dict__["_loaded"] = self._parts

    @property
    def _parts(self) -> tuple[object, object]:
        """The parts of the document that are there; None for one that was not fetched."""
        return self.__dict__.get("heard"), self.__dict__.get("rows")

    @property
    def _is_stored(self) -> bool:
        """Whether the document is as it is in the database."""
        return _same(self.__dict__.get("_loaded"), self._parts)

    @property
    def _parsed(self) -> tuple[CoreSoundtrack, Reading]:
        """The document and its reading, worked out once for each document, and once for each row as it is stored."""
        kept: tuple[tuple[object, object], CoreSoundtrack, Reading] | None = self.__dict__.get("_kept")
        if kept is not None and _same(kept[0], self._parts):
            return kept[1], kept[2]
        known = _PARSED.get((self.pk, self.revision, self.changed_at)) if self._is_stored else None
        if known is None:
            st = soundtrack_from_dict(self.document)
            known = st, reading_of(st)
        if self._is_stored:
            # Under the revision that was read: it may be a later one than the row had.
            _PARSED.put((self.pk, self.revision, self.changed_at), known)
        self.__dict__["_kept"] = self._parts, *known
        return known


def _same(one: tuple[object, object] | None, other: tuple[object, object]) -> bool:
    return one is not None and one[0] is other[0] and one[1] is other[1]


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
        indexes = [
            models.Index(fields=["soundtrack", "id"], name="edits_in_order"),
            models.Index(fields=["soundtrack", "revision"], name="edits_by_revision"),
            models.Index(fields=["token"], name="edits_by_token", condition=~models.Q(token="")),
            models.Index(fields=["soundtrack"], name="edits_undone", condition=models.Q(is_undone=True)),
        ]

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Edit"]]:
        """The backgrounds that undo and redo may bring back: their keys, with the row."""
        for edit in cls.objects.filter(name__in=("background", "ground", "return")).iterator():
            for parts in (edit.before, edit.after):
                if parts.get("ground") and parts["ground"][1]:
                    yield parts["ground"][1], edit


class Version(models.Model):
    """A shot's sound, reading and pins as they were when somebody gave them a name; `beside`, its dials, sets and
    layout. One that `is_kept` was reviewed: it is not deleted, and does not count among those that there may be.
    """

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="versions")
    name = models.CharField(max_length=80)
    document = models.JSONField()
    beside = models.JSONField(default=dict)
    is_kept = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [models.UniqueConstraint(fields=["soundtrack", "name"], name="a_version_s_name_once_a_shot")]

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Version"]]:
        """The backgrounds of versions: their keys, with the row."""
        for version in cls.objects.filter(beside__has_key="ground").only("beside", "soundtrack").iterator():
            if version.beside["ground"][1]:
                yield version.beside["ground"][1], version


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


class FoundLine(models.Model):
    """A line of the production's script where a take has it: `[start_us, end_us)` of the take, in the take's time.

    `shot` is the one in whose words it is written; none for what is said and no line has. `fit` is how well it is said,
    as far as can be heard, 1 at best; `is_placed`: of all that were found at once, the one that its shot was given.
    """

    STUDIO_PATH = "take__production__studio"

    take = models.ForeignKey(Take, models.CASCADE, related_name="found_lines")
    shot = models.ForeignKey(Shot, models.CASCADE, null=True, related_name="found_lines")
    speaker = models.CharField(max_length=40, blank=True)
    text = models.TextField()
    start_us = models.PositiveBigIntegerField()
    end_us = models.PositiveBigIntegerField()
    fit = models.FloatField(default=0.0)
    is_placed = models.BooleanField(default=False)

    class Meta:
        ordering = ["take", "start_us"]
        constraints = [
            models.CheckConstraint(condition=models.Q(end_us__gt=models.F("start_us")), name="found_line_has_a_length")
        ]


class HeardPart(models.Model):
    """Lines that a job has heard so far, as plain values of a reading: gone once they are in their shot. `row` says
    what they were heard in: clips may be moved before a job goes on.
    """

    STUDIO_PATH = "job__studio"

    job = models.ForeignKey(Job, models.CASCADE, related_name="heard_parts")
    row = models.CharField(max_length=64)
    lines = models.JSONField()

    class Meta:
        ordering = ["pk"]


class KnownVoice(models.Model):
    """What a character's voice sounds like in a production's recordings, to be known again in the next one."""

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="known_voices")
    character = models.ForeignKey(Character, models.CASCADE, related_name="+")
    voice = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "character"], name="a_voice_once_a_production")]
