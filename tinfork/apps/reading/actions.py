"""Starting a reading, and storing one."""

from dataclasses import dataclass
from pathlib import Path

from django.db import transaction

from tinfork.apps.cast.models import Chart
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.models import Reading, SetStretch
from tinfork.apps.sound.actions import bring_take, drop_take
from tinfork.apps.sound.models import Take
from tinfork.core.errors import ChartError, SoundError, TimingError
from tinfork.core.formats.reading_json import reading_to_dict
from tinfork.engines.decode import SoundInfo
from tinfork.engines.reader import ReadResult


@dataclass(frozen=True, slots=True)
class Brought:
    """A sound file that was looked into and found good."""

    name: str
    path: Path
    info: SoundInfo


@transaction.atomic
def start_reading(*, shot: Shot, words: str, by: User, brought: Brought | None = None) -> Job:
    """Keep the words, bring the take in, and put the reading on the queue.

    Without a new sound the shot's own take is read again. The shot keeps its present take and
    reading until the new ones are there.
    """
    Shot.objects.filter(pk=shot.pk).update(words=words)
    take = shot.take
    if brought:
        take = bring_take(production=shot.production, name=brought.name, path=brought.path, info=brought.info)
    if take is None:
        raise SoundError("The shot has no sound. Choose the recording: a WAV, MP3 or FLAC file.")
    job = start_job(kind=Job.Kind.READ, on=shot, by=by, options={"take": take.pk, "words": words})
    if brought and job.options["take"] != take.pk:
        # Another reading of this shot is under way: this take would belong to nobody.
        drop_take(take)
    return job


def settle_take(shot: Shot, take: Take) -> None:
    """A sound take stays with a shot that has no reading yet, whatever becomes of the words."""
    Shot.objects.filter(pk=shot.pk, reading__isnull=True).update(take=take)


@transaction.atomic
def store_reading(*, shot: Shot, take: Take, result: ReadResult) -> Reading:
    """The new take and reading in place of the old, all or nothing."""
    Shot.objects.filter(pk=shot.pk).update(take=take)
    old = Reading.objects.select_for_update().filter(shot=shot).first()
    reading, _ = Reading.objects.update_or_create(
        shot=shot,
        defaults={
            "document": reading_to_dict(result.reading),
            "warnings": list(result.warnings),
            "revision": old.revision + 1 if old else 1,
        },
    )
    return reading


@transaction.atomic
def show_set(*, shot: Shot, chart: Chart, first: int, last: int) -> None:
    """Show a set of the character's mouths on frames `first` to `last` (numbers as people see them).

    It goes over what was there; the character's first set takes the frames back. Timing and sounds stay.
    """
    Shot.objects.select_for_update().get(pk=shot.pk)
    if chart.part.character_id != shot.character_id or not chart.part.speaks:
        raise ChartError(f"“{chart.name}” is not a set of {shot.character.name}'s mouths.")
    assert shot.take is not None
    frames = shot.production.rate.frames_in(shot.take.duration_us)
    if not shot.first_frame <= first <= last < shot.first_frame + frames:
        raise TimingError(f"This shot has frames {shot.first_frame} to {shot.first_frame + frames - 1}.")
    # Refuse a set that cannot speak before anything changes.
    is_first = chart == shot.character.mouth.charts.first()
    if not is_first:
        _ = chart.content
    rate = shot.production.rate
    start_us, end_us = rate.first_us(first - shot.first_frame), rate.first_us(last + 1 - shot.first_frame)
    for old in shot.set_stretches.filter(start_us__lt=end_us, end_us__gt=start_us):
        old.delete()
        for left, right in ((old.start_us, start_us), (end_us, old.end_us)):
            if left < right:
                SetStretch.objects.create(shot=shot, chart=old.chart, start_us=left, end_us=right)
    if not is_first:
        SetStretch.objects.create(shot=shot, chart=chart, start_us=start_us, end_us=end_us)
