"""A shot's waveform, computed from those of its takes, and its mix for listening and exports."""

import hashlib
import tempfile
import threading
from contextlib import ExitStack
from pathlib import Path

import numpy as np
from django.core.files.storage import default_storage
from django.db import transaction
from numpy.typing import NDArray

from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.common.storage import keep_file, local_copy
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.sound.models import Take
from tinfork.apps.sound.queries import finest_peaks
from tinfork.core.soundtrack.mix import mix_peaks
from tinfork.engines.mixing import write_mix

#: Locks, so that a mix is made only once at a time in this process; mixes share this many.
_LOCKS = [threading.Lock() for _ in range(64)]


#: Recent waveforms, by soundtrack and whether effects are left out, with their inputs.
_PEAKS: RecentCache[tuple[int, bool], tuple[object, list[NDArray[np.int8]]]] = RecentCache(16)


def shot_peaks(soundtrack: Soundtrack, *, voices_only: bool = False) -> list[NDArray[np.int8]]:
    """The waveform pyramid of a shot; the same object as long as the sound does not change."""
    st = soundtrack.content
    takes = soundtrack.heard_takes
    asked = st.clips, st.tracks, st.duration_us, {take.pk: take.peaks for take in takes}
    last, levels = _PEAKS.get((soundtrack.pk, voices_only)) or (None, [])
    if last != asked:
        levels = mix_peaks(st, {take.pk: finest_peaks(take) for take in takes}, voices_only=voices_only)
        _PEAKS.put((soundtrack.pk, voices_only), (asked, levels))
    return levels


def mix_mark(soundtrack: Soundtrack, *, for_listening: bool) -> str:
    """A hash of everything that a shot's mix depends on."""
    st = soundtrack.content
    takes = {t.pk: (t.listening.name, t.gain_db) for t in soundtrack.heard_takes}
    heard = [t.id for t in st.tracks if not t.is_muted]
    parts = [
        (c.start_us, c.in_us, c.length_us, c.fade_in_us, c.fade_out_us, c.gain_db, takes.get(c.take))
        for c in st.clips
        if c.track in heard
    ]
    return hashlib.sha256(repr((st.duration_us, parts, for_listening)).encode()).hexdigest()


def shot_mix(soundtrack: Soundtrack, *, for_listening: bool) -> str:
    """The storage key of the shot's mix, which is made if needed. Takes are levelled only for listening."""
    takes = [take for take in soundtrack.heard_takes if take.listening]
    if soundtrack.content.is_plain() and len(takes) == 1 and not (for_listening and takes[0].gain_db):
        return takes[0].listening.name or ""
    mark, purpose = mix_mark(soundtrack, for_listening=for_listening), "listening" if for_listening else "handover"
    # Browsers request several ranges of a sound at once: mix it only once.
    with _LOCKS[int(mark[:8], 16) % len(_LOCKS)]:
        kept = Soundtrack.objects.only("mixes").get(pk=soundtrack.pk).mixes.get(purpose)
        if isinstance(kept, dict) and kept["mark"] == mark and default_storage.exists(kept["key"]):
            return str(kept["key"])
        return _mix(soundtrack, takes, mark, purpose)


def _mix(soundtrack: Soundtrack, takes: list[Take], mark: str, purpose: str) -> str:
    """Mix the shot's sound and store its key: a shot keeps the newest mix for each purpose."""
    with ExitStack() as stack, tempfile.TemporaryDirectory() as folder:
        paths = {take.pk: stack.enter_context(local_copy(take.listening)) for take in takes}
        gains = {take.pk: take.gain_db for take in takes} if purpose == "listening" else {}
        target = Path(folder) / "mix.flac"
        write_mix(soundtrack.content, paths, target, gains_db=gains)
        with transaction.atomic():
            row = Soundtrack.objects.select_for_update().get(pk=soundtrack.pk)
            key = keep_file(target, ".flac")
            mixes = {**row.mixes, purpose: {"mark": mark, "key": key}}
            Soundtrack.objects.filter(pk=row.pk).update(mixes=mixes)
    return key
