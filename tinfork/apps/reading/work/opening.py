"""The job that opens a take: listening copy, waveform, loudness and faults; then it places the take in its shot."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from django.urls import reverse

from tinfork.apps.common.storage import local_copy
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.dropping import let_go_of_dropped
from tinfork.apps.reading.actions.placing import place_take
from tinfork.apps.reading.actions.voices import remember_voices
from tinfork.apps.sound.actions import finish_take, keep_trouble
from tinfork.apps.sound.models import Take
from tinfork.core.errors import EngineError, SoundError
from tinfork.core.messages import Message
from tinfork.core.sound.checks import SoundFinding, check_sound
from tinfork.core.sound.voiceprint import voiceprints
from tinfork.engines.decode import Opened, Sound, decode_voice, flac_length_us, open_sound

#: The length of a sample at the reader's rate, and its rounding.
_SAMPLE_US = 130
#: How much of a take is used for its speaker's voiceprint.
_KNOWN_US = 120_000_000


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Open the take, then place it in the shot for which it was uploaded."""
    take = take_of(job)
    if not take.is_ready:
        keep_trouble(take, "")
        with local_copy(take.original) as path:
            voice = open_take(take, path, lambda done: report(Message("Opening {name}", name=take.name), 0.8 * done))
        if take.speaker_id:
            own = {str(take.speaker_id): [(0, _KNOWN_US)]}
            some = voice.samples[: _KNOWN_US * voice.rate_hz // 1_000_000, 0]
            remember_voices(take.production, voiceprints(some, voice.rate_hz, own))
    report(Message("Saving the sound"), 0.95)
    place_take(take=take, options=job.options, by=job.by)


def take_of(job: Job) -> Take:
    """The take in a job's options."""
    take = Take.objects.filter(pk=job.options["take"]).first()
    if take is None:
        raise SoundError("The recording is missing. Import it again.")
    return take


def open_take(take: Take, path: Path, progress: Callable[[float], None]) -> Sound:
    """Decode, measure and check a file as a take; returns its voice at the reader's rate."""
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        flac = Path(folder) / "listening.flac"
        opened, voice, findings = look_into(path, take.name, flac, progress)
        finish_take(take, opened, flac, findings)
        return voice


def look_into(
    path: Path, name: str, flac: Path, progress: Callable[[float], None]
) -> tuple[Opened, Sound, list[SoundFinding]]:
    """Decode a file to its listening copy `flac`.

    Returns its measures, its voice at the reader's rate, and its faults.
    """
    opened = open_sound(path, flac, name, progress)
    voice = decode_voice(flac, name, lambda: progress(1.0))
    # A full disk silently truncates a copy: compare its length with its header.
    promised_us = flac_length_us(flac)
    if promised_us is not None and abs(voice.duration_us - promised_us) > _SAMPLE_US:
        raise EngineError(
            "The copy of “{name}” could not be written whole; is the disk full? The recording is kept.", name=name
        )
    return opened, voice, check_sound(opened.measured, voice.samples[:, 0], voice.rate_hz)


def undo(job: Job, ending: Ending) -> None:
    """Delete an invalid file; if our side failed, keep it with an error message."""
    take = Take.objects.filter(pk=job.options["take"], listening="").first()
    if take and ending is Ending.BROKE:
        keep_trouble(take, job.error)
    elif take:
        take.delete()
        if job.options.get("shot"):
            let_go_of_dropped(job.options["shot"])


def home(job: Job) -> str:
    """The page of the upload: a shot, or the library."""
    if Shot.objects.filter(pk=job.options.get("shot") or 0).exists():
        return reverse("shot", args=[job.options["shot"]])
    return reverse("takes", args=[job.production_id])


after = home
