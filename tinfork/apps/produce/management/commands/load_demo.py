"""Load the demo film: a studio, its user, a production, and its shots on their way to be read."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from tinfork.apps.cast.actions.characters import add_part, set_face
from tinfork.apps.cast.actions.charts import add_set
from tinfork.apps.cast.actions.drawings import add_starter_drawings, keep_prepared
from tinfork.apps.cast.models import Character, Drawing, Part
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.people.actions import found_studio
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_shot, start_production
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.placing import bring_sounds, start_reel
from tinfork.apps.reading.actions.reading import start_reading
from tinfork.apps.reading.ways import Asked
from tinfork.apps.script.actions import make_character
from tinfork.apps.sound.actions import Brought
from tinfork.core.mouths.chart import KEYS
from tinfork.core.mouths.style import MOODS, Ink, Style
from tinfork.core.scene.layout import Stand
from tinfork.core.soundtrack.model import EFFECTS
from tinfork.engines.characters import prepare_face
from tinfork.engines.drawings import prepare
from tinfork.engines.probing import probe

DEMO = Path(settings.ROOT).parent / "demo"
FACES = DEMO / "faces"


class Command(BaseCommand):
    """Makes the demo film unless its user is there already; the user's password is the one that is said."""

    help = "Load the demo film once."

    def add_arguments(self, parser: CommandParser) -> None:
        """The password, where it is not the one in the source."""
        parser.add_argument("--password", default="")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Make everything in one transaction."""
        film = json.loads((DEMO / "film.json").read_text("utf-8"))
        login = film["login"]
        password = options["password"] or login["password"]
        there = User.objects.filter(email=login["email"]).first()
        if there:
            if not there.check_password(password):
                there.set_password(password)
                there.save(update_fields=["password"])
            return
        user = User.objects.create_user(login["email"], password)
        studio = found_studio(name="Night Bakery Pictures", owner=user)
        for name, mood in film["sets"].items():
            part = studio.characters.get(name="Odalys").mouth
            add_starter_drawings(add_set(part, name=name), drawings=14, style=Style(Ink(), mood=MOODS[mood]))
        about = film["production"]
        production = start_production(studio=studio, name=about["name"], rate=about["rate"], size=tuple(about["size"]))
        for name in film["made"]:
            make_character(studio, name)
        for name, about_face in film["faces"].items():
            _give_face(studio.characters.get(name=name), about_face)
        for entry in film["shots"]:
            cast = [studio.characters.get(name=name) for name in (entry["character"], *entry.get("others", ()))]
            shot = add_shot(production=production, name=entry["name"], character=cast[0], others=cast[1:])
            _lay_out(shot, entry)
            self._sound(production, shot, entry, film, user)

    def _sound(self, production: Production, shot: Shot, entry: Any, film: Any, user: User) -> None:
        """Its sound and words on their way; effects and story reel where it has them."""
        start_reading(
            shot=shot, asked=Asked("\n".join(entry["words"]), acts=True), by=user, brought=[_look(entry["sound"])]
        )
        if "effect_at" in entry:
            bring_sounds(production=production, brought=[_look(film["effect"])], by=user, shot=shot, kind=EFFECTS)
        if entry.get("reel"):
            path = DEMO / film["reel"]
            start_reel(production=production, brought=Brought(path.name, path), by=user, shot=shot)


def _look(name: str) -> Brought:
    path = DEMO / name
    return Brought(path.name, path, probe(path))


def _give_face(character: Character, about: Any) -> None:
    """A face picture of ours, where the mouth is on it, and what else on it is a part of its own."""
    set_face(character, *prepare_face((FACES / about["picture"]).read_bytes(), about["picture"]))
    if "mouth" in about:
        mouth = character.mouth
        mouth.x, mouth.y, mouth.width = about["mouth"]
        mouth.save()
    for one in about["parts"]:
        _give_part(character, one)


def _give_part(character: Character, about: Any) -> None:
    """A part with one drawing, on a canvas of the face's own: it moves about the point that it is registered on."""
    chart = add_part(character, kind=about["kind"], name=about["name"])
    x, y = about["at"]
    Part.objects.filter(pk=chart.part_id).update(x=x, y=y, width=1.0)
    drawing = prepare(FACES / about["picture"], about["picture"])[0]
    row = Drawing(
        chart=chart,
        number=1,
        name="open",
        key=KEYS[0],
        canvas_width=drawing.width,
        point_x=x * drawing.width,
        point_y=y * drawing.height,
    )
    keep_prepared(row, drawing)
    row.save()


def _lay_out(shot: Shot, entry: Any) -> None:
    """What is behind everyone, and where they stand."""
    data, suffix, _ = prepare_face((DEMO / "backgrounds" / entry["background"]).read_bytes(), entry["background"])
    shot.background.name = keep_bytes(data, suffix)
    shot.save(update_fields=["background"])
    for part in shot.parts.select_related("character"):
        part.stand = Stand.from_dict(entry["stands"][part.character.name]).to_dict()
        part.save(update_fields=["stand"])
