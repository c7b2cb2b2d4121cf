"""The job that reads a shot: aligns changed lines of its script with its voices, and updates its soundtrack."""

from collections.abc import Callable
from dataclasses import replace

from django.db import transaction
from django.urls import reverse

from tinfork.apps.jobs.models import Ending, Job
from tinfork.apps.produce.models import Shot
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.actions.acting import with_acting
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.actions.speakers import accept_speakers, keep_proposal
from tinfork.apps.reading.actions.voices import who_is_heard
from tinfork.apps.reading.casting import texts_of
from tinfork.apps.reading.methods import ReadingMethod
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.reading.work.follow import PartiallyRead, read_plan
from tinfork.apps.reading.work.hearing import HeardPiece, hear_words, heard_of
from tinfork.apps.reading.work.unworded import read_without_words
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.errors import Cancelled, SoundError
from tinfork.core.messages import Message
from tinfork.core.soundtrack.assembly import Region, assemble, gather, row_spans, spread
from tinfork.core.soundtrack.model import Soundtrack as CoreSoundtrack
from tinfork.core.speech.keeping import difference
from tinfork.core.speech.lexicon import Lexicon, base_language, fold_word
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.rereading import plan_rereading, whole_plan, with_unworded


def run(job: Job, report: Callable[[str, float], None]) -> None:
    """Read the shot's voices with its script; unchanged lines keep their reading."""
    shot = job.shot
    assert shot is not None
    report(Message("Opening the sound"), 0.0)
    st = soundtrack_of(shot).content
    regions = assemble(st)
    if not regions:
        raise SoundError(_why_no_voice(shot))
    way = ReadingMethod(job.options.get("way", ReadingMethod.WORDS))
    if way == ReadingMethod.HEARD:
        _hear(job, shot, regions, report)
        return
    if way != ReadingMethod.WORDS:
        store_reading(job, regions, *read_without_words(shot, regions, way, report))
        return
    texts = texts_of(shot, job.options["words"])
    old = gather(st, regions)
    keys = [(text.speaker, text.text, text.language) for text in texts]
    asked = _ShotTask(job, st, regions, lexicon_of(shot.production))
    plan = whole_plan(old, keys) if asked.is_all else plan_rereading(old, keys, asked.is_stale)
    is_free = (lambda word: True) if asked.is_all else asked.is_in_stretch if asked.spans else None
    try:
        with row_of(regions, report) as voice:
            reading, warnings = read_plan(voice, texts, old, plan, report, lexicon=asked.lexicon, is_free=is_free)
        reading = with_unworded(old, reading)
    except PartiallyRead as partly:
        store_reading(job, regions, partly.reading, ())
        job.kept = Message(
            "{done} of {total} lines were read before that and are kept.", done=partly.done, total=partly.total
        )
        raise Cancelled(str(partly)) from partly
    if any(old.words()):
        changed = difference(old, reading).text
        job.notes = [
            Message("Re-read: {changed}.", changed=changed) if changed else Message("Re-read: nothing changed.")
        ]
    report(Message("Saving the reading"), 0.98)
    store_reading(job, regions, reading, warnings)


def _why_no_voice(shot: Shot) -> str:
    """The error of the shot's recording, if it could not be opened."""
    last = Job.objects.filter(kind=Job.Kind.TAKE, options__shot=shot.pk).first()
    if last and last.state == Job.State.FAILED and last.error:
        error: str = last.error
        return error
    return Message("The shot has no voice to read. Import a recording first.")


def _hear(job: Job, shot: Shot, regions: tuple[Region, ...], report: Callable[[str, float], None]) -> None:
    """Hear the words and store them with their reading, also those heard before a cancel."""
    try:
        heard = hear_words(job, shot, regions, report)
    except PartiallyRead as partly:
        _keep_heard(job, shot, regions, heard_of(shot, partly.reading))
        job.kept = Message(
            "{count} line was heard before that and is kept.",
            many="{count} lines were heard before that and are kept.",
            count=partly.done,
        )
        raise Cancelled(str(partly)) from partly
    report(Message("Saving the reading"), 0.98)
    _keep_heard(job, shot, regions, heard)


@transaction.atomic
def _keep_heard(job: Job, shot: Shot, regions: tuple[Region, ...], heard: HeardPiece) -> None:
    if job.options.get("dropped") and not heard.spans:
        heard = _by_whoever_it_is(shot, heard)
    Shot.objects.filter(pk=shot.pk).update(words=heard.words, language=heard.language)
    job.options["words"] = heard.words
    job.heard_parts.all().delete()
    row = store_reading(job, regions, heard.reading, ())
    if not heard.spans:
        return
    known = keep_proposal(shot=shot, regions=regions, spans=heard.spans, voices=heard.voices)
    if {str(span.voice) for span in heard.spans} == set(known):
        # Everything was heard before.
        accept_speakers(shot=shot, cast=known, by=job.by)
    else:
        Soundtrack.objects.filter(pk=row.pk).update(warnings=[SEVERAL_VOICES])


def _by_whoever_it_is(shot: Shot, heard: HeardPiece) -> HeardPiece:
    """If a shot was made for a recording of one known voice, give it to that character."""
    known = list(who_is_heard(shot.production, heard.voices).values())
    if len(known) != 1 or known[0] == str(shot.character.pk) or shot.parts.count() != 1:
        return heard
    shot.parts.update(character=known[0])
    lines = tuple(replace(line, speaker=known[0]) for line in heard.reading.lines)
    return replace(heard, reading=replace(heard.reading, lines=lines))


#: The note for a reading with several voices.
SEVERAL_VOICES = Message("More than one voice was heard. Choose the characters under Clips and turns.")


class _ShotTask:
    """What a job reads again although its text is unchanged."""

    def __init__(self, job: Job, st: CoreSoundtrack, regions: tuple[Region, ...], lexicon: Lexicon) -> None:
        self.is_all = bool(job.options.get("all"))
        self.lexicon = lexicon
        self._words = {(language, word) for language, word in job.options.get("again", ())}
        start_us, end_us = job.options.get("stretch") or (0, 0)
        self.spans = row_spans(st, regions, start_us, end_us)

    def is_in_stretch(self, word: Word) -> bool:
        """Whether a word of the row is in the stretch to be read again."""
        return any(word.start_us < end and start < word.end_us for start, end in self.spans)

    def is_stale(self, line: Line) -> bool:
        """Whether a line has a word with changed sounds, or is in the stretch."""
        said = {(base_language(line.language), fold_word(word.text)) for word in line.words}
        return bool(said & self._words) or self.lexicon.differs(line) or any(map(self.is_in_stretch, line.words))


@transaction.atomic
def store_reading(job: Job, regions: tuple[Region, ...], reading: Reading, warnings: tuple[str, ...]) -> Soundtrack:
    """Store the reading in the current soundtrack; clips may have been moved meanwhile."""
    assert job.shot is not None
    row = locked(job.shot)
    st = row.content
    there = {v.id: v.take for v in st.voices}
    known = tuple(r for r in regions if there.get(r.voice) == r.take)
    row.warnings = list(warnings)
    row.save()
    after = spread(st, known, reading)
    if job.options.get("acts"):
        after = with_acting(job.shot, after)
    record_edit(row, after, name="read", by=job.by, parameters={"words": job.options["words"]})
    return row


def undo(job: Job, ending: Ending) -> None:
    """Delete the lines heard so far; everything else was stored by `run`."""
    job.heard_parts.all().delete()


def home(job: Job) -> str:
    """The shot's page of words."""
    return reverse("shot", args=[job.shot_id])


def after(job: Job) -> str:
    """Its Desk."""
    return reverse("desk", args=[job.shot_id])
