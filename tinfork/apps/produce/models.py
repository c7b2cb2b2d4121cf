"""Productions and shots."""

from fractions import Fraction

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.core.clock import FrameRate


class Production(models.Model):
    """A film or series: its frame rate is an exact fraction, its picture size in pixels."""

    STUDIO_PATH = "studio"

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="productions")
    name = models.CharField(max_length=120)
    rate_numerator = models.PositiveIntegerField(default=24)
    rate_denominator = models.PositiveIntegerField(default=1)
    width = models.PositiveIntegerField(default=1920, validators=[MinValueValidator(16), MaxValueValidator(8192)])
    height = models.PositiveIntegerField(default=1080, validators=[MinValueValidator(16), MaxValueValidator(8192)])
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created_at"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "name"], name="production_name_once_a_studio"),
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


class Shot(models.Model):
    """One piece of continuous picture: a take, the words said in it, and who says them."""

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="shots")
    name = models.CharField(max_length=80)
    first_frame = models.PositiveIntegerField(default=1)
    character = models.ForeignKey(Character, models.PROTECT, related_name="shots")
    words = models.TextField(blank=True)
    take = models.ForeignKey("sound.Take", models.PROTECT, null=True, blank=True, related_name="shots")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["production", "name"], name="shot_name_once_a_production")]

    def __str__(self) -> str:
        return self.name
