"""Edits to a shot's soundtrack: one transaction each, with the revision the page saw; undo and redo."""

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
from tinfork.apps.reading.actions.beside import (
    Parts,
    differing_parts,
    forget_side_state,
    restore_side_state,
    side_state,
)
from tinfork.apps.reading.actions.dials import turn_dials
from tinfork.apps.reading.actions.layout import boil_lines, paint_ground, stand_character
from tinfork.apps.reading.actions.looks import settle_look
from tinfork.apps.reading.actions.sets import show_set
from tinfork.apps.reading.models import Edit, Soundtrack, TakeUse
from tinfork.apps.reading.queries import nothing_yet, take_infos
from tinfork.apps.reading.solving import other_parts, part_holds, part_key, solve_character
from tinfork.core.commands.beside import BoilLines, PaintGround, SettleLook, ShowSet, StandCharacter, TurnDials
from tinfork.core.commands.declared import Command, EditContext, Parameters
from tinfork.core.commands.motion import FollowFilm
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

#: So many edits of a shot can be undone.
MAX_EDITS = 20_000
#: How often it is looked whether there are more.
_TRIM_EVERY = 64


class StaleError(TinForkError):
    """An edit that was made on a soundtrack that has changed since."""

    code = "stale"


def locked(shot: Shot) -> Soundtrack:
    """The shot's soundtrack, for this transaction alone; that of an archived one, too: a take of it may be replaced."""
    Shot.everything.select_for_update().values_list("pk").get(pk=shot.pk)
    row, _ = Soundtrack.objects.get_or_create(shot=shot, defaults=nothing_yet())
    # Each knows the other: what follows looks at the shot as it is after the edit.
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
    beside: tuple[Parts, Parts] = ({}, {}),
) -> None:
    """The soundtrack as it is after an edit; the edit is kept too, with what it changed `beside` the document."""
    after = _numbered(row, after)
    old, new = to_patch(row.content, after)
    if not new and not beside[1]:
        return
    # What was undone before it cannot be done again any more.
    row.edits.filter(is_undone=True).delete()
    if row.revision % _TRIM_EVERY == 0:
        oldest = row.edits.order_by("-pk").values_list("pk", flat=True)[MAX_EDITS : MAX_EDITS + 1]
        row.edits.filter(pk__lte=next(iter(oldest), 0)).delete()
    row.newest_edit = row.edits.create(
        name=name,
        by=by,
        parameters=parameters or {},
        before=old | beside[0],
        after=new | beside[1],
        revision=row.revision + 1,
        token=token,
    )
    save_soundtrack(row, after)


def save_soundtrack(row: Soundtrack, after: CoreSoundtrack) -> None:
    """Store a soundtrack with everything that follows from it."""
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
    """With lasting numbers for whatever came in."""
    out, row.next_id = numbered(row.content, after, row.next_id)
    return out


def touched_since(
    row: Soundtrack, revision: int, but: Collection[str] = (), newest: Edit | None = None
) -> frozenset[Touch] | None:
    """What edits have touched since a revision, but for some by their tokens; None where that cannot be told.

    `newest` is the newest edit, where it is known.
    """
    if revision > row.revision:
        return None
    is_all = newest is not None and newest.revision == row.revision == revision + 1
    since = [newest] if newest and is_all else list(row.edits.filter(revision__gt=revision)[: MAX_EDITS + 1])
    # Every revision since has its edit: as many as the numbers between.
    if len({e.revision for e in since if e.revision <= row.revision}) != row.revision - revision:
        return None
    return frozenset(touch for e in since if not (e.token and e.token in but) for touch in touched(e.before, e.after))


def _refuse(touch: Touch | None, row: Soundtrack) -> StaleError:
    """In words: where somebody else was at work."""
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
    """One edit by name; raises `StaleError`, or what the edit itself raises.

    An edit made on an older revision is done all the same where nothing that others changed since is touched by it;
    `own` are the tokens of the edits that the same page made. One whose token is known was done before.
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
    beside: tuple[Parts, Parts] = ({}, {})
    after = before
    if isinstance(command, Command):
        after = command.apply(before, context)
    else:
        was = side_state(row)
        _BESIDE[type(command)](row, command, context)
        beside = differing_parts(was, side_state(row))
        forget_side_state(shot)
        after = row.content
    if meanwhile:
        mine = touched(*beside) | touched(*to_patch(before, after))
        if met := meeting(mine, meanwhile):
            raise _refuse(met, row)
    record_edit(row, after, name=name, by=by, parameters=dict(parameters), token=token, beside=beside)
    follow_words(shot, before, after)
    begin(shot, by=by)
    return row


#: Edits of what lies beside the document.
_BESIDE: dict[type[Parameters], Callable[[Soundtrack, Any, EditContext], None]] = {
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
    """The shot's words as they are written, where the words of its reading were changed by hand."""
    old, new = ([line for v in st.voices for line in v.reading.lines] for st in (before, after))
    if [line.text for line in old] == [line.text for line in new] or len(before.voices) != len(after.voices):
        return
    names = {str(c.pk): c.name for c in shot.characters}
    words = follow(shot.words, old, new, names)
    if words != shot.words:
        Shot.objects.filter(pk=shot.pk).update(words=words)


@transaction.atomic
def undo(*, shot: Shot, revision: int, back: bool = True, keeps_reading: bool = False) -> Soundtrack:
    """The last edit taken back; or, with `back` false, the one taken back last made again.

    With `keeps_reading`, the first reading is not taken back: without it a shot has no Desk.
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
    restore_side_state(row, parts)
    after = _numbered(row, known_takes(row, apply_patch(row.content, lambda: row.document, gone, parts)))
    save_soundtrack(row, after)
    Edit.objects.filter(pk=last.pk).update(is_undone=back, revision=row.revision)
    follow_words(shot, before, after)
    return row


def leaves_nothing_read(row: Soundtrack, last: Edit) -> bool:
    """Whether nothing would be read in the shot any more if its last edit were taken back."""
    if not said_first(last.before, last.after):
        return False
    return not apply_patch(row.content, lambda: row.document, last.after, last.before).is_read


def known_takes(row: Soundtrack, st: CoreSoundtrack) -> CoreSoundtrack:
    """Refuse to bring back a clip whose take was deleted since: those that are heard now are there."""
    back = {c.take for c in st.clips} - {c.take for c in row.content.clips}
    if back and back - take_infos(row.shot.production, back).keys():
        raise TimingError("A take of that step was deleted from the library. This step cannot be undone.")
    rows = {s.pk for s in row.shot.stretch_rows}
    return replace(st, pins=tuple(p for p in st.pins if p.mouth or p.key in rows))
