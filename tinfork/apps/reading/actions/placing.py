"""Uploading takes, and placing them in shots."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.fairness import expected_s
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.sound.actions import Upload, upload_reel, upload_take
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.clock import FrameRate
from tinfork.core.soundtrack.edits import place
from tinfork.core.soundtrack.model import VOICE


@transaction.atomic
def upload_sounds(
    *,
    production: Production,
    uploaded: Sequence[Upload],
    by: User,
    shot: Shot | None = None,
    speaker: Character | None = None,
    source: Take.Source = Take.Source.FILE,
    kind: str = VOICE,
) -> list[Take]:
    """Create takes of checked files, each with its job; they are placed in a shot, in order, if one is given."""
    takes: list[Take] = []
    for one in uploaded:
        take = upload_take(production=production, uploaded=one, speaker=speaker, source=source)
        open_later(take, by=by, shot=shot, kind=kind, sound_s=one.info.duration_s if one.info else None)
        takes.append(take)
    return takes


def open_later(
    take: Take,
    *,
    by: User,
    shot: Shot | None = None,
    kind: str = VOICE,
    job: Job.Kind = Job.Kind.TAKE,
    sound_s: float | None = None,
    **more: object,
) -> Job:
    """Start the job that opens a take; jobs of a shot run in order, so that a reading waits for its sound."""
    options: dict[str, object] = {"take": take.pk, "name": take.name, **more}
    if shot:
        options |= {"shot": shot.pk, "kind": kind}
    lock = f"shot:{shot.pk}" if shot else f"take:{take.pk}"
    seconds = expected_s(job, take.duration_us / 1e6 if sound_s is None else sound_s, options)
    return start_job(kind=job, on=take.production, by=by, options=options, lock=lock, seconds=seconds)


@transaction.atomic
def place_take(*, take: Take, options: Mapping[str, Any], by: User | None) -> None:
    """Place a take after the existing sound of its shot; safe to repeat."""
    shot = Shot.objects.filter(pk=options.get("shot") or 0, production=take.production).first()
    if shot is None:
        return
    row = locked(shot)
    st = row.content
    if any(c.take == take.pk for c in st.clips):
        return
    kind = options.get("kind", VOICE)
    end_us = max((c.end_us for c in st.clips if st.track(c.track).kind == kind), default=0)
    start_us = next_frame_us(shot.production.rate, end_us)
    after = place(st, take.pk, take.duration_us, start_us, kind=kind, reading=take.content)
    record_edit(row, after, name="place", by=by, parameters={"take": take.pk})


def next_frame_us(rate: FrameRate, time_us: int) -> int:
    """The start of the first frame at or after a time."""
    frame = rate.frame_at(time_us)
    return time_us if rate.first_us(frame) == time_us else rate.first_us(frame + 1)


@transaction.atomic
def start_reel(*, production: Production, uploaded: Upload, by: User, shot: Shot | None = None) -> Reel:
    """Create a story reel of a checked film, with its job."""
    reel = upload_reel(production=production, uploaded=uploaded)
    options: dict[str, object] = {"reel": reel.pk, **({"shot": shot.pk} if shot else {})}
    start_job(kind=Job.Kind.REEL, on=production, by=by, options=options, lock=f"reel:{reel.pk}")
    return reel


def show_reel(*, reel: Reel, options: Mapping[str, Any]) -> None:
    """Show a reel beside the shot it was uploaded for."""
    Shot.objects.filter(pk=options.get("shot") or 0, production=reel.production).update(reel=reel, reel_from_us=0)
