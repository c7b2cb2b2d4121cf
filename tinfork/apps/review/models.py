"""Review links with the film they show, remarks on frames, and decisions."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.models import Version
from tinfork.core.messages import Message

MAX_REMARK_CHARACTERS = 2_000


class ReviewLink(models.Model):
    """A link that shows shots to anybody who has it, until it expires or is withdrawn.

    It shows them as they were when it was made, or, with `is_newest`, as they are when it is opened.

    `burns_name`: the film has the recipient's name on each frame. Only a digest of the token is stored (SHA-256), so
    that the database reveals no links. `film` has all shots in order; it exists after its job is done.
    """

    STUDIO_PATH = "production__studio"

    production = models.ForeignKey(Production, models.CASCADE, related_name="review_links")
    digest = models.CharField(max_length=64, unique=True)
    for_whom = models.CharField(max_length=80, blank=True)
    password = models.CharField(max_length=128, blank=True)
    film = models.FileField(blank=True)
    is_newest = models.BooleanField(default=False)
    burns_name = models.BooleanField(default=False)
    ends_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)
    openings = models.PositiveIntegerField(default=0)
    opened_at = models.DateTimeField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    @property
    def is_open(self) -> bool:
        """Whether it is valid."""
        return self.withdrawn_at is None and (self.ends_at is None or self.ends_at > timezone.now())


class ReviewedShot(models.Model):
    """A shot in a link's film.

    Its first frame there (at the production's rate) and number of frames, its saved version, and the revision of its
    soundtrack.
    """

    STUDIO_PATH = "link__production__studio"

    link = models.ForeignKey(ReviewLink, models.CASCADE, related_name="reviewed")
    shot = models.ForeignKey(Shot, models.CASCADE, related_name="reviewed")
    version = models.ForeignKey(Version, models.SET_NULL, null=True, related_name="reviewed")
    revision = models.PositiveIntegerField(default=0)
    start = models.PositiveIntegerField(default=0)
    frames = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["link", "start", "pk"]
        constraints = [models.UniqueConstraint(fields=["link", "shot"], name="shot_once_a_review_link")]


class Remark(models.Model):
    """A remark on a frame or a stretch of a shot, through a link or by a member; or an answer to one.

    It is about `[at_us, end_us)` of the shot as it was then, and has a picture of the first frame. It is anchored to a
    word (`word` and its `clip`, 0 for none), `offset_us` after its start, and moves with it. `drawing` is drawn on the
    picture (`review.drawings`), `shown` a hash of the mouths there.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="remarks")
    link = models.ForeignKey(ReviewLink, models.SET_NULL, null=True, related_name="remarks")
    answers_to = models.ForeignKey("self", models.CASCADE, null=True, related_name="answers")
    at_us = models.PositiveBigIntegerField(default=0)
    end_us = models.PositiveBigIntegerField(default=0)
    word = models.PositiveBigIntegerField(default=0)
    clip = models.PositiveBigIntegerField(default=0)
    offset_us = models.BigIntegerField(default=0)
    drawing = models.JSONField(default=list, blank=True)
    picture = models.FileField(blank=True)
    shown = models.CharField(max_length=16, blank=True)
    mentions = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="mentioned_in")
    text = models.TextField(max_length=MAX_REMARK_CHARACTERS)
    name = models.CharField(max_length=80)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at_us", "pk"]


class Decision(models.Model):
    """An approval of a version of a shot, or a request for changes; the newest counts."""

    STUDIO_PATH = "shot__production__studio"

    class Verdict(models.TextChoices):
        APPROVED = "approved", Message("Approved")
        CHANGES = "changes", Message("Changes requested")

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="decisions")
    link = models.ForeignKey(ReviewLink, models.SET_NULL, null=True, related_name="decisions")
    version = models.ForeignKey(Version, models.SET_NULL, null=True, related_name="+")
    #: The shot's revision of the decision, which does not apply to later ones.
    revision = models.PositiveIntegerField(default=0)
    verdict = models.CharField(max_length=12, choices=Verdict.choices)
    name = models.CharField(max_length=80)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]


class Comparison(models.Model):
    """Two states of a shot side by side in one film: a version, and another one or the shot at a revision.

    `differs` are the stretches of frames `[first, end)` with different pictures.
    """

    STUDIO_PATH = "shot__production__studio"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="comparisons")
    before = models.ForeignKey(Version, models.CASCADE, related_name="+")
    after = models.ForeignKey(Version, models.CASCADE, null=True, related_name="+")
    revision = models.PositiveIntegerField(default=0)
    film = models.FileField(blank=True)
    frames = models.PositiveIntegerField(default=0)
    differs = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
