"""A shot's settings, which edits change besides its document.

These are stretches of other sets, dials, the places of characters, the background, the boil of lines, and dismissed
second looks. Edits store them in parts, like those of the document: `stretches` (rows of id, chart, start and end),
`dials` and `stand` with a character's id, `ground` (a colour and a picture's key), `boil` (strength and rhythm),
`settled` with a look's key. Undo and versions restore them.
"""

from typing import Any

from tinfork.apps.cast.models import Chart
from tinfork.apps.produce.models import Shot, ShotCharacter
from tinfork.apps.reading.models import SetStretch, Soundtrack

STRETCHES, DIALS, STAND, GROUND, BOIL, SETTLED = "stretches", "dials ", "stand ", "ground", "boil", "settled "
#: The most dismissed second looks that are stored; the newest stay.
MOST_SETTLED = 5_000

Parts = dict[str, Any]


def settings_of(row: Soundtrack) -> Parts:
    """All settings of a shot as parts."""
    stretches = SetStretch.objects.filter(shot=row.shot).order_by("start_us", "pk")
    parts = list(ShotCharacter.objects.filter(shot=row.shot).values_list("character_id", "dials", "stand"))
    *behind, boil = Shot.everything.values_list("ground", "background", "boil").get(pk=row.shot.pk)
    return {
        STRETCHES: [[s.pk, s.chart_id, s.start_us, s.end_us] for s in stretches],
        **{f"{DIALS}{character}": dials for character, dials, _ in parts},
        **{f"{STAND}{character}": stand for character, _, stand in parts},
        GROUND: behind,
        BOIL: boil,
        **{f"{SETTLED}{key}": True for key in row.settled},
    }


def settings_for_versions(row: Soundtrack) -> Parts:
    """The settings that versions store: all but dismissed looks."""
    return {name: part for name, part in settings_of(row).items() if not name.startswith(SETTLED)}


def differing_settings(old: Parts, new: Parts) -> tuple[Parts, Parts]:
    """The parts that differ, as they are in each (None if missing)."""
    names = [name for name in {**old, **new} if old.get(name) != new.get(name)]
    return {name: old.get(name) for name in names}, {name: new.get(name) for name in names}


def restore_settings(row: Soundtrack, parts: Parts) -> None:
    """Restore some parts; parts of the document among them are ignored. The row is not saved."""
    for name, part in parts.items():
        if name == STRETCHES:
            _lay_stretches(row.shot, part or [])
        elif name.startswith(DIALS):
            character = int(name.removeprefix(DIALS))
            ShotCharacter.objects.filter(shot=row.shot, character=character).update(dials=part or {})
        elif name.startswith(STAND):
            character = int(name.removeprefix(STAND))
            ShotCharacter.objects.filter(shot=row.shot, character=character).update(stand=part or {})
        elif name == GROUND and part:
            row.shot.ground, row.shot.background = part
            Shot.everything.filter(pk=row.shot.pk).update(ground=part[0], background=part[1])
        elif name == BOIL:
            row.shot.boil = part or {}
            Shot.everything.filter(pk=row.shot.pk).update(boil=row.shot.boil)
        elif name.startswith(SETTLED):
            mark_look(row, name.removeprefix(SETTLED), bool(part))
    # Most steps change only the document: then the fetched cast stays valid.
    if any(name == STRETCHES or name.startswith((DIALS, STAND)) for name in parts):
        forget_fetched(row.shot)


def mark_look(row: Soundtrack, key: str, is_settled: bool) -> None:
    """Mark a second look as settled or open; the row is not saved."""
    others = [each for each in row.settled if each != key]
    row.settled = [*others, *([key] if is_settled else [])][-MOST_SETTLED:]


def forget_fetched(shot: Shot) -> None:
    """Drop fetched rows of a shot after they changed."""
    for fetched in ("fetched_cast", "fetched_stretches"):
        if hasattr(shot, fetched):
            delattr(shot, fetched)


def _lay_stretches(shot: Shot, wanted: list[list[int]]) -> None:
    """Restore stretches; those with a deleted set are left out."""
    there = set(Chart.objects.filter(pk__in={chart for _, chart, *_ in wanted}).values_list("pk", flat=True))
    SetStretch.objects.filter(shot=shot).delete()
    SetStretch.objects.bulk_create(
        SetStretch(pk=pk, shot=shot, chart_id=chart, start_us=start, end_us=end)
        for pk, chart, start, end in wanted
        if chart in there
    )
