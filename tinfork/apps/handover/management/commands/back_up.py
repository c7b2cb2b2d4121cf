"""`./run back-up`: export a production as one file, like the page does."""

import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from tinfork.apps.handover.packing import pack_production
from tinfork.apps.produce.models import Production


class Command(BaseCommand):
    """Writes the file atomically."""

    help = "Write a production with everything in it into one file."

    def add_arguments(self, parser: CommandParser) -> None:
        """The production, its studio, and the target file."""
        parser.add_argument("production", help="name of the production")
        parser.add_argument("--studio", default="", help="name of its studio, where several have one of that name")
        parser.add_argument("-o", "--out", type=Path, required=True, help="the file to write: .production.zip")

    def handle(self, *args: Any, **options: Any) -> None:
        """Export the production."""
        named = Production.objects.filter(name=options["production"])
        found = list((named.filter(studio__name=options["studio"]) if options["studio"] else named)[:2])
        if len(found) != 1:
            raise CommandError(
                "Several studios have a production of that name. Say whose: --studio NAME"
                if found
                else "There is no production of that name."
            )
        out: Path = options["out"]
        part = out.with_name(f"{out.name}.part")
        try:
            with part.open("wb") as file:
                pack_production(found[0], file, lambda what, done: print(f"{done:4.0%} {what}", file=sys.stderr))
            part.replace(out)
        except OSError as error:
            raise CommandError(f"{out} could not be written: {error.strerror}") from None
        finally:
            part.unlink(missing_ok=True)
        self.stdout.write(str(out))
