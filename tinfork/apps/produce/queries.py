"""Reading productions."""

from dataclasses import dataclass

from tinfork.apps.produce.models import Production, Shot


@dataclass(frozen=True, slots=True)
class ShotRow:
    """A line of the shot list."""

    shot: Shot
    frames: int | None
    state: str
    doubts: int


def shot_rows(production: Production) -> list[ShotRow]:
    """The shots with their length, how far they are, and the words to look at again."""
    shots = production.shots.select_related("soundtrack").prefetch_related("jobs", "parts__character")
    lists_need_not = [f"soundtrack__{name}" for name in ("heard", "rows", "proposal")]
    return [_row(shot, production) for shot in shots.defer(*lists_need_not)]


def _row(shot: Shot, production: Production) -> ShotRow:
    soundtrack = getattr(shot, "soundtrack", None)
    has_sound = soundtrack is not None and soundtrack.duration_us > 0
    frames = production.rate.frames_in(soundtrack.duration_us) if soundtrack and has_sound else None
    latest = max(shot.jobs.all(), key=lambda job: job.created_at, default=None)
    if latest and latest.is_open:
        state = "reading"
    elif soundtrack and soundtrack.is_read:
        state = "read"
    elif latest and latest.state == latest.State.FAILED:
        state = "failed"
    elif has_sound:
        state = "needs reading"
    else:
        state = "needs sound"
    return ShotRow(shot, frames, state, soundtrack.doubts if soundtrack else 0)
