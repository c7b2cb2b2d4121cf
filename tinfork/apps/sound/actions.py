"""Bringing takes in, and taking them back out."""

import json
from pathlib import Path

from django.core.files.storage import default_storage
from django.db import models, transaction

from tinfork.apps.common.storage import keep_bytes, keep_file
from tinfork.apps.produce.models import Production
from tinfork.apps.sound.models import Take
from tinfork.core.sound.peaks import peak_pyramid
from tinfork.engines.decode import Sound, SoundInfo

_FILES = ("original", "listening", "peaks")


def bring_take(*, production: Production, name: str, path: Path, info: SoundInfo) -> Take:
    """A take of a file that was looked into; it is decoded by the reading job."""
    note = (
        "The file is cut short: it promises more sound than it holds. What is there was kept." if info.cut_short else ""
    )
    return Take.objects.create(
        production=production,
        name=name[:200],
        original=keep_file(path, ".sound"),
        channels=info.channels,
        rate_hz=info.rate_hz,
        note=note,
    )


def finish_take(take: Take, sound: Sound, flac: Path) -> None:
    """Store what decoding gave."""
    take.listening.name = keep_file(flac, ".flac")
    take.peaks.name = keep_bytes(pack_peaks(sound), ".peaks")
    take.duration_us = sound.duration_us
    take.save()


def pack_peaks(sound: Sound) -> bytes:
    """The pyramid in one file: a line of JSON with the byte length of each level, then the levels."""
    levels = [level.tobytes() for level in peak_pyramid(sound.samples.mean(axis=1), sound.rate_hz)]
    head = json.dumps({"lengths": [len(level) for level in levels]}).encode() + b"\n"
    return head + b"".join(levels)


def drop_take(take: Take) -> None:
    """Delete a take that no shot uses, and the files that no other take shares."""
    names = [getattr(take, field).name for field in _FILES if getattr(take, field)]
    take.delete()

    def sweep() -> None:
        for name in names:
            shared = models.Q(original=name) | models.Q(listening=name) | models.Q(peaks=name)
            if not Take.objects.filter(shared).exists():
                default_storage.delete(name)

    transaction.on_commit(sweep)
