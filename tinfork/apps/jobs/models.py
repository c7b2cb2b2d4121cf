"""Jobs as people see them: progress, cancel, and what went wrong.

The queue itself is procrastinate's; a row here is what a page shows and what outlives a worker.
"""

import uuid

from django.conf import settings
from django.db import models

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.models import Production, Shot


class Job(models.Model):
    """One piece of long work on a shot, a character or a production's takes; `notes` are what to know of a job that
    is done.
    """

    STUDIO_PATH = "studio"

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting for its turn"
        RUNNING = "running", "Running"
        DONE = "done", "Done"
        FAILED = "failed", "Failed"
        CANCELLED = "cancelled", "Cancelled"

    class Kind(models.TextChoices):
        READ = "read", "Reading"
        PICTURES = "pictures", "Picture sequence"
        DRAWINGS = "drawings", "Bringing in drawings"
        PAGE = "page", "Looking at the page"
        CUT = "cut", "Cutting up the page"
        MEND = "mend", "Mending the chart"
        MEASURE = "measure", "Measuring the chart"
        IMPORT = "import", "Importing the character"
        TAKE = "take", "Opening the sound"
        SPEAK = "speak", "Speaking the words"
        LINES = "lines", "Finding the lines"
        REPLACE = "replace", "Replacing the take"
        VOICES = "voices", "Telling the voices apart"
        REEL = "reel", "Opening the story reel"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    kind = models.CharField(max_length=20, choices=Kind.choices)
    studio = models.ForeignKey(Studio, models.CASCADE, related_name="jobs")
    shot = models.ForeignKey(Shot, models.CASCADE, null=True, related_name="jobs")
    character = models.ForeignKey(Character, models.CASCADE, null=True, related_name="jobs")
    production = models.ForeignKey(Production, models.CASCADE, null=True, related_name="jobs")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    phase = models.CharField(max_length=80, blank=True)
    percent = models.PositiveSmallIntegerField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    cancel_asked = models.BooleanField(default=False)
    error = models.TextField(blank=True)
    options = models.JSONField(default=dict)
    notes = models.JSONField(default=list)
    result = models.FileField(blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created_at"]
        constraints = [
            models.CheckConstraint(condition=models.Q(percent__lte=100), name="percent_to_100"),
            models.CheckConstraint(
                condition=models.Q(shot__isnull=False, character__isnull=True, production__isnull=True)
                | models.Q(shot__isnull=True, character__isnull=False, production__isnull=True)
                | models.Q(shot__isnull=True, character__isnull=True, production__isnull=False),
                name="on_a_shot_a_character_or_a_production",
            ),
            models.UniqueConstraint(
                fields=["shot", "kind"],
                condition=models.Q(state__in=["waiting", "running"]),
                name="one_open_job_of_a_kind_a_shot",
            ),
        ]

    #: What a job that was cancelled did keep, in words; written down as it ends.
    kept = ""

    @property
    def subject(self) -> Shot | Character | Production:
        """What it works on."""
        subject = self.shot or self.character or self.production
        assert subject is not None
        return subject

    @property
    def waits_for(self) -> str:
        """What a job that waits is waiting for, in words."""
        if self.kind == self.Kind.READ:
            ahead = Job.objects.filter(
                kind=self.Kind.TAKE, options__shot=self.shot_id, state=self.State.RUNNING
            ).first()
            if ahead:
                return f"{ahead.phase or 'Opening the sound'}, {ahead.percent} %"
        return "waiting for its turn"

    @property
    def is_open(self) -> bool:
        """Whether it still waits or runs."""
        return self.state in (self.State.WAITING, self.State.RUNNING)
