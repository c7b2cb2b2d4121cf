"""Which set of a character's mouths a stretch of a shot shows."""

from django.db import transaction

from tinfork.apps.cast.models import Chart
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.soundtracks import keep_stretches, locked, stretches_of
from tinfork.apps.reading.models import SetStretch
from tinfork.apps.reading.queries import stretch_of
from tinfork.core.errors import ChartError


@transaction.atomic
def show_set(*, shot: Shot, chart: Chart, first: int, last: int, by: User) -> None:
    """Show a set of a character's mouths on frames `first` to `last` (numbers as people see them).

    It goes over what was there; the character's first set takes the frames back. Timing and sounds stay. It is an edit
    like others: it can be undone.
    """
    row = locked(shot)
    before = stretches_of(shot)
    character = next((c for c in shot.characters if c.pk == chart.part.character_id), None)
    if character is None or not chart.part.speaks:
        raise ChartError(f"“{chart.name}” is not a set of mouths of anyone in this shot.")
    start_us, end_us = stretch_of(shot, first, last)
    # Refuse a set that cannot speak before anything changes.
    is_first = chart == character.mouth.charts.first()
    if not is_first:
        _ = chart.content
    own = shot.set_stretches.filter(chart__part=chart.part)
    for old in own.filter(start_us__lt=end_us, end_us__gt=start_us):
        old.delete()
        for left, right in ((old.start_us, start_us), (end_us, old.end_us)):
            if left < right:
                SetStretch.objects.create(shot=shot, chart=old.chart, start_us=left, end_us=right)
    if not is_first:
        SetStretch.objects.create(shot=shot, chart=chart, start_us=start_us, end_us=end_us)
    keep_stretches(row, before, by=by)
