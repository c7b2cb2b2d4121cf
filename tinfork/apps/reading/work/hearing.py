"""Reading a shot without typed words: the listener hears them, and they become its words."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import sha256

from tinfork.apps.jobs.models import Job
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.casting import words_of
from tinfork.apps.reading.models import HeardPart
from tinfork.apps.reading.work.follow import PartiallyRead, time_limit_s
from tinfork.apps.reading.work.voice import row_of
from tinfork.core.errors import Cancelled, TinForkError
from tinfork.core.formats.reading_json import reading_from_dict, reading_to_dict
from tinfork.core.messages import Message
from tinfork.core.script import ScriptLine, names_in, parse_plain
from tinfork.core.sound.speakers import Voiced
from tinfork.core.sound.voiceprint import Voiceprint, are_several
from tinfork.core.soundtrack.assembly import Region
from tinfork.core.speech.reading import Line, Reading
from tinfork.core.speech.unworded import BY_EAR
from tinfork.engines.hearing import EVERYBODY, tell_voices_apart
from tinfork.engines.isolated import run_isolated
from tinfork.engines.transcribing import HearingRequest, transcribe_voice

Report = Callable[[str, float], None]

_TELLING = Message("Finding who speaks when")
#: The number of shots whose words are used as context.
_SHOTS = 200
#: The number of character names that the listener gets.
_NAMES = 30


@dataclass(frozen=True)
class HeardPiece:
    """The result for a shot: its reading, its words as text, the language of most lines, and voiceprints.

    `spans` is who speaks when, if there are several voices.
    """

    reading: Reading
    words: str
    language: str
    spans: tuple[Voiced, ...] = ()
    voices: Mapping[str, Voiceprint] = field(default_factory=dict)


def hear_words(job: Job, shot: Shot, regions: Sequence[Region], report: Report) -> HeardPiece:
    """Hear the words in a shot's voices, all by its first character, in the job's language ("": detect it).

    Raises `PartiallyRead` if cancelled after some lines. Lines are stored as they come: after the worker was killed,
    the next one continues after them.
    """
    wanted = wanted_for(shot.production, job.options.get("spoken", ""))
    row = sha256(repr(list(regions)).encode()).hexdigest()
    before = [line for part in job.heard_parts.filter(row=row) for line in reading_from_dict(part.lines).lines]
    done: dict[int, Line] = dict(enumerate(before))
    duration_us = regions[-1].end_us

    def keep(part: list[tuple[int, Line]]) -> None:
        done.update(part)
        lines = tuple(line for _, line in part)
        HeardPart.objects.create(job=job, row=row, lines=reading_to_dict(Reading(duration_us, lines)))

    def progress(_: str, share: float) -> None:
        phase = Message("Hearing the words")
        if done:
            line = done[max(done)]
            phase = Message(
                "Hearing the words: {count} line · “{line}” at {seconds:.1f} s",
                many="Hearing the words: {count} lines · “{line}” at {seconds:.1f} s",
                count=len(done),
                line=line.text[:40],
                seconds=line.start_us / 1e6,
            )
        report(phase, 0.02 + 0.94 * share)

    with row_of(regions, report) as voice:
        try:
            reading = run_isolated(
                transcribe_voice,
                voice,
                wanted,
                before,
                progress=progress,
                keep=keep,
                limit_s=2 * time_limit_s(voice),
            )
        except Cancelled as cancelled:
            if not done:
                raise
            partly = Reading(duration_us, tuple(done[at] for at in sorted(done)))
            raise PartiallyRead(_said_by(shot, partly), len(done), len(done)) from cancelled
        spans, voices = run_isolated(tell_voices_apart, voice, None, progress=lambda *_: report(_TELLING, 0.96))
    heard = heard_of(shot, reading)
    everybody = voices.pop(EVERYBODY, None)
    if are_several(voices.values()):
        return replace(heard, spans=tuple(spans), voices=voices)
    return replace(heard, voices={EVERYBODY: everybody} if everybody else {})


def wanted_for(production: Production, spoken: str) -> HearingRequest:
    """How to listen to a production's sound.

    In one language, or ("") probably in those of its script; and with names that may occur.
    """
    lines = [(shot, line) for shot in production.shots.exclude(words="")[:_SHOTS] for line in _script(shot)]
    names = [c.name for c in production.studio.characters.filter(archived_at=None)[:_NAMES]]
    odd = production.pronunciations.values_list("word", flat=True)[:_NAMES]
    written = Counter(name for _, line in lines for name in names_in(line.text))
    told = dict.fromkeys([*names, *odd, *(name for name, _ in written.most_common(_NAMES))])
    expected = frozenset(line.language or shot.language for shot, line in lines)
    return HearingRequest(spoken, ", ".join(told), lexicon_of(production), expected)


def _script(shot: Shot) -> list[ScriptLine]:
    try:
        return parse_plain(shot.words)
    except TinForkError:
        # Words that are too long are reported when they are read.
        return []


def heard_of(shot: Shot, reading: Reading) -> HeardPiece:
    """A reading without speakers as the first character's, with its words as text."""
    worded = [line for line in reading.lines if line.method != BY_EAR]
    count = Counter(line.language for line in worded)
    usual = count.most_common(1)[0][0] if count else shot.language
    names = [shot.character.name] if len(count) > 1 else [""]
    rows = [ScriptLine(names[0], line.text, line.language if line.language != usual else "") for line in worded]
    return HeardPiece(_said_by(shot, reading), words_of(rows), usual)


def _said_by(shot: Shot, reading: Reading) -> Reading:
    speaker = str(shot.character.pk)
    return replace(reading, lines=tuple(replace(line, speaker=speaker) for line in reading.lines))
