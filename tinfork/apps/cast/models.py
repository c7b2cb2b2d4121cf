"""Characters: a face, its parts with their places, and for each part charts of drawings, one a mood."""

from collections.abc import Iterator
from pathlib import PurePosixPath
from typing import TypeVar

from django.contrib.postgres.fields import ArrayField
from django.db import models

from tinfork.apps.common.messages import MessageField
from tinfork.apps.people.models import Studio
from tinfork.core.errors import ChartError
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import Chart as CoreChart
from tinfork.core.mouths.chart import Drawing as CoreDrawing
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.pictures.measure import Measures

M = TypeVar("M", bound=models.Model)


def _tracings(what: str) -> "ArrayField[list[str], list[str]]":
    return ArrayField(models.CharField(max_length=200), default=list, blank=True, help_text=what)


def _traced(rows: models.QuerySet[M], field: str) -> Iterator[tuple[str, M]]:
    """The storage keys of tracings, each with its row."""
    for row in rows.iterator():
        yield from ((key, row) for key in getattr(row, field))


class Character(models.Model):
    """A character, for all productions of the studio."""

    STUDIO_PATH = "studio"

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="characters")
    name = models.CharField(max_length=80)
    ink = models.PositiveSmallIntegerField(default=1, help_text="Which of the six speaker colours, 1 to 6.")
    face = models.FileField(blank=True)
    face_aspect = models.FloatField(default=16 / 9, help_text="The face picture's width by its height.")
    face_tracings = _tracings("The same face traced again: stored pictures.")
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "name"], name="character_name_once_a_studio"),
            models.CheckConstraint(condition=models.Q(ink__gte=1, ink__lte=6), name="ink_1_to_6"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def face_suffix(self) -> str:
        """The suffix of the face picture: ".svg", ".png" or ".jpg"."""
        return PurePosixPath(self.face.name or "").suffix

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Character"]]:
        """The storage keys of the face's tracings, with the row."""
        yield from _traced(cls.objects.exclude(face_tracings=[]).only("face_tracings"), "face_tracings")

    @property
    def mouth(self) -> "Part":
        """The mouth, which every character has."""
        return next(part for part in self.parts.all() if part.kind == Part.Kind.MOUTH)


class Part(models.Model):
    """A part of the face with its own drawings, and its place as shares of the face picture's width and height."""

    STUDIO_PATH = "character__studio"

    class Kind(models.TextChoices):
        MOUTH = "mouth", Message("Mouth")
        EYES = "eyes", Message("Eyes")
        PUPILS = "pupils", Message("Pupils")
        BROWS = "brows", Message("Brows")
        OTHER = "other", Message("Other")

    character = models.ForeignKey(Character, models.CASCADE, related_name="parts")
    kind = models.CharField(max_length=10, choices=Kind.choices, default=Kind.MOUTH)
    name = models.CharField(max_length=80)
    x = models.FloatField(default=0.5)
    y = models.FloatField(default=0.65)
    width = models.FloatField(default=0.3)
    angle = models.FloatField(default=0.0)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["character", "name"], name="part_name_once_a_character"),
            models.UniqueConstraint(
                fields=["character"], condition=models.Q(kind="mouth"), name="one_mouth_a_character"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def speaks(self) -> bool:
        """Whether its drawings show sounds."""
        return self.kind == self.Kind.MOUTH

    @property
    def placement(self) -> Placement:
        """The place of its drawings on the face."""
        return Placement(self.x, self.y, self.width, self.character.face_aspect, self.angle)


class Chart(models.Model):
    """A set of drawings of a part, for one mood. Shots begin with the first set of a part."""

    STUDIO_PATH = "part__character__studio"

    part = models.ForeignKey(Part, models.CASCADE, related_name="charts")
    name = models.CharField(max_length=80)
    face = models.FileField(blank=True, help_text="A face that the set brings with it: a head that is turned.")
    face_aspect = models.FloatField(default=16 / 9, help_text="That picture's width by its height.")
    face_places = models.JSONField(
        default=dict, blank=True, help_text="Where parts, by their keys, are on it: x, y, width, angle; null: not seen."
    )
    face_tracings = _tracings("That picture traced again: stored pictures.")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["part", "name"], name="chart_name_once_a_part")]

    def __str__(self) -> str:
        return self.name

    @property
    def character(self) -> Character:
        """The character that it belongs to."""
        return self.part.character

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Chart"]]:
        """The storage keys of its face's tracings, with the row."""
        yield from _traced(cls.objects.exclude(face_tracings=[]).only("face_tracings"), "face_tracings")

    @property
    def face_suffix(self) -> str:
        """The suffix of its own face picture: ".svg", ".png" or ".jpg"."""
        return PurePosixPath(self.face.name or "").suffix

    def placement_of(self, part: Part) -> Placement | None:
        """The place of a part on the set's own face; None if it is hidden there."""
        at = self.face_places.get(str(part.pk), {})
        if at is None:
            return None
        usual = {"x": part.x, "y": part.y, "width": part.width, "angle": part.angle}
        return Placement.from_dict(usual | at, self.face_aspect)

    @property
    def content(self) -> CoreChart:
        """The chart for the solver, without hidden drawings; raises `ChartError` if no drawing shows sounds."""
        drawings = tuple(d.content for d in self.drawings.all() if not d.is_hidden)
        if not any(d.shows for d in drawings):
            raise ChartError(
                "The chart “{name}” of {character} has no sounds yet. Add drawings in Cast and assign sounds to them.",
                name=self.name,
                character=self.character.name,
            )
        return CoreChart(drawings)


class Drawing(models.Model):
    """One drawing of a chart.

    Sizes, point and offset are pixels of its own canvas; `canvas_width` is the width of the usual canvas in these
    pixels, so that a drawing at twice the resolution is not twice as large. `shows` are viseme classes and single
    sounds; `size` is the loudness it is for. `revision` counts changes by the form, so that an older form cannot
    overwrite a newer one.
    """

    STUDIO_PATH = "chart__part__character__studio"

    chart = models.ForeignKey(Chart, models.CASCADE, related_name="drawings")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=80)
    key = models.CharField(max_length=1, blank=True)
    shows = ArrayField(models.CharField(max_length=20), default=list, blank=True)
    size = models.SmallIntegerField(default=0)
    is_hidden = models.BooleanField(default=False)
    position = models.PositiveIntegerField(default=0)
    picture = models.FileField()
    thumb = models.FileField(blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    canvas_width = models.FloatField()
    point_x = models.FloatField()
    point_y = models.FloatField()
    offset_x = models.FloatField(default=0.0)
    offset_y = models.FloatField(default=0.0)
    measures = models.JSONField(null=True, blank=True)
    tracings = _tracings("The same drawing traced again: stored pictures.")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["position", "number"]
        constraints = [
            models.UniqueConstraint(fields=["chart", "number"], name="drawing_number_once_a_chart"),
            models.UniqueConstraint(fields=["chart", "key"], condition=~models.Q(key=""), name="key_once_a_chart"),
            models.CheckConstraint(condition=models.Q(size__gte=-1, size__lte=1), name="small_any_or_big"),
            models.CheckConstraint(condition=models.Q(width__gt=0, height__gt=0), name="a_drawing_has_a_canvas"),
        ]

    def __str__(self) -> str:
        return f"{self.number} {self.name}"

    @property
    def suffix(self) -> str:
        """The suffix of the picture: ".svg" or ".png"."""
        return PurePosixPath(self.picture.name or "").suffix

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Drawing"]]:
        """The storage keys of tracings, with the row."""
        yield from _traced(cls.objects.exclude(tracings=[]).only("tracings"), "tracings")

    @property
    def content(self) -> CoreDrawing:
        """The drawing as a value of the core."""
        return CoreDrawing(self.number, self.name, tuple(self.shows), self.size)

    @property
    def registration(self) -> Registration:
        """Its canvas and registration point."""
        point, offset = (self.point_x, self.point_y), (self.offset_x, self.offset_y)
        return Registration(self.width, self.height, self.canvas_width, *point, *offset)

    @property
    def measured(self) -> Measures | None:
        """Its measures; None before they were taken."""
        return Measures.from_dict(self.measures) if self.measures else None


class ChartStep(models.Model):
    """A change of a chart that can be undone.

    `what` describes it; `before` has the drawings and the part's place before it.
    """

    STUDIO_PATH = "chart__part__character__studio"

    chart = models.ForeignKey(Chart, models.CASCADE, related_name="steps")
    what = MessageField()
    before = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "ChartStep"]]:
        """The storage keys of pictures that undo may restore, with the row."""
        for step in cls.objects.iterator():
            face = step.before.get("face", {})
            yield from ((key, step) for key in [face.get("face"), *face.get("face_tracings", ())] if key)
            for values in step.before["drawings"]:
                yield from ((values[name], step) for name in ("picture", "thumb") if values[name])
                yield from ((key, step) for key in values.get("tracings", ()))


class Page(models.Model):
    """A picture with many drawings on it, to be cut up; `boxes` are [left, top, right, bottom] in its pixels."""

    STUDIO_PATH = "chart__part__character__studio"

    chart = models.ForeignKey(Chart, models.CASCADE, related_name="pages")
    name = models.CharField(max_length=200)
    original = models.FileField()
    picture = models.FileField(blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    gap = models.PositiveIntegerField(default=0)
    parts = models.JSONField(default=list, help_text="What is connected on it: drawings are made up of these.")
    boxes = models.JSONField(default=list)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at"]

    def __str__(self) -> str:
        return self.name
