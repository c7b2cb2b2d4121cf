"""Animated thumbnails of shots for the board: made on demand, and kept until the shot changes."""

from django.db.models.fields.files import FieldFile
from django.http import Http404

from tinfork.apps.common.concurrency import ConcurrencyLimit
from tinfork.apps.common.storage import keep_bytes
from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.produce.models import MovingPicture, Shot
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.engines.handover.small import first_webp, moving_webp

_MAKING = ConcurrencyLimit(2)


def moving_picture(shot: Shot) -> FieldFile:
    """The current animated thumbnail of a shot (WebP); raises `Http404` for a shot that has not been read."""
    soundtrack = soundtrack_of(shot)
    if not soundtrack.is_read:
        raise Http404
    known = MovingPicture.objects.filter(shot=shot).first()
    if known and known.revision == soundtrack.revision:
        return known.picture
    with _MAKING.inside():
        key = keep_bytes(moving_webp(scene_of(shot)), ".webp")
    made, _ = MovingPicture.objects.update_or_create(
        shot=shot, defaults={"picture": key, "revision": soundtrack.revision}
    )
    return made.picture


def still_picture(shot: Shot) -> bytes:
    """Its first picture, as WebP."""
    with moving_picture(shot).open("rb") as file:
        return first_webp(file.read())
