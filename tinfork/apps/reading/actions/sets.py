"""Choosing the set of a character's mouths for a stretch of a shot."""

from tinfork.apps.reading.models import SetStretch, Soundtrack
from tinfork.core.commands.declared import EditContext, span_of
from tinfork.core.commands.settings import ShowSet
from tinfork.core.errors import ChartError, TimingError


def show_set(row: Soundtrack, command: ShowSet, context: EditContext) -> None:
    """Show a set of a character's mouths on frames, replacing other sets there; the character's first set resets them.

    Timing and sounds stay. Raises `ChartError` for a set of a character that is not in the shot, or one without sounds,
    `TimingError` for frames outside the shot.
    """
    shot = row.shot
    charts = (chart for character in shot.characters for chart in character.mouth.charts.all())
    chart = next((each for each in charts if each.pk == command.chart), None)
    if chart is None:
        raise ChartError("That set does not belong to a character in this shot.")
    first, end = span_of(command.first, command.last)
    frames = context.rate.frames_in(row.duration_us)
    if end > frames:
        raise TimingError(
            "This shot runs from frame {first} to {last}.",
            first=shot.first_frame,
            last=shot.first_frame + frames - 1,
        )
    start_us, end_us = context.rate.first_us(first), context.rate.first_us(end)
    # Refuse a set without sounds before anything changes.
    is_first = chart == chart.part.charts.first()
    if not is_first:
        _ = chart.content
    own = SetStretch.objects.filter(shot=shot, chart__part=chart.part)
    for old in own.filter(start_us__lt=end_us, end_us__gt=start_us):
        old.delete()
        for left, right in ((old.start_us, start_us), (end_us, old.end_us)):
            if left < right:
                SetStretch.objects.create(shot=shot, chart=old.chart, start_us=left, end_us=right)
    if not is_first:
        SetStretch.objects.create(shot=shot, chart=chart, start_us=start_us, end_us=end_us)
