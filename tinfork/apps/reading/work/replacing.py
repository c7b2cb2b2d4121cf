"""The job that replaces a take by a better one with the same words."""

from collections.abc import Callable

from django.db import transaction
from django.urls import reverse

from tinfork.apps.common.storage import local_copy
from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.work.follow import read_plan
from tinfork.apps.reading.work.opening import open_take, take_of
from tinfork.apps.reading.work.opening import undo as undo_opening
from tinfork.apps.reading.work.voice import row_of, whole_take
from tinfork.apps.sound.actions import set_reading
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.core.soundtrack.replacing import replace_take
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.rereading import whole_plan
from tinfork.engines.wording import LineText


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Open the new take, and read the old one's words in it.

    All shots that use the old one are changed in one transaction.
    """
    new = take_of(job)
    old = Take.objects.filter(pk=job.options["old"]).first()
    if old is None:
        raise SoundError("The take to replace was deleted.")
    if not new.is_ready:
        with local_copy(new.original) as path:
            open_take(new, path, lambda done: report(Message("Opening the sound"), 0.2 * done))
    rows = list(Soundtrack.objects.filter(takes=old).select_related("shot__production"))
    wanted = {(row.pk, v.id): v.reading for row in rows for v in row.content.voices if v.take == old.pk}
    sources = list({id(r): r for r in [*wanted.values(), *([old.content] if old.content else [])]}.values())
    read: dict[tuple[str, ...], Reading] = {}
    with row_of(whole_take(new), report) as voice:
        for at, source in enumerate(sources):
            share = 0.2 + 0.75 * at / max(1, len(sources))
            key = _key(source)
            if key not in read:
                read[key] = _read(voice, source, new, lambda p, d, s=share: report(p, s + 0.75 * d / len(sources)))  # type: ignore[misc]
    with transaction.atomic():
        for row in rows:
            now = locked(row.shot)
            st = now.content
            readings = {
                v.id: read.get(_key(v.reading)) or Reading(new.duration_us) for v in st.voices if v.take == old.pk
            }
            after_it = replace_take(st, old.pk, new.pk, new.duration_us, readings)
            record_edit(now, after_it, name="replace", by=job.by, parameters={"old": old.pk, "new": new.pk})
        if old.content:
            set_reading(new, read[_key(old.content)], old.words)
        Take.objects.filter(pk=new.pk).update(speaker=old.speaker)
    job.notes = [
        Message(
            "“{new}” replaced “{old}” in {count} shot.",
            many="“{new}” replaced “{old}” in {count} shots.",
            new=new.name,
            old=old.name,
            count=len(rows),
        )
    ]


def _key(reading: Reading) -> tuple[str, ...]:
    return tuple(f"{line.speaker}:{line.language}:{line.text}" for line in reading.lines)


def _read(voice, source: Reading, new: Take, report: Callable[[str, float], None]) -> Reading:  # type: ignore[no-untyped-def]
    """The lines of a reading in another take."""
    texts = [LineText(line.text, line.speaker, line.language) for line in source.lines if line.words]
    if not texts:
        return Reading(new.duration_us)
    empty = Reading(new.duration_us)
    plan = whole_plan(empty, [(t.speaker, t.text, t.language) for t in texts])
    reading, _ = read_plan(voice, texts, empty, plan, report, lexicon=lexicon_of(new.production))
    return reading


def undo(job: Job, ending: Ending) -> None:
    """Shots keep the old take. A new one that was uploaded for this is handled like any failed upload."""
    undo_opening(job, ending)


def home(job: Job) -> str:
    """The new take's page."""
    there = Take.objects.filter(pk=job.options["take"]).exists()
    return reverse("take", args=[job.options["take"] if there else job.options["old"]])


after = home
