"""The sample scene: a production with characters, shots and recordings from the demo folder."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from tinfork.apps.cast.actions.characters import add_part, set_face
from tinfork.apps.cast.actions.charts import add_set
from tinfork.apps.cast.actions.drawings import add_starter_drawings, keep_prepared
from tinfork.apps.cast.models import Character, Drawing, Part
from tinfork.apps.cast.starters import STARTERS
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.people.models import Studio, User
from tinfork.apps.produce.actions import add_shot, start_production
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.placing import start_reel, upload_sounds
from tinfork.apps.reading.actions.reading import start_reading
from tinfork.apps.reading.casting import people_of
from tinfork.apps.reading.methods import ReadingRequest
from tinfork.apps.script.actions import make_character
from tinfork.apps.sound.actions import Upload
from tinfork.core.mouths.chart import KEYS
from tinfork.core.mouths.style import MOODS, Ink, Style
from tinfork.core.scene.layout import Stand
from tinfork.core.script import fold
from tinfork.core.soundtrack.model import EFFECTS
from tinfork.engines.characters import prepare_face
from tinfork.engines.drawings import prepare
from tinfork.engines.probing import probe

DEMO = Path(settings.ROOT).parent / "demo"
FACES = DEMO / "faces"


def film_file() -> Any:
    """The description of the scene."""
    return json.loads((DEMO / "film.json").read_text("utf-8"))


@transaction.atomic
def make_sample(*, studio: Studio, by: User) -> Production:
    """Create the scene as a production of a studio, with jobs that read its shots.

    Returns the existing one if there is one.

    Existing characters of the same names are used unchanged if they have a face.
    """
    film = film_file()
    about = film["production"]
    Studio.objects.select_for_update().get(pk=studio.pk)
    if there := Production.objects.filter(studio=studio, name=about["name"]).first():
        return there
    production = start_production(studio=studio, name=about["name"], rate=about["rate"], size=tuple(about["size"]))
    people = _cast(studio, film)
    for entry in film["shots"]:
        cast = [people[fold(name)] for name in (entry["character"], *entry.get("others", ()))]
        shot = add_shot(production=production, name=entry["name"], character=cast[0], others=cast[1:])
        _lay_out(shot, entry)
        _give_sound(production, shot, entry, film, by)
    return production


def _cast(studio: Studio, film: Any) -> dict[str, Character]:
    """Its characters, by folded name."""
    people = people_of(studio)
    # The faces of every studio's starter characters.
    plain = {"", *(keep_bytes(starter.face_svg.encode(), ".svg") for starter in STARTERS)}
    for name, face in film["faces"].items():
        if fold(name) not in people:
            people[fold(name)] = make_character(studio, name)
        character = people[fold(name)]
        if character.face.name not in plain:
            continue
        _give_face(character, face)
        for set_name, mood in film["sets"].get(name, {}).items():
            style = Style(Ink(), mood=MOODS[mood])
            add_starter_drawings(add_set(character.mouth, name=set_name), drawings=14, style=style)
    return people


def _give_sound(production: Production, shot: Shot, entry: Any, film: Any, by: User) -> None:
    """Start the jobs for its sound and words, and add effects and the story reel if it has them."""
    asked = ReadingRequest("\n".join(entry["words"]), acts=True)
    start_reading(shot=shot, asked=asked, by=by, uploaded=[_look(entry["sound"])])
    if "effect_at" in entry:
        upload_sounds(production=production, uploaded=[_look(film["effect"])], by=by, shot=shot, kind=EFFECTS)
    if entry.get("reel"):
        path = DEMO / film["reel"]
        start_reel(production=production, uploaded=Upload(path.name, path), by=by, shot=shot)


def _look(name: str) -> Upload:
    path = DEMO / name
    return Upload(path.name, path, probe(path))


def _give_face(character: Character, about: Any) -> None:
    """Set one of our face pictures, with the place of the mouth and its other parts."""
    set_face(character, *prepare_face((FACES / about["picture"]).read_bytes(), about["picture"]))
    if "mouth" in about:
        mouth = character.mouth
        mouth.x, mouth.y, mouth.width = about["mouth"]
        mouth.save()
    for one in about["parts"]:
        _give_part(character, one)


def _give_part(character: Character, about: Any) -> None:
    """Add a part with one drawing on a canvas of the face's size; it moves about its registration point."""
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
    """Set the background, and the places of the characters."""
    data, suffix, _ = prepare_face((DEMO / "backgrounds" / entry["background"]).read_bytes(), entry["background"])
    shot.background.name = keep_bytes(data, suffix)
    shot.save(update_fields=["background"])
    for part in shot.parts.select_related("character"):
        part.stand = Stand.from_dict(entry["stands"][part.character.name]).to_dict()
        part.save(update_fields=["stand"])
