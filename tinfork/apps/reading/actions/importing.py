"""Importing words, mouths and notes from a file into a shot: a preview, then one edit."""

from dataclasses import dataclass

from django.db import transaction

from tinfork.apps.cast.models import Part
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.actions.soundtracks import follow_words, locked, record_edit
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import drawings_of, other_parts, part_holds, part_key, solve_character, with_cast
from tinfork.core.scene.incoming import ImportContext, Incoming, IncomingMouths
from tinfork.core.solver.problem import Hold
from tinfork.core.soundtrack.incoming import ImportResult, lay_over
from tinfork.engines.wording import sounds_of


@dataclass(frozen=True)
class _Columns:
    """The columns of a shot by character and part: their keys and holds."""

    keys: dict[tuple[str, str], str]
    shown: dict[tuple[str, str], IncomingMouths]


def _columns(shot: Shot) -> _Columns:
    with_cast(shot)
    keys, shown = {}, {}
    for character in shot.characters:
        holds = solve_character(shot, character, shot.soundtrack.reading)
        keys[character.name, ""] = str(character.pk)
        shown[character.name, ""] = IncomingMouths(holds, _called(character.mouth))
    for part in other_parts(shot):
        keys[part.character.name, part.name] = part_key(part)
        shown[part.character.name, part.name] = IncomingMouths(part_holds(shot, part), _called(part))
    return _Columns(keys, shown)


def _called(part: Part) -> dict[str, tuple[tuple[str, int], ...]]:
    """Drawings by everything that a sheet may call them: number, name, key."""
    out: dict[str, tuple[tuple[str, int], ...]] = {}
    for key, drawing in drawings_of(part).items():
        for name in {str(drawing.number), drawing.name.casefold(), drawing.key.casefold()} - {""}:
            out[name] = (*out.get(name, ()), key)
    return out


def import_context(shot: Shot, character: str = "") -> ImportContext:
    """What importers need to know about a shot; `character`: the one for files without names, by default the first."""
    shown = _columns(shot).shown
    names = [name for name, part in shown if not part]
    rate = shot.production.rate
    frames = rate.frames_in(shot.soundtrack.duration_us)
    return ImportContext(rate, frames, shot.first_frame, shown, character if character in names else names[0])


def preview(shot: Shot, incoming: Incoming) -> ImportResult:
    """What the import would change; nothing is stored."""
    return _laid(shot, shot.soundtrack, incoming)


def _laid(shot: Shot, row: Soundtrack, incoming: Incoming) -> ImportResult:
    columns = _columns(shot)
    holds: dict[str, tuple[Hold, ...]] = {columns.keys[key]: shown.holds for key, shown in columns.shown.items()}
    return lay_over(
        row.content,
        incoming,
        shot.production.rate,
        columns.keys,
        holds.__getitem__,
        {name: key for (name, part), key in columns.keys.items() if not part},
        lambda text, language: sounds_of(text, language, lexicon_of(shot.production)),
    )


@transaction.atomic
def apply_import(*, shot: Shot, incoming: Incoming, name: str, by: User) -> ImportResult:
    """Import the file as one edit, which can be undone."""
    row = locked(shot)
    before = row.content
    laid = _laid(shot, row, incoming)
    record_edit(row, laid.soundtrack, name="import", by=by, parameters={"file": name[:200]})
    follow_words(shot, before, laid.soundtrack)
    return laid
