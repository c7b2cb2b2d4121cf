"""Laying a script's lines on shots."""

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

#: What is to become of a name: a new character, no name at all, or a character's number.
MAKE, NOT_A_NAME = "make", "none"
MAX_SHOTS = 500
#: Speakers that one script may bring with it.
MAX_NAMES = 200
#: So many new characters and shots are made while the page waits; more are a job.
AT_ONCE = 40


def make_character(studio: Studio, name: str) -> Character:
    """A character with the starter mouths, so that it speaks at once."""
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
    """Each shot's words are its lines of the script from now on; shots that are not there are made.

    Lines before any shot's name go to `shot`, or to a new one called `new_name`. `names` says, by folded name, what
    becomes of names that nobody has. `beat` is called between steps; what it raises undoes everything. Gives back the
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
    """A line under its character's own name; a name that is none becomes words again."""
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
