"""Load the demo film: a studio, its user, a production, and its shots on their way to be read."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from tinfork.apps.cast.actions.charts import add_set
from tinfork.apps.cast.actions.drawings import add_starter_drawings
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_shot, start_production
from tinfork.apps.reading.actions.reading import start_reading
from tinfork.apps.sound.actions import Brought
from tinfork.core.mouths.style import MOODS, Ink, Style
from tinfork.engines.probing import probe

DEMO = Path(settings.ROOT).parent / "demo"


class Command(BaseCommand):
    """Does nothing where the demo's user is there already."""

    help = "Load the demo film once."

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Make everything in one transaction."""
        film = json.loads((DEMO / "film.json").read_text("utf-8"))
        login = film["login"]
        if User.objects.filter(email=login["email"]).exists():
            return
        user = User.objects.create_user(login["email"], login["password"])
        studio = found_studio(name="Night Bakery Pictures", owner=user)
        for name, mood in film["sets"].items():
            part = studio.characters.get(name="Odalys").mouth
            add_starter_drawings(add_set(part, name=name), drawings=14, style=Style(Ink(), mood=MOODS[mood]))
        about = film["production"]
        production = start_production(studio=studio, name=about["name"], rate=about["rate"], size=tuple(about["size"]))
        for entry in film["shots"]:
            character = studio.characters.get(name=entry["character"])
            shot = add_shot(production=production, name=entry["name"], character=character)
            path = DEMO / entry["sound"]
            brought = [Brought(path.name, path, probe(path))]
            start_reading(shot=shot, words="\n".join(entry["words"]), by=user, brought=brought)
