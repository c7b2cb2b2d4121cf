"""Edits of a shot's soundtrack: one transaction each, checked against the page's revision; undo and redo."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.apps.common.bus import say_changed
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.produce.planning import begin
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.actions.acting import face_of, films_of, stage_of
from tinfork.apps.reading.actions.dials import turn_dials
from tinfork.apps.reading.actions.layout import boil_lines, paint_ground, stand_character
from tinfork.apps.reading.actions.looks import settle_look
from tinfork.apps.reading.actions.sets import show_set
from tinfork.apps.reading.actions.shot_settings import (
    Parts,
    differing_settings,
    forget_fetched,
    restore_settings,
    settings_of,
)
from tinfork.apps.reading.models import Edit, Soundtrack, TakeUse
from tinfork.apps.reading.queries import nothing_yet, take_infos
from tinfork.apps.reading.solving import other_parts, part_holds, part_key, solve_character
from tinfork.core.commands.declared import Command, EditContext, Parameters
from tinfork.core.commands.motion import FollowFilm
from tinfork.core.commands.settings import BoilLines, PaintGround, SettleLook, ShowSet, StandCharacter, TurnDials
from tinfork.core.commands.sound import Place
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import TimingError, TinForkError
from tinfork.core.formats.soundtrack_json import apply_patch, said_first, to_patch
from tinfork.core.messages import Message
from tinfork.core.motion.following import FaceColumns
from tinfork.core.mouths.chart import Chart as CoreChart
from tinfork.core.solver.problem import Hold
from tinfork.core.soundtrack.merging import Touch, meeting, touched
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.numbering import numbered
from tinfork.core.speech.rewriting import follow
from tinfork.engines.wording import sounds_of

#: How many edits of a shot can be undone.
MAX_EDITS = 20_000
#: How often older edits are deleted, in edits.
_TRIM_EVERY = 64


class StaleError(TinForkError):
    """An edit conflicts with a change that was made meanwhile."""

    code = "stale"


def locked(shot: Shot) -> Soundtrack:
    """Lock the shot's soundtrack for this transaction, also of an archived shot: its take may be replaced."""
    Shot.everything.select_for_update().values_list("pk").get(pk=shot.pk)
    row, _ = Soundtrack.objects.get_or_create(shot=shot, defaults=nothing_yet())
    # Link both objects, so that later code sees the shot after the edit.
    row.shot = shot
    shot.soundtrack = row
    return row


def record_edit(
    row: Soundtrack,
    after: CoreSoundtrack,
    *,
    name: str,
    by: User | None,
    parameters: Any = None,
    token: str = "",
    settings: tuple[Parts, Parts] = ({}, {}),
) -> None:
    """Save the soundtrack after an edit, and the edit, with the settings that it changed (`settings`)."""
    after = _numbered(row, after)
    old, new = to_patch(row.content, after)
    if not new and not settings[1]:
        return
    # Undone edits cannot be redone after a new one.
    row.edits.filter(is_undone=True).delete()
    if row.revision % _TRIM_EVERY == 0:
        oldest = row.edits.order_by("-pk").values_list("pk", flat=True)[MAX_EDITS : MAX_EDITS + 1]
        row.edits.filter(pk__lte=next(iter(oldest), 0)).delete()
    row.newest_edit = row.edits.create(
        name=name,
        by=by,
        parameters=parameters or {},
        before=old | settings[0],
        after=new | settings[1],
        revision=row.revision + 1,
        token=token,
    )
    save_soundtrack(row, after)


def save_soundtrack(row: Soundtrack, after: CoreSoundtrack) -> None:
    """Save a soundtrack and everything derived from it."""
    before = row.content
    row.store(after)
    row.revision += 1
    row.is_read = after.is_read
    row.duration_us = after.duration_us
    row.looks_left = None
    row.save()
    row.remember()
    say_changed(row.shot_id, row.revision)
    takes = {c.take for c in after.clips}
    if takes != {c.take for c in before.clips}:
        row.uses.exclude(take__in=takes).delete()
        row.__dict__.pop("heard_takes", None)
        TakeUse.objects.bulk_create((TakeUse(soundtrack=row, take_id=take) for take in takes), ignore_conflicts=True)
    pins = {p.key: p for p in after.pins}
    for stretch in row.shot.stretch_rows:
        pin = pins.get(stretch.pk)
        if pin and (pin.start_us, pin.end_us) != (stretch.start_us, stretch.end_us):
            stretch.start_us, stretch.end_us = pin.start_us, pin.end_us
            stretch.save(update_fields=["start_us", "end_us"])


def _numbered(row: Soundtrack, after: CoreSoundtrack) -> CoreSoundtrack:
    """Give lasting numbers to everything new."""
    out, row.next_id = numbered(row.content, after, row.next_id)
    return out


def touched_since(
    row: Soundtrack, revision: int, but: Collection[str] = (), newest: Edit | None = None
) -> frozenset[Touch] | None:
    """What edits since a revision have touched, except those with given tokens; None if unknown.

    `newest` is the newest edit, if known.
    """
    if revision > row.revision:
        return None
    is_all = newest is not None and newest.revision == row.revision == revision + 1
    since = [newest] if newest and is_all else list(row.edits.filter(revision__gt=revision)[: MAX_EDITS + 1])
    # Each revision since then must have its edit.
    if len({e.revision for e in since if e.revision <= row.revision}) != row.revision - revision:
        return None
    return frozenset(touch for e in since if not (e.token and e.token in but) for touch in touched(e.before, e.after))


def _refuse(touch: Touch | None, row: Soundtrack) -> StaleError:
    """Raise an error that names the place of the conflict."""
    names = {str(c.pk): c.name for c in row.shot.characters}
    whose = names.get(touch.who.partition(" ")[0], Message("This character")) if touch else ""
    if touch and touch.what == "keys":
        return StaleError("{whose} was moved here in another window.", whose=whose)
    if touch and touch.what == "pass_note":
        return StaleError("A note about this pass was written in another window.")
    if touch and touch.what == "dials":
        return StaleError("The settings of {whose} were changed in another window.", whose=whose)
    if touch and touch.what == "stand":
        return StaleError("{whose} was placed in another window.", whose=whose)
    if touch and touch.what.startswith("voice "):
        return StaleError("The words or the sound here were changed in another window.")
    if touch is None or touch.what not in ("pins", "note"):
        return StaleError("This shot was changed in another window.")
    shot = row.shot
    first, last = (shot.first_frame + shot.production.rate.frame_at(at) for at in (touch.start_us, touch.end_us - 1))
    if touch.who in names:
        return StaleError(
            "Frame {first} of {whose} was changed in another window.",
            many="Frames {first} to {last} of {whose} were changed in another window.",
            first=first,
            last=last,
            whose=whose,
            count=last - first + 1,
        )
    return StaleError(
        "Frame {first} was changed in another window.",
        many="Frames {first} to {last} were changed in another window.",
        first=first,
        last=last,
        count=last - first + 1,
    )


@transaction.atomic
def edit(
    *,
    shot: Shot,
    revision: int,
    name: str,
    parameters: Mapping[str, Any],
    by: User,
    token: str = "",
    own: Collection[str] = (),
) -> Soundtrack:
    """Apply an edit by name; raises `StaleError`, or what the edit raises.

    An edit made on an older revision is applied unless it touches something that others changed since; `own` are the
    tokens of the page's own edits. An edit with a known token was applied before, and is not repeated.
    """
    command = parse_command(name, parameters)
    row = locked(shot)
    if token and row.edits.filter(token=token).exists():
        return row
    meanwhile: frozenset[Touch] = frozenset()
    if row.revision != revision:
        known = touched_since(row, revision, own) if revision < row.revision else None
        if known is None:
            raise _refuse(None, row)
        meanwhile = known
    before = row.content
    context = _context(shot, before, command)
    settings: tuple[Parts, Parts] = ({}, {})
    after = before
    if isinstance(command, Command):
        after = command.apply(before, context)
    else:
        was = settings_of(row)
        _SETTINGS[type(command)](row, command, context)
        settings = differing_settings(was, settings_of(row))
        forget_fetched(shot)
        after = row.content
    if meanwhile:
        mine = touched(*settings) | touched(*to_patch(before, after))
        if met := meeting(mine, meanwhile):
            raise _refuse(met, row)
    record_edit(row, after, name=name, by=by, parameters=dict(parameters), token=token, settings=settings)
    follow_words(shot, before, after)
    begin(shot, by=by)
    return row


#: Edits of settings.
_SETTINGS: dict[type[Parameters], Callable[[Soundtrack, Any, EditContext], None]] = {
    ShowSet: show_set,
    TurnDials: turn_dials,
    StandCharacter: stand_character,
    PaintGround: paint_ground,
    BoilLines: boil_lines,
    SettleLook: settle_look,
}


def _context(shot: Shot, st: CoreSoundtrack, command: Parameters) -> EditContext:
    numbers = [c.take for c in st.clips] if isinstance(command, Command) and command.NEEDS_TAKES else []
    if isinstance(command, Place):
        numbers.append(command.take)
    cast = {str(c.pk): c for c in shot.characters}
    others = {part_key(part): part for part in other_parts(shot)}

    def holds(who: str) -> tuple[Hold, ...]:
        reading = shot.soundtrack.reading
        return solve_character(shot, cast[who], reading) if who in cast else part_holds(shot, others[who])

    def charts(who: str) -> dict[str, CoreChart]:
        part = cast[who].mouth if who in cast else others[who]
        return {chart.name if at else "": chart.content for at, chart in enumerate(part.charts.all())}

    return EditContext(
        shot.production.rate,
        take_infos(shot.production, numbers) if numbers else {},
        frozenset({*cast, *others}),
        holds=holds,
        charts=charts,
        sounds=lambda text, language: sounds_of(text, language, lexicon_of(shot.production)),
        stage=lambda who: stage_of(shot, cast[who]) if who in cast else stage_of(shot, shot.characters[0]),
        face=lambda who: face_of(shot, cast[who]) if who in cast else FaceColumns({}),
        films=films_of(shot, command.film) if isinstance(command, FollowFilm) else {},
    )


def follow_words(shot: Shot, before: CoreSoundtrack, after: CoreSoundtrack) -> None:
    """Update the shot's written words after words of its reading were changed by hand."""
    old, new = ([line for v in st.voices for line in v.reading.lines] for st in (before, after))
    if [line.text for line in old] == [line.text for line in new] or len(before.voices) != len(after.voices):
        return
    names = {str(c.pk): c.name for c in shot.characters}
    words = follow(shot.words, old, new, names)
    if words != shot.words:
        Shot.objects.filter(pk=shot.pk).update(words=words)


@transaction.atomic
def undo(*, shot: Shot, revision: int, back: bool = True, keeps_reading: bool = False) -> Soundtrack:
    """Undo the last edit; or, with `back` false, redo the last undone one.

    With `keeps_reading`, the first reading is not undone, since the Desk needs it.
    """
    row = locked(shot)
    if row.revision != revision:
        raise _refuse(None, row)
    found = row.edits.filter(is_undone=not back)
    last: Edit | None = found.last() if back else found.first()
    if last is None:
        raise TimingError("There is nothing to undo." if back else "There is nothing to redo.")
    if back and keeps_reading and leaves_nothing_read(row, last):
        raise TimingError("There is nothing to undo.")
    before = row.content
    gone, parts = (last.after, last.before) if back else (last.before, last.after)
    restore_settings(row, parts)
    after = _numbered(row, known_takes(row, apply_patch(row.content, lambda: row.document, gone, parts)))
    save_soundtrack(row, after)
    Edit.objects.filter(pk=last.pk).update(is_undone=back, revision=row.revision)
    follow_words(shot, before, after)
    return row


def leaves_nothing_read(row: Soundtrack, last: Edit) -> bool:
    """Whether undoing the last edit would leave the shot without a reading."""
    if not said_first(last.before, last.after):
        return False
    return not apply_patch(row.content, lambda: row.document, last.after, last.before).is_read


def known_takes(row: Soundtrack, st: CoreSoundtrack) -> CoreSoundtrack:
    """Refuse to restore a clip whose take was deleted meanwhile."""
    back = {c.take for c in st.clips} - {c.take for c in row.content.clips}
    if back and back - take_infos(row.shot.production, back).keys():
        raise TimingError("A take of that step was deleted from the library. This step cannot be undone.")
    rows = {s.pk for s in row.shot.stretch_rows}
    return replace(st, pins=tuple(p for p in st.pins if p.mouth or p.key in rows))
