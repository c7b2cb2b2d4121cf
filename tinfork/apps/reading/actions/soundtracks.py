"""Edits to a shot's soundtrack: one transaction each, with the revision the page saw; undo and redo."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Edit, SetStretch, Soundtrack, TakeUse
from tinfork.apps.reading.queries import doubts_in, stored, take_infos
from tinfork.core.errors import TimingError, TinForkError
from tinfork.core.formats.soundtrack_json import changed_parts, soundtrack_from_dict, soundtrack_to_dict, with_parts
from tinfork.core.soundtrack.commands import Given, apply
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.soundtrack.project import reading_of

#: So many edits of a shot can be undone.
MAX_EDITS = 500


class StaleError(TinForkError):
    """An edit that was made on a soundtrack that has changed since."""

    code = "stale"


def locked(shot: Shot) -> Soundtrack:
    """The shot's soundtrack, for this transaction alone."""
    Shot.objects.select_for_update().get(pk=shot.pk)
    row, _ = Soundtrack.objects.get_or_create(shot=shot, defaults={"document": stored(CoreSoundtrack()), "revision": 0})
    return row


def keep(row: Soundtrack, after: CoreSoundtrack, *, name: str, by: User | None, parameters: Any = None) -> None:
    """The soundtrack as it is after an edit; the edit itself is kept too."""
    before = row.content
    old, new = changed_parts(soundtrack_to_dict(before), soundtrack_to_dict(after))
    if not new:
        return
    row.edits.filter(is_undone=True).delete()
    if row.edits.count() >= MAX_EDITS:
        first = row.edits.first()
        assert first is not None
        first.delete()
    row.edits.create(name=name, by=by, parameters=parameters or {}, before=old, after=new)
    write(row, after)


def write(row: Soundtrack, after: CoreSoundtrack) -> None:
    """Store a soundtrack with everything that follows from it."""
    reading = reading_of(after)
    row.document = stored(after)
    row.revision += 1
    row.is_read = after.is_read
    row.duration_us = after.duration_us
    row.doubts = doubts_in(reading)
    row.save()
    takes = {c.take for c in after.clips}
    row.uses.exclude(take__in=takes).delete()
    TakeUse.objects.bulk_create((TakeUse(soundtrack=row, take_id=take) for take in takes), ignore_conflicts=True)
    pins = {p.key: p for p in after.pins}
    for stretch in row.shot.set_stretches.all():
        pin = pins.get(stretch.pk)
        if pin and (pin.start_us, pin.end_us) != (stretch.start_us, stretch.end_us):
            SetStretch.objects.filter(pk=stretch.pk).update(start_us=pin.start_us, end_us=pin.end_us)


def _check(row: Soundtrack, revision: int) -> None:
    if row.revision != revision:
        raise StaleError("Someone else, or another tab, changed this shot meanwhile. Here is how it is now; try again.")


@transaction.atomic
def edit(*, shot: Shot, revision: int, name: str, parameters: Mapping[str, Any], by: User) -> Soundtrack:
    """One edit by name; raises `StaleError`, or what the edit itself raises."""
    row = locked(shot)
    _check(row, revision)
    before = row.content
    numbers = [c.take for c in before.clips]
    if isinstance(parameters.get("take"), int):
        numbers.append(parameters["take"])
    speakers = frozenset(str(c.pk) for c in shot.characters)
    given = Given(parameters, shot.production.rate, take_infos(shot.production, numbers), speakers)
    keep(row, apply(before, name, given), name=name, by=by, parameters=dict(parameters))
    return row


@transaction.atomic
def undo(*, shot: Shot, revision: int, back: bool = True) -> Soundtrack:
    """The last edit taken back; or, with `back` false, the one taken back last made again."""
    row = locked(shot)
    _check(row, revision)
    found = row.edits.filter(is_undone=not back)
    last: Edit | None = found.last() if back else found.first()
    if last is None:
        raise TimingError("There is nothing to undo." if back else "There is nothing to do again.")
    document = with_parts(soundtrack_to_dict(row.content), last.before if back else last.after)
    write(row, _known_takes(row, soundtrack_from_dict(document)))
    Edit.objects.filter(pk=last.pk).update(is_undone=back)
    return row


def _known_takes(row: Soundtrack, st: CoreSoundtrack) -> CoreSoundtrack:
    """Refuse to bring back a clip whose take was deleted since."""
    there = take_infos(row.shot.production, [c.take for c in st.clips])
    if any(c.take not in there for c in st.clips):
        raise TimingError("A take of that step was deleted from the library since; it cannot be brought back.")
    rows = {s.pk for s in row.shot.set_stretches.all()}
    return replace(st, pins=tuple(p for p in st.pins if p.mouth or p.key in rows))
