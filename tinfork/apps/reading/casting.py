"""Matching names in a script with characters."""

from collections.abc import Collection, Iterable

from tinfork.apps.cast.models import Character
from tinfork.apps.people.models import Studio
from tinfork.apps.produce.models import Production, Shot
from tinfork.core.errors import WordsError
from tinfork.core.script import ScriptLine, fold, parse_plain, write_plain
from tinfork.core.speech.cues import without_comments
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import LineText

#: The default language of a line.
USUAL = "en-us"


def people_of(studio: Studio) -> dict[str, Character]:
    """The studio's characters by folded name."""
    return {fold(c.name): c for c in Character.objects.filter(studio=studio).order_by("-archived_at", "-pk")}


def script_of(words: str, people: Collection[str]) -> list[ScriptLine]:
    """The lines of a script's text that have words."""
    return [line for line in parse_plain(words.replace("\0", ""), people) if split_words(line.text)]


def unknown_names(lines: Iterable[ScriptLine], people: Collection[str]) -> list[str]:
    """Unknown names in a script, as first written."""
    found: dict[str, str] = {}
    for line in lines:
        if line.speaker and fold(line.speaker) not in people:
            found.setdefault(fold(line.speaker), line.speaker)
    return list(found.values())


def speakers_in(lines: Iterable[ScriptLine], people: dict[str, Character]) -> list[Character]:
    """The speakers in a script, in the order of their first lines."""
    found = (people.get(fold(line.speaker)) for line in lines if line.speaker)
    return list(dict.fromkeys(c for c in found if c))


def texts_of(shot: Shot, words: str) -> list[LineText]:
    """A shot's lines for the reader; those without a name belong to its first character."""
    people = people_of(shot.production.studio)
    return _texts(script_of(words, people), people, shot.character, shot.language)


def texts_for(production: Production, speaker: Character | None, words: str) -> list[LineText]:
    """A take's lines for the reader; those without a name belong to its speaker."""
    people = people_of(production.studio)
    return _texts(script_of(words, people), people, speaker, USUAL)


def _texts(
    lines: list[ScriptLine], people: dict[str, Character], usual: Character | None, language: str
) -> list[LineText]:
    if unknown := unknown_names(lines, people):
        raise WordsError(
            "No character is called “{unknown}”. Create that character, or correct the name.", unknown=unknown[0]
        )
    if not lines:
        raise WordsError("There are no words. Type the dialogue, one phrase per line.")
    out = []
    for line in lines:
        who = people[fold(line.speaker)] if line.speaker else usual
        out.append(LineText(without_comments(line.text), str(who.pk) if who else "", line.language or language))
    return out


def words_of(lines: Iterable[ScriptLine]) -> str:
    """Lines as the text of a shot or take."""
    return write_plain(ScriptLine(line.speaker, line.text, line.language) for line in lines)
