"""What edits change beside a shot's document.

That is: stretches of other sets, dials, where characters stand, what is behind them, how lines boil, second looks that
are settled.

Edits keep it in parts, as they keep those of the document: `stretches` (rows of number, chart, start and end), `dials`
and `stand` with a character's number, `ground` (a colour and a picture's key), `boil` (strength and rhythm), `settled`
with a look's key. Undo lays them as they were, and so do versions.
"""

from typing import Any

from tinfork.apps.cast.models import Chart
from tinfork.apps.produce.models import Shot, ShotCharacter
from tinfork.apps.reading.models import SetStretch, Soundtrack

STRETCHES, DIALS, STAND, GROUND, BOIL, SETTLED = "stretches", "dials ", "stand ", "ground", "boil", "settled "
#: The newest so many second looks are remembered as settled.
MOST_SETTLED = 5_000

Parts = dict[str, Any]


def side_state(row: Soundtrack) -> Parts:
    """All of it, as it is stored."""
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


def parts_for_versions(row: Soundtrack) -> Parts:
    """What a version keeps: what is settled is of the day, and stays as it is."""
    return {name: part for name, part in side_state(row).items() if not name.startswith(SETTLED)}


def differing_parts(old: Parts, new: Parts) -> tuple[Parts, Parts]:
    """The parts that differ, as they are in each (None: not there)."""
    names = [name for name in {**old, **new} if old.get(name) != new.get(name)]
    return {name: old.get(name) for name in names}, {name: new.get(name) for name in names}


def restore_side_state(row: Soundtrack, parts: Parts) -> None:
    """Some parts as they were; of a document's own parts among them nothing is taken. The row is not saved."""
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
            mark(row, name.removeprefix(SETTLED), bool(part))
    # Most steps are about the document alone: what was fetched of the cast is as it was.
    if any(name == STRETCHES or name.startswith((DIALS, STAND)) for name in parts):
        forget_side_state(row.shot)


def mark(row: Soundtrack, key: str, is_settled: bool) -> None:
    """A second look settled, or not; the row is not saved."""
    others = [each for each in row.settled if each != key]
    row.settled = [*others, *([key] if is_settled else [])][-MOST_SETTLED:]


def forget_side_state(shot: Shot) -> None:
    """What was fetched of a shot's rows before they changed."""
    for fetched in ("fetched_cast", "fetched_stretches"):
        if hasattr(shot, fetched):
            delattr(shot, fetched)


def _lay_stretches(shot: Shot, wanted: list[list[int]]) -> None:
    """Those whose set is gone stay away."""
    there = set(Chart.objects.filter(pk__in={chart for _, chart, *_ in wanted}).values_list("pk", flat=True))
    SetStretch.objects.filter(shot=shot).delete()
    SetStretch.objects.bulk_create(
        SetStretch(pk=pk, shot=shot, chart_id=chart, start_us=start, end_us=end)
        for pk, chart, start, end in wanted
        if chart in there
    )
