"""The job that finds the lines of a production's script in a take, and places them in their shots."""

from collections.abc import Callable

from django.db import transaction
from django.urls import reverse

from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.reading.actions.finding import PlacedTake, lay_found, script_lines
from tinfork.apps.reading.actions.voices import remember_voices
from tinfork.apps.reading.work.follow import time_limit_s
from tinfork.apps.reading.work.hearing import wanted_for
from tinfork.apps.reading.work.opening import take_of
from tinfork.apps.reading.work.voice import row_of, whole_take
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message, joined
from tinfork.engines.finding import find_lines_of_voice
from tinfork.engines.hearing import voices_in
from tinfork.engines.isolated import run_isolated

#: The least fit of a line from which its speaker's voice is remembered.
_SURELY = 0.8
_PHASES = {"listen": Message("Hearing the words"), "align": Message("Placing each sound")}


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Hear the whole take, match it with the script, and place each shot's lines."""
    take = take_of(job)
    if not take.is_ready:
        raise SoundError(take.trouble or "The recording could not be opened.")
    production = take.production
    script = script_lines(production)
    wanted = wanted_for(production, job.options.get("spoken", ""))

    def progress(phase: str, share: float, *_: object) -> None:
        report(_PHASES.get(phase, phase), 0.02 + 0.94 * share)

    with row_of(whole_take(take), report) as voice:
        found = run_isolated(
            find_lines_of_voice,
            voice,
            [line.text for line in script],
            wanted,
            progress=progress,
            limit_s=3 * time_limit_s(voice),
        )
        spans: dict[str, list[tuple[int, int]]] = {}
        for one in found:
            if one.number is not None and one.fit > _SURELY:
                who = script[one.number].text.speaker
                spans.setdefault(who, []).append((one.line.start_us, one.line.end_us))
        voices = run_isolated(voices_in, voice, spans, progress=progress) if spans else {}
    report(Message("Adding lines to their shots"), 0.98)
    with transaction.atomic():
        laid = lay_found(take=take, script=script, found=found, by=job.by)
        remember_voices(production, voices)
    job.notes = [said_of(laid, len(script))]


def said_of(laid: PlacedTake, of: int) -> str:
    """The result for a recording, in words."""
    parts = [
        Message(
            "{count} of the script's {of} lines was found",
            many="{count} of the script's {of} lines were found",
            count=laid.found,
            of=of,
        ),
        Message(
            "{placed} of them new, in {count} shot",
            many="{placed} of them new, in {count} shots",
            placed=laid.placed,
            count=laid.shots,
        )
        if laid.placed
        else Message("all of them were already placed"),
    ]
    if laid.again:
        parts.append(
            Message("{count} is said more than once", many="{count} are said more than once", count=laid.again)
        )
    if laid.loose:
        parts.append(
            Message("{count} phrase not in the script", many="{count} phrases not in the script", count=laid.loose)
        )
    return joined([*parts[:-1], Message("{last}.", last=parts[-1])], "; ")


def undo(job: Job, ending: Ending) -> None:
    """Nothing to undo: nothing is stored before the last step."""


def home(job: Job) -> str:
    """The take's page."""
    return reverse("take", args=[job.options["take"]])


after = home
