"""Characters: a face, a place for the mouth on it, and the drawings of the mouth chart."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from tinfork.apps.people.models import Studio
from tinfork.core.mouths.chart import Chart
from tinfork.core.mouths.chart import Drawing as ChartDrawing
from tinfork.engines.pictures import Placement


class Character(models.Model):
    """Someone who speaks. The mouth's place is in shares of the face picture's width and height."""

    STUDIO_PATH = "studio"

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="characters")
    name = models.CharField(max_length=80)
    ink = models.PositiveSmallIntegerField(default=1, help_text="Which of the six speaker colours, 1 to 6.")
    face = models.FileField(blank=True)
    face_aspect = models.FloatField(default=16 / 9, help_text="The face picture's width by its height.")
    mouth_x = models.FloatField(default=0.5)
    mouth_y = models.FloatField(default=0.5)
    mouth_width = models.FloatField(default=0.25)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "name"], name="character_name_once_a_studio"),
            models.CheckConstraint(condition=models.Q(ink__gte=1, ink__lte=6), name="ink_1_to_6"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def chart(self) -> Chart:
        """The mouth chart as the solver knows it."""
        return Chart(tuple(ChartDrawing(d.number, d.name, tuple(d.visemes)) for d in self.drawings.all()))

    @property
    def placement(self) -> Placement:
        """Where the mouth sits in the picture."""
        return Placement(self.mouth_x, self.mouth_y, self.mouth_width, self.face_aspect)


class Drawing(models.Model):
    """One mouth of a character's chart."""

    STUDIO_PATH = "character__studio"

    character = models.ForeignKey(Character, models.CASCADE, related_name="drawings")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=80)
    visemes = ArrayField(models.CharField(max_length=20), default=list, blank=True)
    picture = models.FileField()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["character", "number"], name="drawing_number_once")]
