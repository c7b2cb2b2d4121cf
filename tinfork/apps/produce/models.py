"""Productions and shots."""

from fractions import Fraction
from typing import TYPE_CHECKING

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.core.clock import FrameRate
from tinfork.core.messages import Message

if TYPE_CHECKING:
    from tinfork.apps.reading.models import SetStretch


class _Productions(models.Manager["Production"]):
    """Rows that are not archived."""

    def get_queryset(self) -> models.QuerySet["Production"]:
        return super().get_queryset().filter(archived_at=None)


class _Shots(models.Manager["Shot"]):
    """Rows that are not archived, themselves or with their production."""

    def get_queryset(self) -> models.QuerySet["Shot"]:
        return super().get_queryset().filter(archived_at=None, production__archived_at=None)


class Production(models.Model):
    """A film or series: its frame rate is an exact fraction, its picture size in pixels.

    `dials` are the default timing of mouths; `presets` are its own named dials. `dropping` are the last choices for
    dropped recordings; `handing_over` has the last options of each exporter (`last`), and named ones (`presets`).
    """

    STUDIO_PATH = "studio"

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="productions")
    name = models.CharField(max_length=120)
    rate_numerator = models.PositiveIntegerField(default=24)
    rate_denominator = models.PositiveIntegerField(default=1)
    width = models.PositiveIntegerField(default=1920, validators=[MinValueValidator(16), MaxValueValidator(8192)])
    height = models.PositiveIntegerField(default=1080, validators=[MinValueValidator(16), MaxValueValidator(8192)])
    #: The default language of its lines and recordings; "" for automatic detection.
    language = models.CharField(max_length=20, blank=True)
    dials = models.JSONField(default=dict)
    presets = models.JSONField(default=dict)
    dropping = models.JSONField(default=dict)
    handing_over = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    objects = _Productions()
    everything = models.Manager["Production"]()

    class Meta:
        ordering = ["-created_at"]
        constraints = [
            models.UniqueConstraint(
                fields=["studio", "name"],
                condition=models.Q(archived_at=None),
                name="production_name_once_a_studio",
            ),
            models.CheckConstraint(condition=models.Q(rate_denominator__gt=0), name="rate_is_a_fraction"),
            models.CheckConstraint(
                condition=models.Q(width__gte=16, width__lte=8192, height__gte=16, height__lte=8192),
                name="picture_size_in_bounds",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def rate(self) -> FrameRate:
        """Frames per second, exactly."""
        return FrameRate(Fraction(self.rate_numerator, self.rate_denominator))

    @property
    def faces(self) -> list[Character]:
        """Up to three of its characters that have a face, in the order of the shots."""
        found = dict.fromkeys(c for shot in self.shots.all() for c in shot.characters if c.face)
        return list(found)[:3]


class Sequence(models.Model):
    """A group of shots: an episode, a scene, whatever a production calls it."""

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="sequences")
    name = models.CharField(max_length=80)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["production", "name"], name="sequence_name_once_a_production")]

    def __str__(self) -> str:
        return self.name


class Shot(models.Model):
    """A shot: one piece of continuous picture, with characters, sound (its soundtrack) and words.

    `words` is its script as text, `language` the default language of its lines. `reel_from_us` is the time of the story
    reel on its first frame. The background is the picture `background`, or else the colour `ground`. For planning it
    has a status, somebody who does it (`doer`), a due day, a priority and a place in the order.
    """

    STUDIO_PATH = "production__studio"

    class Status(models.TextChoices):
        """The status of a shot; a studio may rename them (`Studio.status_names`)."""

        WAITING = "waiting", Message("Waiting")
        IN_HAND = "in_hand", Message("In progress")
        TO_REVIEW = "to_review", Message("To review")
        CHANGES = "changes", Message("Changes requested")
        APPROVED = "approved", Message("Approved")
        HANDED_OVER = "handed_over", Message("Handed over")

    class Priority(models.IntegerChoices):
        """The priority of a shot."""

        HIGH = 1, Message("High")
        USUAL = 0, Message("Usual")
        LOW = -1, Message("Low")

    #: The finished statuses.
    FINISHED = (Status.APPROVED, Status.HANDED_OVER)

    #: Set by `with_cast`, or from a version.
    fetched_cast: "list[ShotCharacter]"
    fetched_stretches: "list[SetStretch]"

    production = models.ForeignKey(Production, models.CASCADE, related_name="shots")
    name = models.CharField(max_length=80)
    first_frame = models.PositiveIntegerField(default=1)
    cast = models.ManyToManyField(Character, through="ShotCharacter", related_name="shots")
    words = models.TextField(blank=True)
    language = models.CharField(max_length=20, default="en-us")
    reel = models.ForeignKey("sound.Reel", models.SET_NULL, null=True, blank=True, related_name="shots")
    reel_from_us = models.BigIntegerField(default=0)
    background = models.FileField(blank=True)
    ground = models.CharField(max_length=7, default="#e9e2d0")
    boil = models.JSONField(
        default=dict, blank=True, help_text="How lines boil: strength and rhythm; nothing: not at all."
    )
    #: The secret in links to the guide at the set; empty without a valid link.
    set_key = models.CharField(max_length=32, blank=True)
    status = models.CharField(max_length=12, choices=Status.choices, default=Status.WAITING)
    doer = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="shots")
    due = models.DateField(null=True, blank=True)
    priority = models.SmallIntegerField(choices=Priority.choices, default=Priority.USUAL)
    sequence = models.ForeignKey(Sequence, models.SET_NULL, null=True, blank=True, related_name="shots")
    place = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    objects = _Shots()
    everything = models.Manager["Shot"]()

    class Meta:
        ordering = ["place", "name"]
        constraints = [
            models.UniqueConstraint(
                fields=["production", "name"], condition=models.Q(archived_at=None), name="shot_name_once_a_production"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def characters(self) -> list[Character]:
        """The characters in this shot; the first one says lines without a name."""
        return [part.character for part in self.cast_rows]

    @property
    def cast_rows(self) -> "list[ShotCharacter]":
        """The rows of its characters, in order: those that `with_cast` fetched, or else from the database."""
        fetched: list[ShotCharacter] | None = getattr(self, "fetched_cast", None)
        return list(self.parts.all()) if fetched is None else fetched

    @property
    def stretch_rows(self) -> "list[SetStretch]":
        """The stretches with other sets of mouths: those that `with_cast` fetched, or else from the database."""
        fetched: list[SetStretch] | None = getattr(self, "fetched_stretches", None)
        return list(self.set_stretches.all()) if fetched is None else fetched

    @property
    def character(self) -> Character:
        """Its first character."""
        return self.characters[0]


class ShotCharacter(models.Model):
    """A character in a shot, with its own dials there; a shot has at least one.

    `stand` is its place in the picture (`core.scene.layout.Stand`); empty if nobody has placed it.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="parts")
    character = models.ForeignKey(Character, models.PROTECT, related_name="+")
    place = models.PositiveSmallIntegerField()
    dials = models.JSONField(default=dict)
    stand = models.JSONField(default=dict)

    class Meta:
        ordering = ["place", "pk"]
        constraints = [models.UniqueConstraint(fields=["shot", "character"], name="a_character_once_a_shot")]


class StatusChange(models.Model):
    """A change of a shot's status: when, by whom, to which. A production's pace is computed from these."""

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="status_changes")
    status = models.CharField(max_length=12, choices=Shot.Status.choices)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]


class MovingPicture(models.Model):
    """The animated thumbnail of a shot at a revision of its soundtrack."""

    STUDIO_PATH = "shot__production__studio"

    shot = models.OneToOneField(Shot, models.CASCADE, related_name="moving")
    picture = models.FileField()
    revision = models.PositiveIntegerField()
