"""Starting a reading."""

from collections.abc import Sequence

from django.db import transaction

from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import open_job
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_to_cast
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.placing import upload_sounds
from tinfork.apps.reading.casting import people_of, script_of, speakers_in
from tinfork.apps.reading.methods import ReadingMethod, ReadingRequest
from tinfork.apps.reading.queries import soundtrack_of, stretch_of
from tinfork.apps.sound.actions import Upload
from tinfork.core.errors import SoundError
from tinfork.core.speech.lexicon import base_language


@transaction.atomic
def start_reading(*, shot: Shot, asked: ReadingRequest, by: User, uploaded: Sequence[Upload] = ()) -> Job:
    """Store the words, upload their sounds, and queue the reading after them.

    Characters in the script join the shot's cast. Unchanged lines are not read again, unless everything is.
    """
    Shot.objects.filter(pk=shot.pk).update(words=asked.words, language=asked.language or shot.language)
    if asked.method == ReadingMethod.WORDS:
        people = people_of(shot.production.studio)
        add_to_cast(shot, speakers_in(script_of(asked.words, people), people))
    if uploaded:
        alone = shot.character if shot.parts.count() == 1 else None
        upload_sounds(production=shot.production, uploaded=uploaded, by=by, shot=shot, speaker=alone)
    elif not soundtrack_of(shot).content.clips and not is_arriving(shot):
        raise SoundError("The shot has no sound. Choose the recording: a WAV, MP3 or FLAC file.")
    options = {"words": asked.words, "all": asked.everything, "way": asked.method.value, "spoken": asked.spoken}
    if asked.is_dropped:
        options["dropped"] = True
    if asked.acts:
        options["acts"] = True
    return start_job(kind=Job.Kind.READ, on=shot, by=by, options=options)


def read_again(*, shot: Shot, word: str, language: str, by: User) -> Job | None:
    """Re-read the lines of a shot that have a word; None if there is no reading yet.

    A waiting reading includes the word.
    """
    if not soundtrack_of(shot).is_read:
        return None
    again = [base_language(language), word]
    job = start_job(kind=Job.Kind.READ, on=shot, by=by, options={"words": shot.words, "again": [again]})
    if again not in job.options.get("again", []):
        job.options["again"] = [*job.options.get("again", []), again]
        job.save(update_fields=["options"])
    return job


def read_stretch(*, shot: Shot, first: int, last: int, by: User) -> Job:
    """Re-read the words on frames `first` to `last` (as shown to people), and no others.

    Raises `SoundError` if there is nothing to re-read, `TimingError` for frames outside the shot.
    """
    if not soundtrack_of(shot).is_read:
        raise SoundError("This shot has not been read yet.")
    if open_job(shot, Job.Kind.READ):
        raise SoundError("This shot is being read. Wait until it is done, then re-read the frames.")
    stretch = stretch_of(shot, first, last)
    return start_job(kind=Job.Kind.READ, on=shot, by=by, options={"words": shot.words, "stretch": stretch})


def is_arriving(shot: Shot) -> bool:
    """Whether a sound for the shot is still being opened."""
    return Job.objects.filter(
        production=shot.production, options__shot=shot.pk, state__in=(Job.State.WAITING, Job.State.RUNNING)
    ).exists()
