"""Pronunciations set by people."""

from django.conf import settings
from django.db import models

from tinfork.apps.produce.models import Production


class Pronunciation(models.Model):
    """The pronunciation of a word (folded) in a language (without its country).

    `sounds` are IPA symbols with spaces.
    """

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="pronunciations")
    language = models.CharField(max_length=20)
    word = models.CharField(max_length=120)
    sounds = models.CharField(max_length=400)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["word", "language"]
        constraints = [
            models.UniqueConstraint(fields=["production", "language", "word"], name="a_word_is_pronounced_one_way")
        ]

    @property
    def symbols(self) -> tuple[str, ...]:
        """Its sounds, one by one."""
        return tuple(self.sounds.split())
