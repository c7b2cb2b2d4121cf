"""Accounts and studios. A studio owns everything; a membership says who may do what in it."""

from typing import ClassVar

from django.contrib.auth.base_user import BaseUserManager
from django.contrib.auth.models import AbstractUser
from django.db import models

from tinfork.core.messages import Message


class UserManager(BaseUserManager["User"]):
    """Users are made by e-mail address."""

    def create_user(self, email: str, password: str | None = None, **fields: object) -> "User":
        """Make and save a user."""
        user = self.model(email=self.normalize_email(email), **fields)
        user.set_password(password)
        user.save()
        return user


class User(AbstractUser):
    """A person, known by e-mail address."""

    username = None  # type: ignore[assignment]
    email = models.EmailField(unique=True)
    #: The step of the tour that is next, from 1; 0 while it is not taken. Someone who left it may go on there.
    tour_step = models.PositiveSmallIntegerField(default=0)
    has_left_tour = models.BooleanField(default=False)
    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects = UserManager()  # type: ignore[assignment,misc]


class Studio(models.Model):
    """A team; productions and characters belong to it."""

    name = models.CharField(max_length=120)
    members = models.ManyToManyField(User, through="Membership", related_name="studios")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's part in a studio."""

    class Role(models.TextChoices):
        OWNER = "owner", Message("Owner")
        ANIMATOR = "animator", Message("Animator")
        VIEWER = "viewer", Message("Viewer")

    studio = models.ForeignKey(Studio, models.CASCADE, related_name="memberships")
    user = models.ForeignKey(User, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.ANIMATOR)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["studio", "user"], name="one_membership_each")]


class Invitation(models.Model):
    """A link with which somebody makes an account, once: into a studio, or, without one, to found their own."""

    token = models.CharField(max_length=64, unique=True)
    studio = models.ForeignKey(Studio, models.CASCADE, null=True, related_name="invitations")
    role = models.CharField(max_length=12, choices=Membership.Role.choices, default=Membership.Role.ANIMATOR)
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_by = models.ForeignKey(User, models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return str(self.studio or Message("a studio of their own"))
