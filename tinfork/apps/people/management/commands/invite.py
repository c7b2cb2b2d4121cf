"""`./run invite`: a link with which somebody can sign up."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.urls import reverse

from tinfork.apps.people.invitations import VALID, invite
from tinfork.apps.people.management.naming import studio_named
from tinfork.apps.people.models import Membership


class Command(BaseCommand):
    """Prints the link's path; the link works once."""

    help = "Make a link with which somebody makes an account."

    def add_arguments(self, parser: CommandParser) -> None:
        """The studio, and the role in it."""
        parser.add_argument(
            "--studio", default="", help="name of the studio they join; without it they found their own"
        )
        parser.add_argument("--role", default=Membership.Role.ANIMATOR, choices=Membership.Role.values)

    def handle(self, *args: Any, **options: Any) -> None:
        """Create the invitation."""
        studio = studio_named(options["studio"]) if options["studio"] else None
        _, token = invite(studio, Membership.Role(options["role"]))
        self.stdout.write(reverse("join", args=[token]))
        self.stdout.write(f"Put the site's address before it. It can be used once, for {VALID.days} days.")
