"""Uploading a reference film, following the face in it, and deleting it for good."""

import json
from functools import partial

from django.db import transaction

from tinfork.apps.common.storage import keep_bytes, keep_file
from tinfork.apps.common.upkeep import remove_now
from tinfork.apps.jobs.actions import ask_to_cancel, start_job
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.queries import open_job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Shot
from tinfork.apps.reference.models import Reference
from tinfork.apps.sound.actions import Upload
from tinfork.core.errors import SoundError
from tinfork.core.motion.faces import FaceTrack
from tinfork.engines.tracking.models import MISSING, are_there

#: The most that a film may start before or after its shot (microseconds).
MOST_US = 3_600_000_000
_KINDS = (Job.Kind.REFERENCE, Job.Kind.FACES)


def upload_reference(*, shot: Shot, uploaded: Upload, begins_us: int, by: User) -> Reference:
    """Upload a shot's film, replacing the one before; a job opens it.

    Raises `SoundError` if the one before is still being processed, which is stopped.
    """
    # Outside the transaction: the request to stop must stay even if the rest fails.
    stop_work(shot=shot)
    if any(open_job(shot, kind) for kind in _KINDS):
        raise SoundError("The previous film is still being removed. Try again in a moment.")
    with transaction.atomic():
        remove_reference(shot=shot)
        reference = Reference.objects.create(
            shot=shot,
            name=uploaded.name[:200],
            original=keep_file(uploaded.path, ".film"),
            begins_us=_in_bounds(begins_us),
            by=by,
        )
        start_job(kind=Job.Kind.REFERENCE, on=shot, by=by, options={"reference": reference.pk}, lock=_lock(reference))
    return reference


def follow_face(*, reference: Reference, by: User) -> Job:
    """Start the job that follows the face in a film. Raises `SoundError` if that is not possible."""
    if not reference.film:
        raise SoundError("This film is still being opened.")
    if not are_there():
        raise SoundError(MISSING)
    seconds = max(2, round(0.3 * reference.duration_us / 1e6))
    options = {"reference": reference.pk}
    return start_job(
        kind=Job.Kind.FACES, on=reference.shot, by=by, options=options, lock=_lock(reference), seconds=seconds
    )


def begin_at(*, reference: Reference, begins_us: int) -> None:
    """Set the time in the shot at which a film begins, which may be negative."""
    Reference.objects.filter(pk=reference.pk).update(begins_us=_in_bounds(begins_us))


def stop_work(*, shot: Shot) -> None:
    """Stop the jobs on a shot's film; one that is not open yet is deleted."""
    for kind in _KINDS:
        if (job := open_job(shot, kind)) is not None:
            ask_to_cancel(job)


@transaction.atomic
def remove_reference(*, shot: Shot) -> None:
    """Delete a shot's film, if any, with everything measured in it, from disk, too.

    Keys that were made from it stay: they are the animator's.
    """
    stop_work(shot=shot)
    for reference in Reference.objects.select_for_update().filter(shot=shot):
        keys = reference.keys
        reference.delete()
        transaction.on_commit(partial(remove_now, keys))


def keep_face(reference: Reference, track: FaceTrack, notes: list[str]) -> None:
    """Store the measures of a film."""
    told = {
        "times_us": track.times_us.tolist(),
        "values": track.values.round(4).tolist(),
        "found": round(track.found, 4),
    }
    reference.face.name, reference.notes = keep_bytes(json.dumps(told).encode(), ".face"), notes
    reference.save(update_fields=["face", "notes"])


def _lock(reference: Reference) -> str:
    """The lock of a film's jobs, which is separate from that of the shot's jobs."""
    return f"reference:{reference.pk}"


def _in_bounds(begins_us: int) -> int:
    return max(-MOST_US, min(MOST_US, begins_us))
