"""Named versions of a shot: saving and restoring them. Restoring is an edit that can be undone."""

import copy

from django.db import IntegrityError, transaction

from tinfork.apps.cast.models import Chart
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.shot_settings import (
    BOIL,
    DIALS,
    GROUND,
    STAND,
    STRETCHES,
    Parts,
    differing_settings,
    restore_settings,
    settings_for_versions,
)
from tinfork.apps.reading.actions.soundtracks import known_takes, locked, record_edit
from tinfork.apps.reading.models import SetStretch, Version
from tinfork.apps.reading.solving import with_cast
from tinfork.core.errors import TimingError
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict

MOST = 200


@transaction.atomic
def keep_version(*, shot: Shot, name: str, by: User | None, is_kept: bool = False) -> Version:
    """Save a version; with `is_kept` it belongs to a review.

    Raises `TimingError` for a name that is taken or empty.
    """
    name = " ".join(name.replace("\0", "").split())
    if not 0 < len(name) <= 80:
        raise TimingError("Name the version, in up to 80 characters.")
    row = locked(shot)
    if not is_kept and row.versions.filter(is_kept=False).count() >= MOST:
        raise TimingError("A shot can have up to {most} versions. Delete one first.", most=MOST)
    try:
        with transaction.atomic():
            return row.versions.create(
                name=name, document=row.document, shot_settings=settings_for_versions(row), is_kept=is_kept, by=by
            )
    except IntegrityError:
        raise TimingError("A version called “{name}” already exists. Choose another name.", name=name) from None


def delete_version(version: Version) -> None:
    """Delete a version; raises `TimingError` for a reviewed one."""
    if version.is_kept:
        raise TimingError("“{name}” was reviewed, so it stays. You can always return to it.", name=version.name)
    version.delete()


@transaction.atomic
def return_to(*, shot: Shot, version: Version, by: User) -> None:
    """Restore a version."""
    row = locked(shot)
    then = known_takes(row, soundtrack_from_dict(version.document))
    now = settings_for_versions(row)
    settings = differing_settings(now, _as_in(version, now))
    record_edit(row, then, name="return", by=by, parameters={"version": version.name}, settings=settings)
    restore_settings(row, settings[1])


def _as_in(version: Version, now: Parts) -> Parts:
    """The settings of a version, without dials of characters that left and stretches of deleted sets.

    Settings that the version does not have are as `now`.
    """
    kept = now | {name: part for name, part in version.shot_settings.items() if name in now}
    charts = {chart for _, chart, *_ in kept[STRETCHES]}
    there = set(Chart.objects.filter(pk__in=charts).values_list("pk", flat=True))
    return kept | {STRETCHES: [stretch for stretch in kept[STRETCHES] if stretch[1] in there]}


def shot_as_of(shot: Shot, version: Version) -> Shot:
    """The shot with the sound, words, pins, sets and dials of a version, in memory only."""
    with_cast(shot)
    then = copy.copy(shot)
    soundtrack = copy.copy(shot.soundtrack)
    content = soundtrack_from_dict(version.document)
    soundtrack.show(content)
    soundtrack.duration_us = content.duration_us
    # Link both objects, like Django does.
    soundtrack.shot = then
    settings = _as_in(version, settings_for_versions(shot.soundtrack))
    parts = [copy.copy(part) for part in shot.cast_rows]
    for part in parts:
        part.dials = settings[f"{DIALS}{part.character_id}"]
        part.stand = settings[f"{STAND}{part.character_id}"]
    then.ground, then.background = settings[GROUND]
    then.boil = settings[BOIL]
    charts = {chart.pk: chart for part in parts for chart in part.character.mouth.charts.all()}
    then.fetched_cast = parts
    then.fetched_stretches = [
        SetStretch(pk=pk, shot=then, chart=charts[chart], start_us=start, end_us=end)
        for pk, chart, start, end in settings[STRETCHES]
        if chart in charts
    ]
    return then
