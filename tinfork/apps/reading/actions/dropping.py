"""Turning recordings that were dropped on a production into shots."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.db import models, transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_shot
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.finding import start_finding
from tinfork.apps.reading.actions.placing import upload_sounds
from tinfork.apps.reading.actions.reading import start_reading
from tinfork.apps.reading.methods import ReadingMethod, ReadingRequest
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.sound.actions import Upload
from tinfork.apps.sound.models import Take
from tinfork.core.messages import Message

_NAME = 80


class DropResult(models.TextChoices):
    """What dropped recordings become."""

    SHOTS = "shots", Message("one shot per file")
    ONE = "one", Message("one shot, files in a row")
    SCRIPT = "script", Message("the script's shots")
    TAKES = "takes", Message("takes only, no shots")


@dataclass(frozen=True, slots=True)
class Drop:
    """The choices for dropped recordings: `spoken` is the language ("": detect it); `acts`: propose acting."""

    into: DropResult
    character: Character
    spoken: str = ""
    acts: bool = False

    def kept(self) -> dict[str, Any]:
        """The choices as plain values, for the production to store."""
        return {"into": self.into.value, "character": self.character.pk, "spoken": self.spoken, "acts": self.acts}


@transaction.atomic
def drop_sounds(
    *, production: Production, uploaded: Sequence[Upload], drop: Drop, by: User
) -> tuple[list[Take], list[Shot]]:
    """Create takes of the recordings, and shots that are read.

    Their words are heard, or the script's lines are found in them.

    The choices are stored. Returns the takes that stay takes, and the new shots.
    """
    Production.objects.filter(pk=production.pk).update(dropping=drop.kept())
    if drop.into in (DropResult.TAKES, DropResult.SCRIPT):
        takes = upload_sounds(production=production, uploaded=uploaded, by=by)
        for take, one in zip(takes, uploaded, strict=True):
            if drop.into == DropResult.SCRIPT:
                sound_s = one.info.duration_s if one.info else None
                start_finding(take=take, spoken=drop.spoken, by=by, sound_s=sound_s)
        return takes, []
    groups = [[one] for one in uploaded] if drop.into == DropResult.SHOTS else [list(uploaded)]
    taken = set(Shot.objects.filter(production=production).values_list("name", flat=True))
    shots: list[Shot] = []
    for group in groups:
        name = free_name(Path(group[0].name).stem, taken)
        taken.add(name)
        shot = add_shot(production=production, name=name, character=drop.character)
        asked = ReadingRequest("", method=ReadingMethod.HEARD, spoken=drop.spoken, is_dropped=True, acts=drop.acts)
        start_reading(shot=shot, asked=asked, by=by, uploaded=group)
        shots.append(shot)
    return [], shots


@transaction.atomic
def let_go_of_dropped(shot_id: int) -> None:
    """Delete a shot that was made for an unreadable recording, with its waiting reading."""
    shot = Shot.objects.select_for_update().filter(pk=shot_id, words="").first()
    if shot is None or soundtrack_of(shot).content.clips:
        return
    others = Job.objects.filter(kind=Job.Kind.TAKE, options__shot=shot.pk, state=Job.State.WAITING)
    if shot.jobs.filter(options__dropped=True, state=Job.State.WAITING).exists() and not others.exists():
        shot.delete()


def free_name(name: str, taken: set[str]) -> str:
    """A name for a shot from a file's name, with a number if it is taken."""
    name = " ".join(name.replace("_", " ").split())[:_NAME] or "Recording"
    number = 2
    found = name
    while found in taken:
        found = f"{name[: _NAME - 5]} {number}"
        number += 1
    return found
