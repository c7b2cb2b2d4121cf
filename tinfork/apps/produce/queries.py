"""Reading productions."""

from dataclasses import dataclass

from tinfork.apps.produce.models import Production, Shot
from tinfork.engines.reader import DOUBTFUL


@dataclass(frozen=True, slots=True)
class ShotRow:
    """A line of the shot list."""

    shot: Shot
    frames: int | None
    state: str
    doubts: int


def shot_rows(production: Production) -> list[ShotRow]:
    """The shots with their length, how far they are, and the words to look at again."""
    shots = production.shots.select_related("character", "take", "reading").prefetch_related("jobs")
    return [_row(shot, production) for shot in shots]


def _row(shot: Shot, production: Production) -> ShotRow:
    reading = getattr(shot, "reading", None)
    frames = production.rate.frames_in(shot.take.duration_us) if shot.take else None
    doubts = 0
    if reading:
        lines = reading.document["lines"]
        doubts = sum(w["confidence"] < DOUBTFUL for line in lines for w in line["words"])
    latest = max(shot.jobs.all(), key=lambda job: job.created_at, default=None)
    if latest and latest.is_open:
        state = "reading"
    elif reading:
        state = "read"
    elif latest and latest.state == latest.State.FAILED:
        state = "failed"
    else:
        state = "needs sound"
    return ShotRow(shot, frames, state, doubts)
