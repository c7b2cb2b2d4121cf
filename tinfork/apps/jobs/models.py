"""Jobs as shown to people: progress, cancelling, errors.

The queue itself is procrastinate's; rows here outlive workers.
"""

import uuid
from collections.abc import Iterator
from datetime import timedelta
from enum import Enum

from django.conf import settings
from django.db import models
from django.utils import timezone

from tinfork.apps.cast.models import Character
from tinfork.apps.common.messages import MessageField, MessagesField
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.messages import Message

#: How long a job that failed on our side can be repeated; its uploads are kept until then.
AGAIN_WITHIN = timedelta(days=30)


class Ending(Enum):
    """Why a job did not succeed."""

    CANCELLED = "cancelled"
    #: The input cannot be used: it is deleted.
    REFUSED = "refused"
    #: Our side failed (a full disk, a killed worker, a bug): the input is kept, and the job can be repeated.
    BROKE = "broke"


class Job(models.Model):
    """A job on a shot, a character, a production's takes, or a studio's cast.

    `notes` are for the person when it is done. `can_retry`: it failed, but not because of its input. `expected_s`: the
    estimated time in seconds.
    """

    STUDIO_PATH = "studio"

    class State(models.TextChoices):
        WAITING = "waiting", Message("Waiting for its turn")
        RUNNING = "running", Message("Running")
        DONE = "done", Message("Done")
        FAILED = "failed", Message("Failed")
        CANCELLED = "cancelled", Message("Cancelled")

    class Kind(models.TextChoices):
        READ = "read", Message("Reading")
        EXPORT = "export", Message("Handing over")
        BACKGROUND = "background", Message("Opening the background")
        PACK = "pack", Message("Backing up the production")
        UNPACK = "unpack", Message("Restoring the production")
        DRAWINGS = "drawings", Message("Importing drawings")
        PAGE = "page", Message("Finding drawings on the sheet")
        CUT = "cut", Message("Cutting the sheet")
        MEND = "mend", Message("Correcting the chart")
        MEASURE = "measure", Message("Measuring the chart")
        IMPORT = "import", Message("Importing the character")
        SET = "set", Message("Importing the set")
        FACE = "face", Message("Opening the face")
        TAKE = "take", Message("Opening the sound")
        SPEAK = "speak", Message("Generating the scratch voice")
        LINES = "lines", Message("Finding the lines")
        REPLACE = "replace", Message("Replacing the take")
        VOICES = "voices", Message("Finding who speaks when")
        REEL = "reel", Message("Opening the story reel")
        SCRIPT = "script", Message("Importing the script into shots")
        FIND = "find", Message("Finding the script's lines")
        REFERENCE = "reference", Message("Opening the reference film")
        FACES = "faces", Message("Following the face")
        REVIEW = "review", Message("Making the review film")
        COMPARE = "compare", Message("Comparing two versions")

    OPEN = (State.WAITING, State.RUNNING)

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    kind = models.CharField(max_length=20, choices=Kind.choices)
    studio = models.ForeignKey(Studio, models.CASCADE, related_name="jobs")
    shot = models.ForeignKey(Shot, models.CASCADE, null=True, related_name="jobs")
    character = models.ForeignKey(Character, models.CASCADE, null=True, related_name="jobs")
    production = models.ForeignKey(Production, models.CASCADE, null=True, related_name="jobs")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    phase = MessageField(blank=True)
    percent = models.PositiveSmallIntegerField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    lock = models.CharField(max_length=80, blank=True)
    expected_s = models.PositiveIntegerField(default=1)
    cancel_asked = models.BooleanField(default=False)
    can_retry = models.BooleanField(default=False)
    error = MessageField(blank=True)
    options = models.JSONField(default=dict)
    notes = MessagesField(default=list)
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
                | models.Q(shot__isnull=True, character__isnull=True, production__isnull=False)
                | models.Q(shot__isnull=True, character__isnull=True, production__isnull=True),
                name="on_one_thing",
            ),
            models.UniqueConstraint(
                fields=["shot", "kind"],
                condition=models.Q(state__in=["waiting", "running"]) & ~models.Q(kind="export"),
                name="one_open_job_of_a_kind_a_shot",
            ),
        ]

    def __str__(self) -> str:
        return str(self.get_kind_display())

    #: File types that browsers can show; no others are opened in the browser.
    SHOWN = ("application/pdf", "video/mp4", "video/webm", "image/gif", "image/webp")

    @property
    def is_shown(self) -> bool:
        """Whether its result can be shown in a browser."""
        return self.options.get("type") in self.SHOWN

    #: What a cancelled job has stored, in words; set when it ends.
    kept = ""

    @property
    def subject(self) -> Shot | Character | Production | Studio:
        """The object that it works on."""
        return self.shot or self.character or self.production or self.studio

    @classmethod
    def more_keys(cls) -> Iterator[tuple[str, "Job"]]:
        """The storage keys of uploads that a job has to open, or may open again, with the row."""
        lately = timezone.now() - AGAIN_WITHIN
        still = models.Q(state__in=cls.OPEN) | models.Q(can_retry=True, ended_at__gte=lately)
        for job in cls.objects.filter(still, options__has_key="files").only("kind", "options").iterator():
            for file in job.options["files"]:
                yield file["key"], job

    @property
    def waits_for(self) -> str:
        """What a waiting job waits for, in words."""
        if self.kind == self.Kind.READ:
            ahead = Job.objects.filter(
                kind=self.Kind.TAKE, options__shot=self.shot_id, state=self.State.RUNNING
            ).first()
            if ahead:
                return str(
                    Message("{phase}, {percent} %", phase=ahead.phase or self.Kind.TAKE.label, percent=ahead.percent)
                )
        return Message("waiting for its turn")

    @property
    def is_open(self) -> bool:
        """Whether it still waits or runs."""
        return self.state in self.OPEN
