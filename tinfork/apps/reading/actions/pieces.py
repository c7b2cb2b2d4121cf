"""Cutting a long recording into pieces, and sending pieces to shots."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.db import transaction

from tinfork.apps.cast.models import Character
from tinfork.apps.common.sanitising import whole_number
from tinfork.apps.people.models import User
from tinfork.apps.produce.actions import add_shot, add_to_cast
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.placing import next_frame_us
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.casting import USUAL, words_of
from tinfork.apps.reading.models import FoundLine
from tinfork.apps.sound.models import Take
from tinfork.apps.sound.queries import speech_in
from tinfork.core.errors import SoundError
from tinfork.core.script import ScriptLine
from tinfork.core.sound.silence import SoundSpan, pieces_around
from tinfork.core.soundtrack.edits import place
from tinfork.core.speech.reading import DOUBTFUL, Line, Reading

MAX_SENT = 400


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of a take with handles, its words and speaker.

    Also the confidence in these (0 to 1), and the matching line of the script, if any.
    """

    start_us: int
    end_us: int
    text: str = ""
    speaker: Character | None = None
    sure: float = 1.0
    language: str = ""
    found: FoundLine | None = None

    @property
    def is_doubtful(self) -> bool:
        """Whether its confidence is low."""
        return self.sure < DOUBTFUL


def pieces_by_silence(take: Take, pause_ms: int) -> list[Piece]:
    """Stretches of speech between silences of at least a given length."""
    spans = pieces_around(speech_in(take, pause_ms * 1000), take.duration_us)
    return [Piece(s.start_us, s.end_us) for s in spans]


def pieces_by_line(take: Take) -> list[Piece]:
    """The lines that were found in a take, in time order."""
    reading = take.content
    lines = sorted((line for line in reading.lines if line.words), key=lambda x: x.start_us) if reading else []
    spans = pieces_around([SoundSpan(line.start_us, line.end_us) for line in lines], take.duration_us)
    people = {str(c.pk): c for c in take.production.studio.characters.all()}
    found = {one.start_us: one for one in take.found_lines.select_related("shot")}
    return [
        Piece(
            span.start_us,
            span.end_us,
            line.text,
            people.get(line.speaker),
            sum(w.confidence for w in line.words) / len(line.words),
            line.language,
            found.get(line.start_us),
        )
        for span, line in zip(spans, lines, strict=True)
    ]


@transaction.atomic
def send_pieces(*, take: Take, spans: Sequence[tuple[int, int]], shot: Shot | None, by: User) -> list[Shot]:
    """Send each span of a take to a new shot, or all of them to an existing one, in order, with their words."""
    if len(spans) > MAX_SENT:
        raise SoundError("You can send up to {max_sent} phrases at once.", max_sent=MAX_SENT)
    people = {str(c.pk): c for c in take.production.studio.characters.all()}
    usual = take.speaker or next((c for c in people.values() if c.archived_at is None), None)
    if usual is None:
        raise SoundError("There are no characters yet. Create one in Cast first.")
    reading = take.content or Reading(take.duration_us)
    out: list[Shot] = []
    for start, end in spans:
        lines = [line for line in reading.lines if line.words and start <= _middle(line) < end]
        who = [people[line.speaker] for line in lines if line.speaker in people] or [usual]
        target = shot or add_shot(
            production=take.production, name=_free_name(take.production, take, lines), character=who[0]
        )
        add_to_cast(target, who)
        _place(target, take, (start, end), lines, people, by)
        out.append(target)
    return list(dict.fromkeys(out))


def _middle(line: Line) -> int:
    return (line.start_us + line.end_us) // 2


def _place(
    shot: Shot,
    take: Take,
    span: tuple[int, int],
    lines: list[Line],
    people: dict[str, Character],
    by: User,
) -> None:
    row = locked(shot)
    st = row.content
    end_us = max((c.end_us for c in st.clips), default=0)
    at_us = next_frame_us(shot.production.rate, end_us)
    own = Reading(take.duration_us, tuple(lines))
    if take.content and take.content.turns:
        own = replace(own, turns=take.content.turns)
    record_edit(row, place(st, take.pk, take.duration_us, at_us, part=span, reading=own), name="place", by=by)
    said = [
        ScriptLine(
            people[x.speaker].name if x.speaker in people else "", x.text, "" if x.language == USUAL else x.language
        )
        for x in lines
    ]
    if said:
        words = "\n".join(part for part in (shot.words.strip(), words_of(said)) if part)
        shot.words = words
        Shot.objects.filter(pk=shot.pk).update(words=words)


def _free_name(production: Production, take: Take, lines: list[Line]) -> str:
    """A name from the next number, in tens, and the first words."""
    names = set(production.shots.values_list("name", flat=True))
    firsts = (whole_number(name.split()[0], 0, 99_999) for name in names if name.split())
    numbers = [number for number in firsts if number is not None]
    number = (max(numbers, default=0) // 10 + 1) * 10
    text = " ".join(lines[0].text.split()[:4]).strip(".,;:!?…") if lines else take.name.rsplit(".", 1)[0]
    name = f"{number:03d} {text}"[:80]
    while name in names:
        number += 10
        name = f"{number:03d} {text}"[:80]
    return name
