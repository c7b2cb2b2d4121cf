"""Sound for jobs: the voices of takes joined into one sound at the reader's rate."""

import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.apps.common.storage import local_copy
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.core.soundtrack.assembly import Region
from tinfork.engines.decode import decode_voice
from tinfork.engines.limits import READING_HZ

Report = Callable[[str, float], None]


def take_voice(take: Take, beat: Callable[[], None]) -> NDArray[np.float32]:
    """A whole take, mono at the reader's rate."""
    with local_copy(take.listening) as path:
        return decode_voice(path, take.name, beat).samples[:, 0]


def whole_take(take: Take) -> tuple[Region, ...]:
    """The row of a single take."""
    return (Region(0, take.pk, 0, take.duration_us, 0),)


@contextmanager
def row_of(regions: Sequence[Region], report: Report) -> Iterator[Path]:
    """Write a row to a file of samples for another process; `report` is called meanwhile."""
    takes = {t.pk: t for t in Take.objects.filter(pk__in={r.take for r in regions}).exclude(listening="")}
    parts: list[NDArray[np.float32]] = []
    last: tuple[int, NDArray[np.float32]] | None = None
    for region in regions:
        if region.take not in takes:
            raise SoundError("A recording of this shot is missing. Remove its clip, or import it again.")
        if last is None or last[0] != region.take:
            last = (region.take, take_voice(takes[region.take], lambda: report(Message("Opening the sound"), 0.0)))
        first, end = (_sample(region.at_us), _sample(region.end_us))
        at = _sample(region.in_us)
        part = last[1][at : at + end - first]
        parts.append(np.pad(part, (0, end - first - len(part))))
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "voice.npy"
        np.save(path, np.concatenate(parts) if parts else np.zeros(0, dtype=np.float32))
        yield path


def _sample(time_us: int) -> int:
    return time_us * READING_HZ // 1_000_000
