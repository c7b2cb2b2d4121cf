"""Starting a reading."""

from collections.abc import Sequence

from django.db import transaction

from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_to_cast
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.placing import bring_sounds
from tinfork.apps.reading.casting import people_of, script_of, speakers_in
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.sound.actions import Brought
from tinfork.core.errors import SoundError


@transaction.atomic
def start_reading(
    *, shot: Shot, words: str, by: User, brought: Sequence[Brought] = (), everything: bool = False
) -> Job:
    """Keep the words, take in sounds that came with them, and put the reading on the queue behind them.

    Whoever the script names joins the shot's cast. Lines that have not changed are not read again, unless `everything`.
    """
    Shot.objects.filter(pk=shot.pk).update(words=words)
    people = people_of(shot.production.studio)
    add_to_cast(shot, speakers_in(script_of(words, people), people))
    if brought:
        alone = shot.character if shot.parts.count() == 1 else None
        bring_sounds(production=shot.production, brought=brought, by=by, shot=shot, speaker=alone)
    elif not soundtrack_of(shot).content.clips and not is_arriving(shot):
        raise SoundError("The shot has no sound. Choose the recording: a WAV, MP3 or FLAC file.")
    return start_job(kind=Job.Kind.READ, on=shot, by=by, options={"words": words, "all": everything})


def is_arriving(shot: Shot) -> bool:
    """Whether a sound for the shot is still being opened."""
    return Job.objects.filter(
        production=shot.production, options__shot=shot.pk, state__in=(Job.State.WAITING, Job.State.RUNNING)
    ).exists()
