"""`./run check-files`: read every referenced stored file, and list the damaged ones."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from tinfork.apps.common.upkeep import check_files, references


class Command(BaseCommand):
    """Fails if a file is damaged."""

    help = "Read every stored file and name those that are missing or damaged."

    def handle(self, *args: Any, **options: Any) -> None:
        """Print a line for each damaged file: the row that references it, and its key."""
        damaged = 0
        for damage in check_files():
            damaged += 1
            self.stdout.write(str(damage))
        total = len(references())
        if damaged:
            raise CommandError(f"{damaged} of {total} stored files are missing or damaged. Import those again.")
        self.stdout.write(f"All {total} stored files are whole.")
