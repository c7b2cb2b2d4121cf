"""`./run restore`: import a production from a back-up, of this or another installation."""

import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from tinfork.apps.handover.unpacking import unpack_production
from tinfork.apps.people.management.naming import studio_named
from tinfork.core.errors import TinForkError


class Command(BaseCommand):
    """Adds a new production with characters of its own; nothing is replaced."""

    help = "Add the production of a backup to a studio."

    def add_arguments(self, parser: CommandParser) -> None:
        """The file, and the studio."""
        parser.add_argument("file", type=Path)
        parser.add_argument("--studio", required=True, help="name of the studio that it is added to")

    def handle(self, *args: Any, **options: Any) -> None:
        """Import the production."""
        studio = studio_named(options["studio"])
        if not options["file"].is_file():
            raise CommandError(f"There is no file {options['file']}.")

        def say(what: str, done: float) -> None:
            print(f"{done:4.0%} {what}", file=sys.stderr)

        try:
            production = unpack_production(studio, options["file"], None, say, lambda made: None)
        except TinForkError as error:
            raise CommandError(str(error)) from None
        self.stdout.write(production.name)
