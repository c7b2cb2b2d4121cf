"""Accounts and studios. A studio owns everything; a membership says who may do what in it."""

from typing import ClassVar

from django.contrib.auth.base_user import BaseUserManager
from django.contrib.auth.models import AbstractUser
from django.db import models

from tinfork.core.messages import Message


class UserManager(BaseUserManager["User"]):
    """Users are made by email address."""

    def create_user(self, email: str, password: str | None = None, **fields: object) -> "User":
        """Make and save a user."""
        user = self.model(email=self.normalize_email(email), **fields)
        user.set_password(password)
        user.save()
        return user


class User(AbstractUser):
    """A person, known by email address."""

    username = None  # type: ignore[assignment]
    email = models.EmailField(unique=True)
    name = models.CharField(max_length=80, blank=True)
    picture = models.FileField(blank=True)
    #: The studio they look at, of those they belong to; none: the first.
    studio = models.ForeignKey("Studio", models.SET_NULL, null=True, related_name="+")
    #: The step of the tour that is next, from 1; 0 while it is not taken. Someone who left it may go on there.
    tour_step = models.PositiveSmallIntegerField(default=0)
    has_left_tour = models.BooleanField(default=False)
    #: How kinds of news are mailed, where not as usual (`news.queries.mailing_of`).
    news_mail = models.JSONField(default=dict, blank=True)
    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects = UserManager()  # type: ignore[assignment,misc]

    @property
    def called(self) -> str:
        """The name they gave, or what comes before the @ of their address."""
        return self.name or self.email.partition("@")[0]


class Studio(models.Model):
    """A team; productions and characters belong to it.

    `status_names` is what it calls the statuses of shots, where not as usual.
    """

    name = models.CharField(max_length=120)
    status_names = models.JSONField(default=dict, blank=True)
    members = models.ManyToManyField(User, through="Membership", related_name="studios")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's part in a studio."""

    class Role(models.TextChoices):
        """From who may do most to who may do least; `access.RIGHTS` says what each may do."""

        OWNER = "owner", Message("Owner")
        LEAD = "lead", Message("Lead")
        ANIMATOR = "animator", Message("Animator")
        REVIEWER = "reviewer", Message("Reviewer")
        VIEWER = "viewer", Message("Viewer")

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="memberships")
    user = models.ForeignKey(User, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.ANIMATOR)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["studio", "user"], name="one_membership_each")]


class Invitation(models.Model):
    """A link with which somebody joins a studio, or, without one, makes an account and founds their own.

    Only a digest of its token is kept: what is in the database opens nothing. `most_uses` is how many may come in with
    it; without it, anybody who has it until it ends. `email` is where it was sent, if it was.
    """

    digest = models.CharField(max_length=64, unique=True)
    studio = models.ForeignKey(Studio, models.CASCADE, null=True, related_name="invitations")
    role = models.CharField(max_length=12, choices=Membership.Role.choices, default=Membership.Role.ANIMATOR)
    email = models.EmailField(blank=True)
    most_uses = models.PositiveSmallIntegerField(null=True, default=1)
    uses = models.PositiveIntegerField(default=0)
    by = models.ForeignKey(User, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return str(self.studio or Message("a studio of their own"))
