"""Queries of a shot's sound and reading."""

from collections.abc import Iterable
from typing import Any

from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.sound.models import Take
from tinfork.apps.sound.queries import speech_in
from tinfork.core.commands.declared import TakeInfo
from tinfork.core.errors import TimingError
from tinfork.core.formats.soundtrack_json import annotations_to_dict, timeline_to_dict
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack


def soundtrack_of(shot: Shot) -> Soundtrack:
    """A shot's soundtrack; an unsaved empty one for a shot that has none."""
    found = Soundtrack.objects.filter(shot=shot).first()
    return found or Soundtrack(shot=shot, **nothing_yet())


def nothing_yet() -> dict[str, Any]:
    """The stored form of a soundtrack without sound."""
    empty = CoreSoundtrack()
    return {"timeline": timeline_to_dict(empty), "annotations": annotations_to_dict(empty), "revision": 0}


def take_infos(production: Production, numbers: Iterable[int]) -> dict[int, TakeInfo]:
    """What edits need to know about ready takes of a production."""
    takes = Take.objects.filter(production=production, pk__in=set(numbers)).exclude(listening="")
    return {take.pk: TakeInfo(take.duration_us, take.content, _voice_from(take)) for take in takes}


def _voice_from(take: Take) -> int:
    spans = speech_in(take)
    return spans[0].start_us if spans else 0


def is_read(shot: Shot) -> bool:
    """Whether the shot has a reading."""
    return bool(soundtrack_of(shot).is_read)


def stretch_of(shot: Shot, first: int, last: int) -> tuple[int, int]:
    """The start and end in microseconds of frames `first` to `last`, numbered as shown to people.

    Raises `TimingError` for frames outside the shot.
    """
    rate = shot.production.rate
    frames = rate.frames_in(soundtrack_of(shot).duration_us)
    if not shot.first_frame <= first <= last < shot.first_frame + frames:
        raise TimingError(
            "This shot runs from frame {first} to {last}.",
            first=shot.first_frame,
            last=shot.first_frame + frames - 1,
        )
    return rate.first_us(first - shot.first_frame), rate.first_us(last + 1 - shot.first_frame)
