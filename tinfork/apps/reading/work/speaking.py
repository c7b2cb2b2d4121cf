"""The job that synthesises a text: a scratch take whose exact times become its reading."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from tinfork.apps.jobs.models import Job
from tinfork.apps.reading.actions.placing import place_take
from tinfork.apps.reading.work.opening import home, open_take, take_of, undo
from tinfork.apps.sound.actions import set_reading
from tinfork.core.messages import Message
from tinfork.core.script import ScriptLine
from tinfork.engines.decode import Sound, write_sound
from tinfork.engines.isolated import run_isolated
from tinfork.engines.talking import Voicing, speak_lines

__all__ = ["after", "home", "run", "undo"]


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Synthesise the text, open the sound, store its times."""
    take = take_of(job)
    wanted = job.options["voicing"]
    lines = [ScriptLine(**line) for line in job.options["lines"]]

    def progress(phase: str, done: float) -> None:
        report(phase, 0.6 * done)

    samples, rate_hz, reading = run_isolated(speak_lines, lines, Voicing(**wanted), progress=progress)
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "spoken.wav"
        write_sound(Sound(samples[:, None], rate_hz), path)
        open_take(take, path, lambda done: report(Message("Saving the sound"), 0.6 + 0.3 * done))
    set_reading(take, reading, take.words)
    place_take(take=take, options=job.options, by=job.by)


after = home
