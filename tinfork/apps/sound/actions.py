"""Uploading, editing and deleting takes and story reels."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.common.storage import keep_bytes, keep_file
from tinfork.apps.produce.models import Production
from tinfork.apps.sound.models import Reel, Take
from tinfork.core.errors import SoundError
from tinfork.core.formats.reading_json import reading_to_dict
from tinfork.core.messages import Message, joined
from tinfork.core.sound.checks import SoundFinding
from tinfork.core.speech.reading import Reading
from tinfork.engines.decode import Opened
from tinfork.engines.probing import SoundInfo


@dataclass(frozen=True, slots=True)
class Upload:
    """A checked upload."""

    name: str
    path: Path
    info: SoundInfo | None = None


def upload_take(
    *,
    production: Production,
    uploaded: Upload,
    speaker: Character | None = None,
    source: Take.Source = Take.Source.FILE,
) -> Take:
    """Create a take of a file; a job opens it."""
    info = uploaded.info
    cut = info is not None and info.cut_short
    return Take.objects.create(
        production=production,
        name=uploaded.name[:200],
        speaker=speaker,
        source=source,
        original=keep_file(uploaded.path, ".sound"),
        channels=info.channels if info else 0,
        rate_hz=info.rate_hz if info else 0,
        note=Message("The file is cut short. The sound that is there was kept.") if cut else "",
    )


def finish_take(take: Take, opened: Opened, flac: Path, findings: Sequence[SoundFinding]) -> None:
    """Store the results of opening a take."""
    levels = np.clip(np.rint(opened.measured.levels_db), -120, 0).astype(np.int8)
    take.listening.name = keep_file(flac, ".flac")
    take.peaks.name = keep_bytes(_pack(opened), ".peaks")
    take.levels.name = keep_bytes(levels.tobytes(), ".levels")
    take.duration_us = opened.duration_us
    take.channels, take.rate_hz = opened.info.channels, opened.info.rate_hz
    take.loudness, take.true_peak_db = opened.loudness, opened.true_peak_db
    take.findings = [
        {"kind": f.kind, "text": f.text.to_dict() if isinstance(f.text, Message) else f.text} for f in findings
    ]
    take.trouble = ""
    take.save()


def keep_trouble(take: Take, words: str) -> None:
    """Store the error of a take that could not be opened; its file stays, and it can be opened again."""
    Take.objects.filter(pk=take.pk).update(trouble=words)


def _pack(opened: Opened) -> bytes:
    """The waveform pyramid as one file: a line of JSON with the byte length of each level, then the levels."""
    levels = [level.tobytes() for level in opened.measured.peaks]
    head = json.dumps({"lengths": [len(level) for level in levels]}).encode() + b"\n"
    return head + b"".join(levels)


def set_reading(take: Take, reading: Reading, words: str) -> None:
    """Set the words and reading of a take."""
    take.reading, take.words = reading_to_dict(reading), words
    Take.objects.filter(pk=take.pk).update(reading=take.reading, words=words)


def describe_take(*, take: Take, name: str, speaker: Character | None) -> None:
    """Change a take's name and character."""
    take.name, take.speaker = name[:200], speaker
    take.save(update_fields=["name", "speaker"])


@transaction.atomic
def remove_take(take: Take) -> None:
    """Delete a take from the library; raises `SoundError` while shots use it."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    shots = [use.soundtrack.shot for use in locked.uses.select_related("soundtrack__shot")[:3]]
    uses = [Message("{name} (in the archive)", name=shot.name) if shot.archived_at else shot.name for shot in shots]
    if uses:
        raise SoundError(
            "“{name}” is in {uses}. Remove its clips there first, or replace it.",
            name=take.name,
            uses=joined(uses, ", "),
        )
    locked.delete()


def upload_reel(*, production: Production, uploaded: Upload) -> Reel:
    """Create a story reel of a film; a job opens it."""
    return Reel.objects.create(
        production=production, name=uploaded.name[:200], original=keep_file(uploaded.path, ".film")
    )


def remove_reel(reel: Reel) -> None:
    """Delete a story reel; shots do not show it any more, and its sound stays in the library."""
    reel.delete()
