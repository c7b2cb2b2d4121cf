"""Accounts and studios. A studio owns all data; memberships define who may do what in it."""

from typing import ClassVar

from django.contrib.auth.base_user import BaseUserManager
from django.contrib.auth.models import AbstractUser
from django.db import models

from tinfork.core.messages import Message


class UserManager(BaseUserManager["User"]):
    """Creates users by email address."""

    def create_user(self, email: str, password: str | None = None, **fields: object) -> "User":
        """Create a user."""
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
    #: The current studio; by default the first one they joined.
    studio = models.ForeignKey("Studio", models.SET_NULL, null=True, related_name="+")
    #: The next step of the tour, from 1; 0 if it is not active. A tour that was left can be resumed there.
    tour_step = models.PositiveSmallIntegerField(default=0)
    has_left_tour = models.BooleanField(default=False)
    #: Mail settings that differ from the default (`news.queries.mailing_of`).
    news_mail = models.JSONField(default=dict, blank=True)
    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects = UserManager()  # type: ignore[assignment,misc]

    @property
    def called(self) -> str:
        """Their name, or the part of their address before the @."""
        return self.name or self.email.partition("@")[0]


class Studio(models.Model):
    """A team, which owns productions and characters.

    `status_names` are its own names of statuses.
    """

    name = models.CharField(max_length=120)
    status_names = models.JSONField(default=dict, blank=True)
    members = models.ManyToManyField(User, through="Membership", related_name="studios")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's membership and role in a studio."""

    class Role(models.TextChoices):
        """Roles from the highest to the lowest; `access.RIGHTS` defines their rights."""

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
    """A link to join a studio, or, without a studio, to sign up and found one.

    Only a digest of its token is stored, so that the database reveals no links. `most_uses` limits how often it works;
    `email` is the address to which it was sent, if any.
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
