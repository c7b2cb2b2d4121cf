"""Which set of a character's mouths a stretch of a shot shows."""

from tinfork.apps.reading.models import SetStretch, Soundtrack
from tinfork.core.errors import ChartError, TimingError
from tinfork.core.soundtrack.given import Given


def show_set(row: Soundtrack, given: Given) -> None:
    """Show a set (`chart`) of a character's mouths on frames `first` to `last`, counted from 0.

    It goes over what was there; the character's first set takes the frames back. Timing and sounds stay. Raises
    `ChartError` for a set of nobody in the shot, or one that cannot speak, `TimingError` for frames outside the shot.
    """
    shot = row.shot
    wanted = given.whole("chart", 1, 2**62)
    charts = (chart for character in shot.characters for chart in character.mouth.charts.all())
    chart = next((each for each in charts if each.pk == wanted), None)
    if chart is None:
        raise ChartError("That is not a set of mouths of anyone in this shot.")
    first, end = given.span()
    frames = given.rate.frames_in(row.duration_us)
    if end > frames:
        raise TimingError(f"This shot has frames {shot.first_frame} to {shot.first_frame + frames - 1}.")
    start_us, end_us = given.rate.first_us(first), given.rate.first_us(end)
    # Refuse a set that cannot speak before anything changes.
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
