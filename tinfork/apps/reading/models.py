"""A shot's sound and reading: one versioned document, with its schema in core; all edits are stored."""

import secrets
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models
from django.utils.functional import cached_property

from tinfork.apps.cast.models import Character, Chart
from tinfork.apps.common.messages import MessagesField
from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.sound.models import Take
from tinfork.core.errors import TimingError
from tinfork.core.formats.reading_json import line_from_dict, line_to_dict
from tinfork.core.formats.soundtrack_json import (
    annotations_to_dict,
    line_numbers,
    soundtrack_from_parts,
    soundtrack_to_dict,
    timeline_to_dict,
)
from tinfork.core.soundtrack.model import Pin
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.project import PlacedLine, PlacedTurn, placed_lines, placed_turns, reading_from
from tinfork.core.speech.reading import Line, Reading


class _Soundtracks(models.Manager["Soundtrack"]):
    """Rows without their long timeline, which is fetched with its lines when needed."""

    def get_queryset(self) -> models.QuerySet["Soundtrack"]:
        return super().get_queryset().defer("timeline")


class Soundtrack(models.Model):
    """Clips, tracks and readings of a shot, and the revision for detecting conflicts.

    The document is stored in three parts: `timeline`, with lines by their numbers; the lines, a `ReadLine` each, so
    that an edit of a word stores only one of them; and `annotations`, the pins, notes and keys, which most edits
    change. `is_read` and `duration_us` are copies for lists; `looks_left` is the number of open second looks, None if
    not counted yet. `proposal` is an open proposal of who speaks when. `settled` are the keys of settled second looks.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="soundtrack")
    timeline = models.JSONField()
    annotations = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=1)
    #: The next free lasting number of a line, word, turn or note.
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
        """The storage keys of mixes, with the row."""
        for row in cls.objects.exclude(mixes={}).only("mixes", "shot").iterator():
            for mix in row.mixes.values():
                # Old rows have only names of mixes, which are made anew.
                if isinstance(mix, dict):
                    yield mix["key"], row

    @property
    def document(self) -> dict[str, Any]:
        """The whole document, as plain values."""
        return soundtrack_to_dict(self._known.content)

    @property
    def content(self) -> CoreSoundtrack:
        """The document as a value of the core, with set stretches as pins."""
        st = self._known.content
        stretches = tuple(Pin(s.pk, s.start_us, s.end_us) for s in self.shot.stretch_rows)
        return replace(st, pins=(*stretches, *st.pins)) if stretches else st

    @property
    def reading(self) -> Reading:
        """The reading of the shot, in its time."""
        return self._known.reading

    @property
    def turns(self) -> Sequence[PlacedTurn]:
        """The turns, in the shot's time."""
        return self._known.turns

    @property
    def placed_lines(self) -> Sequence[PlacedLine]:
        """The lines of the reading, each with the clip that plays it."""
        return self._known.lines

    @cached_property
    def newest_edit(self) -> "Edit | None":
        """The latest edit, undone or not."""
        return self.edits.last()

    @cached_property
    def heard_takes(self) -> "list[Take]":
        """The takes played by its clips."""
        return list(self.takes.all())

    def store(self, content: CoreSoundtrack) -> None:
        """Set the content, to be saved; its pins of set stretches are separate rows."""
        was = self._known
        own = replace(content, pins=tuple(p for p in content.pins if p.mouth))
        # Compare voices by identity: equality ignores lasting numbers.
        if own.voices is not was.content.voices or _sound(own) != _sound(was.content):
            timeline = timeline_to_dict(own)
            # It has the lines by number: an edit of a word leaves it, which saves writing it.
            if not self.pk or timeline != timeline_to_dict(was.content):
                self.timeline = timeline
            now = _Known.of(own, was.stored)
        else:
            now = replace(was, content=own)
        self.annotations = annotations_to_dict(own)
        self.__dict__["_now"] = now

    def show(self, content: CoreSoundtrack) -> None:
        """Set the content for display only: the row cannot be saved then."""
        self.__dict__["_now"] = _Known.of(content, {})
        self.__dict__["_is_shown"] = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save the row, and its lines."""
        if self.__dict__.get("_is_shown"):
            raise RuntimeError("What another content shows is not this shot's own.")
        super().save(*args, **kwargs)
        if now := self.__dict__.get("_now"):
            now.stored = self._saved_lines(now)

    def _saved_lines(self, now: "_Known") -> "dict[int, tuple[int, Line]]":
        """Save the lines that differ from the stored ones."""
        lines = {line.id: line for voice in now.content.voices for line in voice.reading.lines}
        new = [line for number, line in lines.items() if number not in now.stored or now.stored[number][1] is not line]
        gone = now.stored.keys() - lines.keys()
        if not new and not gone:
            return now.stored
        # A unique mark of each write: a cached line with the same mark is up to date.
        mark = secrets.randbits(62)
        if gone:
            self.lines.filter(number__in=gone).delete()
        rows = [ReadLine(soundtrack=self, number=line.id, mark=mark, content=line_to_dict(line)) for line in new]
        ReadLine.objects.bulk_create(
            rows, update_conflicts=True, unique_fields=["soundtrack", "number"], update_fields=["mark", "content"]
        )
        kept = {number: one for number, one in now.stored.items() if number not in gone}
        return kept | {line.id: (mark, line) for line in new}

    def remember(self) -> None:
        """Cache the parsed document of the stored row."""
        _KNOWN.put(self.pk, (self.revision, self.changed_at, self._known))

    def refresh_from_db(self, using: Any = None, fields: Any = None, from_queryset: Any = None) -> None:
        """Reload like Django does; drops the parsed document if the whole row is reloaded."""
        super().refresh_from_db(using, fields, from_queryset)
        if fields is None:
            for name in ("_now", "newest_edit", "heard_takes"):
                self.__dict__.pop(name, None)

    @property
    def _known(self) -> "_Known":
        """The parsed document and its reading, computed once for each stored state."""
        now: _Known | None = self.__dict__.get("_now")
        if now is None:
            now = self._fetched() if self.pk else _Known.stored_as(self.timeline, self.annotations, {})
            self.__dict__["_now"] = now
        return now

    def _fetched(self) -> "_Known":
        """The stored document.

        If the row changed since it was loaded, all its columns are reloaded.
        """
        revision, changed_at, known = _KNOWN.get(self.pk) or (None, None, None)
        if known and (revision, changed_at) == (self.revision, self.changed_at):
            return known
        for _ in range(_TRIES):
            row = Soundtrack.objects.defer(None).get(pk=self.pk)
            stored = self._read_lines(line_numbers(row.timeline), known.stored if known else {})
            if stored is not None and Soundtrack.objects.filter(pk=self.pk, revision=row.revision).exists():
                break
        else:
            raise TimingError("This shot is being changed too quickly to be shown. Try again.")
        if row.revision != self.revision:
            self.__dict__ |= {field.attname: row.__dict__[field.attname] for field in self._meta.concrete_fields}
        known = _Known.stored_as(row.timeline, row.annotations, stored)
        _KNOWN.put(self.pk, (row.revision, row.changed_at, known))
        return known

    def _read_lines(
        self, numbers: list[int], before: "dict[int, tuple[int, Line]]"
    ) -> "dict[int, tuple[int, Line]] | None":
        """The stored lines by number, each with its mark; those known from `before` are not fetched again.

        None if one is missing.
        """
        marks = dict(self.lines.values_list("number", "mark"))
        if not marks.keys() >= set(numbers):
            return None
        out = {n: before[n] for n in numbers if n in before and before[n][0] == marks[n]}
        missing = set(numbers) - out.keys()
        wanted = self.lines.all() if len(missing) > len(out) else self.lines.filter(number__in=missing)
        for row in wanted:
            if row.number in missing:
                out[row.number] = row.mark, line_from_dict(row.content)
        return out if len(out) == len(numbers) else None


#: How often the document is fetched again if it changes between two queries.
_TRIES = 20


def _sound(st: CoreSoundtrack) -> tuple[object, ...]:
    """The timeline without the reading."""
    return st.tracks, st.clips, st.length_us


@dataclass
class _Known:
    """The parsed document of a row.

    Also its reading with lines and turns in the shot's time, and the stored lines by number, each with its mark.
    """

    content: CoreSoundtrack
    reading: Reading
    lines: Sequence[PlacedLine]
    turns: Sequence[PlacedTurn]
    stored: dict[int, tuple[int, Line]]

    @classmethod
    def of(cls, content: CoreSoundtrack, stored: dict[int, tuple[int, Line]]) -> "_Known":
        """Made from a content."""
        lines = placed_lines(content)
        return cls(content, reading_from(lines, content.duration_us), lines, placed_turns(content), stored)

    @classmethod
    def stored_as(
        cls, timeline: dict[str, Any], annotations: dict[str, Any], stored: dict[int, tuple[int, Line]]
    ) -> "_Known":
        """The cached one of a row."""
        return cls.of(
            soundtrack_from_parts(timeline, annotations, {number: line for number, (_, line) in stored.items()}), stored
        )


#: Parsed documents by row, with the revision and the time of the row.
_KNOWN: RecentCache[int, tuple[int, datetime, _Known]] = RecentCache(12)


class ReadLine(models.Model):
    """A line of a shot's reading, in its take's time, by its lasting number; `mark` is new at each write."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="lines")
    number = models.PositiveIntegerField()
    mark = models.BigIntegerField()
    content = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["soundtrack", "number"], name="a_line_s_number_once_a_shot")]


class TakeUse(models.Model):
    """A take used in a shot's soundtrack, which therefore cannot be deleted."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="uses")
    take = models.ForeignKey(Take, models.PROTECT, related_name="uses")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["soundtrack", "take"], name="a_take_once_a_soundtrack")]


class Edit(models.Model):
    """An edit, with the changed parts of the document before and after it, for undo and redo."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="edits")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=40)
    parameters = models.JSONField(default=dict)
    before = models.JSONField()
    after = models.JSONField()
    is_undone = models.BooleanField(default=False)
    #: The revision after it was last applied or undone.
    revision = models.PositiveIntegerField(default=0)
    #: The page's id of the edit: if the response was lost, the edit is sent again but applied only once.
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
        """The storage keys of backgrounds that undo and redo may restore, with the row."""
        for edit in cls.objects.filter(name__in=("background", "ground", "return")).iterator():
            for parts in (edit.before, edit.after):
                if parts.get("ground") and parts["ground"][1]:
                    yield parts["ground"][1], edit


class Version(models.Model):
    """A named version of a shot's sound, reading and pins; `shot_settings` are its settings: dials, sets and layout.

    One that `is_kept` belongs to a review: it cannot be deleted, and does not count towards the limit.
    """

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="versions")
    name = models.CharField(max_length=80)
    document = models.JSONField()
    shot_settings = models.JSONField(default=dict)
    is_kept = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [models.UniqueConstraint(fields=["soundtrack", "name"], name="a_version_s_name_once_a_shot")]

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Version"]]:
        """The storage keys of backgrounds of versions, with the row."""
        for version in (
            cls.objects.filter(shot_settings__has_key="ground").only("shot_settings", "soundtrack").iterator()
        ):
            if version.shot_settings["ground"][1]:
                yield version.shot_settings["ground"][1], version


class SetStretch(models.Model):
    """A stretch of a shot that shows another set of a character's mouths; in microseconds, without overlaps."""

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
    """A line of the production's script in a take, at `[start_us, end_us)` in the take's time.

    `shot` has the line in its words; None for speech outside the script. `fit` is how well it is said, 1 at best;
    `is_placed`: this one was placed in its shot.
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
    """Lines that a running job has heard so far, as plain values; deleted when they are in their shot.

    `row` identifies the sound: clips may be moved before a job continues.
    """

    STUDIO_PATH = "job__studio"

    job = models.ForeignKey(Job, models.CASCADE, related_name="heard_parts")
    row = models.CharField(max_length=64)
    lines = models.JSONField()

    class Meta:
        ordering = ["pk"]


class KnownVoice(models.Model):
    """The voiceprint of a character in a production's recordings, for recognition in later ones."""

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="known_voices")
    character = models.ForeignKey(Character, models.CASCADE, related_name="+")
    voice = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "character"], name="a_voice_once_a_production")]
