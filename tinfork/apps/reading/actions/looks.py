"""Settling second looks."""

from django.db import transaction

from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.soundtracks import locked

#: The newest so many are remembered.
MOST_SETTLED = 5_000


@transaction.atomic
def settle(*, shot: Shot, key: str, is_settled: bool = True) -> None:
    """A second look is settled, until its cause changes; or opened again."""
    row = locked(shot)
    others = [each for each in row.settled if each != key]
    row.settled = [*others, *([key] if is_settled else [])][-MOST_SETTLED:]
    row.save(update_fields=["settled"])
