"""Assigning a script's lines to shots."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from itertools import groupby

from django.db import transaction

from tinfork.apps.cast.actions.characters import add_character
from tinfork.apps.cast.actions.drawings import add_starter_drawings
from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.actions import add_shot, add_to_cast
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.casting import people_of, speakers_in, words_of
from tinfork.core.errors import WordsError
from tinfork.core.mouths.style import Ink, Style
from tinfork.core.script import ScriptLine, fold

#: The choices for an unknown name: a new character, not a name, or a character's id.
MAKE, NOT_A_NAME = "make", "none"
MAX_SHOTS = 500
#: The most new speakers in a script.
MAX_NAMES = 200
#: The most new characters and shots that are created in the request; more are a job.
AT_ONCE = 40


def make_character(studio: Studio, name: str) -> Character:
    """Create a character with the starter mouths, so that it can speak at once."""
    written = name.title() if name.isupper() else name
    character = add_character(studio=studio, name=written)
    add_starter_drawings(character.mouth.charts.get(), drawings=14, style=Style(Ink()))
    return character


@transaction.atomic
def lay_script(
    *,
    production: Production,
    lines: Sequence[ScriptLine],
    names: Mapping[str, str],
    shot: Shot | None,
    new_name: str = "",
    beat: Callable[[], None] = lambda: None,
) -> list[Shot]:
    """Set each shot's words to its lines of the script; missing shots are created.

    Lines before the first shot's name go to `shot`, or to a new one called `new_name`. `names` has the choices for
    unknown names, by folded name. `beat` is called between steps; if it raises, everything is rolled back. Returns the
    shots, in the script's order.
    """
    studio = production.studio
    people = people_of(studio)
    known = {str(c.pk): c for c in people.values()}
    for line in lines:
        name = fold(line.speaker)
        if not line.speaker or name in people:
            continue
        beat()
        choice = names.get(name, MAKE)
        if choice == MAKE:
            people[name] = make_character(studio, line.speaker)
        elif choice in known:
            people[name] = known[choice]
        elif choice != NOT_A_NAME:
            raise WordsError("Choose who “{speaker}” is.", speaker=line.speaker)
    cast = [_with_character(line, people) for line in lines]
    shots = {s.name: s for s in production.shots.all()}
    if len({line.shot for line in cast} - set(shots)) > MAX_SHOTS:
        raise WordsError(
            "You can add up to {max_shots} shots at once. Split the script into parts.", max_shots=MAX_SHOTS
        )
    out: list[Shot] = []
    by_shot: dict[str, list[ScriptLine]] = {}
    for name, run in groupby(cast, key=lambda line: line.shot):
        by_shot.setdefault(name, []).extend(run)
    for name, own in by_shot.items():
        beat()
        speakers = speakers_in(own, people)
        target = shots.get(name) if name else shot
        if target is None:
            first = speakers[0] if speakers else _anyone(studio)
            target = add_shot(production=production, name=(name or new_name or "Script")[:80], character=first)
            shots[target.name] = target
        add_to_cast(target, speakers)
        target.words = words_of(own)
        target.save(update_fields=["words"])
        out.append(target)
    return out


def _with_character(line: ScriptLine, people: Mapping[str, Character]) -> ScriptLine:
    """A line with its character's own name; text that is not a name becomes words again."""
    if not line.speaker:
        return line
    who = people.get(fold(line.speaker))
    if who is None:
        return replace(line, speaker="", text=f"{line.speaker}: {line.text}")
    return replace(line, speaker=who.name)


def _anyone(studio: Studio) -> Character:
    found = studio.characters.filter(archived_at=None).order_by("pk").first()
    if found is None:
        raise WordsError("There are no characters yet. Create one in Cast first.")
    return found
