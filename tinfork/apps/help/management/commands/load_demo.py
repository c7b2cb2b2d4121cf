"""Load the demo film: a studio, its user, and a production with jobs that read its shots."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from tinfork.apps.help.sample import film_file, make_sample
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.models import User


class Command(BaseCommand):
    """Creates the demo film unless its user exists already, and sets the user's password."""

    help = "Load the demo film once."

    def add_arguments(self, parser: CommandParser) -> None:
        """The password, if it is not the one in the source."""
        parser.add_argument("--password", default="")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Create everything in one transaction."""
        login = film_file()["login"]
        password = options["password"] or login["password"]
        there = User.objects.filter(email=login["email"]).first()
        if there:
            if not there.check_password(password):
                there.set_password(password)
                there.save(update_fields=["password"])
            return
        user = User.objects.create_user(login["email"], password)
        make_sample(studio=found_studio(name="Night Bakery Pictures", owner=user), by=user)
