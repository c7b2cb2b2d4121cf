"""A shot's sound and what is read in it: one versioned document, its schema in core; every edit to it is kept."""

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
    """Rows without their timeline, which is long: it is fetched with its lines where it is asked for."""

    def get_queryset(self) -> models.QuerySet["Soundtrack"]:
        return super().get_queryset().defer("timeline")


class Soundtrack(models.Model):
    """Clips, tracks and readings of a shot, and the revision that an edit must have seen.

    The document is kept in three parts: `timeline`, in which lines are named by their numbers; the lines themselves, a
    `ReadLine` each, so that an edit of a word stores one of them; and `annotations`, the pins and notes, which most
    edits are about.

    `is_read` and `duration_us` repeat what the document says, for lists; `looks_left` is how many second looks nobody
    has settled, None until they are counted. `proposal` is who seems to speak
    when, until someone accepts it or not. `settled` are the second looks that someone settled, by their keys.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="soundtrack")
    timeline = models.JSONField()
    annotations = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=1)
    #: The next lasting number that is free for a line, a word, a turn or a note.
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
        """The whole of it, as plain values."""
        return soundtrack_to_dict(self._known.content)

    @property
    def content(self) -> CoreSoundtrack:
        """The document as the core knows it, with the stretches that people decided about as pins."""
        st = self._known.content
        stretches = tuple(Pin(s.pk, s.start_us, s.end_us) for s in self.shot.stretch_rows)
        return replace(st, pins=(*stretches, *st.pins)) if stretches else st

    @property
    def reading(self) -> Reading:
        """What is read in the shot, in its time."""
        return self._known.reading

    @property
    def turns(self) -> Sequence[PlacedTurn]:
        """Who has the word when, in the shot's time."""
        return self._known.turns

    @property
    def placed_lines(self) -> Sequence[PlacedLine]:
        """The lines of the reading, each with the clip it is heard in."""
        return self._known.lines

    @cached_property
    def newest_edit(self) -> "Edit | None":
        """The edit that was made last, undone or not."""
        return self.edits.last()

    @cached_property
    def heard_takes(self) -> "list[Take]":
        """The takes that its clips play."""
        return list(self.takes.all())

    def store(self, content: CoreSoundtrack) -> None:
        """Take another content, to be saved; its pins of stretches of sets are rows of their own."""
        was = self._known
        own = replace(content, pins=tuple(p for p in content.pins if p.mouth))
        # Voices are told by identity: two are the same whatever their numbers.
        if own.voices is not was.content.voices or _sound(own) != _sound(was.content):
            self.timeline = timeline_to_dict(own)
            now = _Known.of(own, was.stored)
        else:
            now = replace(was, content=own)
        self.annotations = annotations_to_dict(own)
        self.__dict__["_now"] = now

    def show(self, content: CoreSoundtrack) -> None:
        """Be as another content says, to be looked at: it cannot be saved."""
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
        """Save the lines that are others than those that are stored."""
        lines = {line.id: line for voice in now.content.voices for line in voice.reading.lines}
        new = [line for number, line in lines.items() if number not in now.stored or now.stored[number][1] is not line]
        gone = now.stored.keys() - lines.keys()
        if not new and not gone:
            return now.stored
        # A mark that no other writing has: a line that is known with it need not be read again.
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
        """The row was stored as it is: whoever loads it knows what its document says."""
        _KNOWN.put(self.pk, (self.revision, self.changed_at, self._known))

    def refresh_from_db(self, using: Any = None, fields: Any = None, from_queryset: Any = None) -> None:
        """As Django does; what the document says is found out anew where all of the row is."""
        super().refresh_from_db(using, fields, from_queryset)
        if fields is None:
            for name in ("_now", "newest_edit", "heard_takes"):
                self.__dict__.pop(name, None)

    @property
    def _known(self) -> "_Known":
        """The document and its reading, worked out once for each row as it is stored."""
        now: _Known | None = self.__dict__.get("_now")
        if now is None:
            now = self._fetched() if self.pk else _Known.stored_as(self.timeline, self.annotations, {})
            self.__dict__["_now"] = now
        return now

    def _fetched(self) -> "_Known":
        """What is stored.

        Where somebody has changed the shot since this row was loaded, all of the row is as it is now.
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
        """The stored lines by number, each with its mark; those that are known from `before` are not read again.

        None where one is gone.
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


#: What is stored is read again where somebody changes it between two questions; so often at most.
_TRIES = 20


def _sound(st: CoreSoundtrack) -> tuple[object, ...]:
    """What is heard, but for what is read in it."""
    return st.tracks, st.clips, st.length_us


@dataclass
class _Known:
    """What a row's document says; its reading, the lines of that and the turns in the shot's time.

    And the lines as they are stored: by number, each with the mark of its writing.
    """

    content: CoreSoundtrack
    reading: Reading
    lines: Sequence[PlacedLine]
    turns: Sequence[PlacedTurn]
    stored: dict[int, tuple[int, Line]]

    @classmethod
    def of(cls, content: CoreSoundtrack, stored: dict[int, tuple[int, Line]]) -> "_Known":
        """That of a content."""
        lines = placed_lines(content)
        return cls(content, reading_from(lines, content.duration_us), lines, placed_turns(content), stored)

    @classmethod
    def stored_as(
        cls, timeline: dict[str, Any], annotations: dict[str, Any], stored: dict[int, tuple[int, Line]]
    ) -> "_Known":
        """That of a row."""
        return cls.of(
            soundtrack_from_parts(timeline, annotations, {number: line for number, (_, line) in stored.items()}), stored
        )


#: Documents as they were read or written last, by row: with the revision and the time of the row.
_KNOWN: RecentCache[int, tuple[int, datetime, _Known]] = RecentCache(12)


class ReadLine(models.Model):
    """A line of a shot's reading, in its take's time, by its lasting number; `mark` is another one at each writing."""

    STUDIO_PATH = "soundtrack__shot__production__studio"

    soundtrack = models.ForeignKey(Soundtrack, models.CASCADE, related_name="lines")
    number = models.PositiveIntegerField()
    mark = models.BigIntegerField()
    content = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["soundtrack", "number"], name="a_line_s_number_once_a_shot")]


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
    """A shot's sound, reading and pins as they were when somebody gave them a name.

    `beside`, its dials, sets and layout. One that `is_kept` was reviewed: it is not deleted, and does not count among
    those that there may be.
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
    """Lines that a job has heard so far, as plain values of a reading: gone once they are in their shot.

    `row` says what they were heard in: clips may be moved before a job goes on.
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
