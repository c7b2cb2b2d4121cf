"""Placing the lines of a production's script that were found in a take.

The best of each goes into its shot, the others stay listed with the take.
"""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from django.db import transaction

from tinfork.apps.jobs.actions import start_job
from tinfork.apps.jobs.fairness import expected_s
from tinfork.apps.jobs.models import Job
from tinfork.apps.people.models import User
from tinfork.apps.produce.models import Production, Shot
from tinfork.apps.reading.actions.placing import next_frame_us
from tinfork.apps.reading.actions.soundtracks import locked, record_edit
from tinfork.apps.reading.casting import USUAL, texts_of, words_of
from tinfork.apps.reading.models import FoundLine
from tinfork.apps.reading.queries import soundtrack_of
from tinfork.apps.sound.actions import set_reading
from tinfork.apps.sound.models import Take
from tinfork.core.errors import SoundError
from tinfork.core.script import ScriptLine
from tinfork.core.sound.silence import SoundSpan, pieces_around
from tinfork.core.soundtrack.edits import insert_gap, place, remove, split
from tinfork.core.soundtrack.model import Clip, Soundtrack
from tinfork.core.speech.reading import Line, Reading
from tinfork.engines.finding import FoundLines
from tinfork.engines.wording import LineText

#: Consecutive lines of the script with at most this gap in the recording stay one piece.
_TOGETHER_US = 3_000_000
#: A line that fits worse than this is uncertain, and not placed by itself.
_LEAST_FIT = 0.55


@dataclass(frozen=True, slots=True)
class WantedLine:
    """A line of the script: its shot, its index there, and its words."""

    shot: Shot
    at: int
    text: LineText


def script_lines(production: Production) -> list[WantedLine]:
    """All lines of a production's shots, in order. Raises `WordsError` for an unknown name."""
    shots = production.shots.exclude(words="").prefetch_related("parts__character")
    return [WantedLine(shot, at, text) for shot in shots for at, text in enumerate(texts_of(shot, shot.words))]


def missing_lines(script: Sequence[WantedLine]) -> list[int]:
    """The indices of lines that their shots do not have yet."""
    out: list[int] = []
    for _, own in groupby(range(len(script)), key=lambda number: script[number].shot.pk):
        numbers = list(own)
        reading = soundtrack_of(script[numbers[0]].shot).reading
        there = Counter((line.text, line.language) for line in reading.lines if line.words)
        for number in numbers:
            text = script[number].text
            if there[text.text, text.language]:
                there[text.text, text.language] -= 1
            else:
                out.append(number)
    return out


def start_finding(*, take: Take, spoken: str, by: User, sound_s: float | None = None) -> Job:
    """Start the job that finds the production's script in a take, after the take was opened."""
    options: dict[str, object] = {"take": take.pk, "name": take.name, "spoken": spoken}
    seconds = expected_s(Job.Kind.FIND, take.duration_us / 1e6 if sound_s is None else sound_s, options)
    lock = f"take:{take.pk}"
    return start_job(kind=Job.Kind.FIND, on=take.production, by=by, options=options, lock=lock, seconds=seconds)


@dataclass(frozen=True, slots=True)
class PlacedTake:
    """The result for a recording.

    How many lines of the script were found, how many of them were placed, in how many shots, how many are said more
    than once, and how much speech is not in the script.
    """

    found: int
    placed: int
    shots: int
    again: int
    loose: int


@dataclass(frozen=True, slots=True)
class _Piece:
    """A part of a take for a shot: the index of its first line there, and its reading."""

    at: int
    span: SoundSpan
    lines: tuple[Line, ...]


@transaction.atomic
def lay_found(*, take: Take, script: Sequence[WantedLine], found: Sequence[FoundLines], by: User | None) -> PlacedTake:
    """Store the found lines of a take, and place the best of each line that its shot does not have yet."""
    lines = [replace(one.line, speaker=_speaker(one, script, take)) for one in found]
    set_reading(take, Reading(take.duration_us, tuple(lines)), _words(take, lines))
    chosen = _best_of_each(found, missing_lines(script))
    for shot, pieces in _pieces(take, script, chosen, lines):
        _lay(shot, take, pieces, by)
    placed = set(chosen.values()) | set(_placed_before(take, lines))
    take.found_lines.all().delete()
    FoundLine.objects.bulk_create(
        FoundLine(
            take=take,
            shot=None if one.number is None else script[one.number].shot,
            speaker=line.speaker,
            text=line.text,
            start_us=line.start_us,
            end_us=line.end_us,
            fit=one.fit,
            is_placed=at in placed,
        )
        for at, (one, line) in enumerate(zip(found, lines, strict=True))
    )
    count = Counter(one.number for one in found if one.number is not None)
    return PlacedTake(
        len(count),
        len(chosen),
        len({script[number].shot.pk for number in chosen}),
        sum(times > 1 for times in count.values()),
        len(found) - count.total(),
    )


def _placed_before(take: Take, lines: Sequence[Line]) -> Iterator[int]:
    """The indices of lines that an earlier search has placed."""
    before = [(one.text, one.start_us, one.end_us) for one in take.found_lines.filter(is_placed=True)]
    for at, line in enumerate(lines):
        if any(text == line.text and start < line.end_us and line.start_us < end for text, start, end in before):
            yield at


def _speaker(one: FoundLines, script: Sequence[WantedLine], take: Take) -> str:
    return str(take.speaker_id or "") if one.number is None else script[one.number].text.speaker


def _words(take: Take, lines: Sequence[Line]) -> str:
    names = {str(c.pk): c.name for c in take.production.studio.characters.all()}
    return words_of(
        ScriptLine(names.get(line.speaker, ""), line.text, "" if line.language == USUAL else line.language)
        for line in lines
        if line.text
    )


def _best_of_each(found: Sequence[FoundLines], wanted: Sequence[int]) -> dict[int, int]:
    """The best place of each found line of the script; the last of equals."""
    best: dict[int, int] = {}
    for at, one in enumerate(found):
        number = one.number
        if number is None or number not in wanted or one.fit < _LEAST_FIT:
            continue
        if number not in best or one.fit >= found[best[number]].fit:
            best[number] = at
    return best


def _pieces(
    take: Take, script: Sequence[WantedLine], chosen: Mapping[int, int], lines: Sequence[Line]
) -> Iterator[tuple[Shot, list[_Piece]]]:
    """The pieces for each shot, in the script's order; lines said without a pause stay together."""
    spans = _spans(take, [(line.start_us, line.end_us) for line in lines])
    for _, own in groupby(sorted(chosen), key=lambda number: script[number].shot.pk):
        runs: list[list[int]] = []
        for number in own:
            at = chosen[number]
            last = runs[-1][-1] if runs else -1
            is_next = last >= 0 and number == last + 1 and at == chosen[last] + 1
            if is_next and lines[at].start_us - lines[at - 1].end_us < _TOGETHER_US:
                runs[-1].append(number)
            else:
                runs.append([number])
        pieces = [
            _Piece(
                script[run[0]].at,
                SoundSpan(spans[chosen[run[0]]].start_us, spans[chosen[run[-1]]].end_us),
                tuple(lines[chosen[number]] for number in run),
            )
            for run in runs
        ]
        yield script[runs[0][0]].shot, pieces


def _spans(take: Take, times: Sequence[tuple[int, int]]) -> list[SoundSpan]:
    return pieces_around([SoundSpan(start_us, end_us) for start_us, end_us in times], take.duration_us)


def _lay(shot: Shot, take: Take, pieces: Sequence[_Piece], by: User | None) -> None:
    """Place pieces of a take in a shot, each before later lines of the shot."""
    row = locked(shot)
    st = row.content
    rate = shot.production.rate
    order = {text.text: at for at, text in reversed(list(enumerate(texts_of(shot, shot.words))))}
    for piece in pieces:
        later = [
            clip.start_us
            for clip, said in _said(st)
            if said and min(order.get(line.text, -1) for line in said) > piece.at
        ]
        if later:
            at_us = next_frame_us(rate, min(later))
            ends_us = next_frame_us(rate, at_us + piece.span.end_us - piece.span.start_us)
            st = insert_gap(st, min(later), ends_us - min(later))
        else:
            at_us = next_frame_us(rate, max((clip.end_us for clip in st.clips), default=0))
        st = _placed(st, take, piece.span, piece.lines, at_us)
    record_edit(row, st, name="place", by=by, parameters={"take": take.pk})


def _said(st: Soundtrack) -> Iterator[tuple[Clip, list[Line]]]:
    """Each clip of a voice, and the lines that it plays."""
    for clip, voice in st.voice_clips():
        ends_us = clip.in_us + clip.length_us
        yield clip, [x for x in voice.reading.lines if x.words and x.start_us < ends_us and clip.in_us < x.end_us]


def _placed(st: Soundtrack, take: Take, span: SoundSpan, lines: Sequence[Line], at_us: int) -> Soundtrack:
    reading = Reading(take.duration_us, tuple(lines))
    return place(st, take.pk, take.duration_us, at_us, part=(span.start_us, span.end_us), reading=reading)


@transaction.atomic
def use_found(*, line: FoundLine, by: User) -> None:
    """Use a take's line in its shot, replacing the one there or at its place.

    Raises `SoundError` if the shot's line was changed since it was placed.
    """
    shot, take = line.shot, line.take
    if shot is None:
        raise SoundError("This is not in the script. Tick it and send it to a shot.")
    old = shot.found_lines.filter(text=line.text, speaker=line.speaker, is_placed=True).exclude(pk=line.pk).first()
    reading = take.content
    said = tuple(x for x in reading.lines if (x.start_us, x.text) == (line.start_us, line.text)) if reading else ()
    if not said:
        raise SoundError("This take was re-read meanwhile. Find script lines in it again.")
    if old:
        _exchange(shot, old, line, said, by)
    elif any(one.text == line.text and one.words for one in soundtrack_of(shot).reading.lines):
        raise SoundError("The shot already has this line from another take. Place this take there by hand.")
    else:
        order = [text.text for text in texts_of(shot, shot.words)]
        at = order.index(line.text) if line.text in order else len(order)
        _lay(shot, take, [_Piece(at, _span_of(line), said)], by)
    FoundLine.objects.filter(pk=line.pk).update(is_placed=True)


def _exchange(shot: Shot, old: FoundLine, line: FoundLine, said: Sequence[Line], by: User) -> None:
    row = locked(shot)
    st = row.content
    was, new = _span_of(old), _span_of(line)
    clip = _clip_of(st, old)
    if clip is None:
        raise SoundError("The clip with this line was changed or removed in the shot. Place this take there by hand.")
    # Only the line's part of the clip, which may contain its neighbours.
    for cut_us in (clip.start_us + was.start_us - clip.in_us, clip.start_us + was.end_us - clip.in_us):
        across = next((c for c in st.clips if c.track == clip.track and c.start_us < cut_us < c.end_us), None)
        st = split(st, across.id, cut_us) if across else st
    own = _clip_of(st, old)
    assert own is not None
    st = remove(st, own.id)
    more_us = next_frame_us(shot.production.rate, own.start_us + new.end_us - new.start_us) - own.end_us
    if more_us > 0:
        st = insert_gap(st, own.end_us, more_us)
    st = _placed(st, line.take, new, said, own.start_us)
    record_edit(row, st, name="place", by=by, parameters={"take": line.take_id, "instead": old.take_id})
    FoundLine.objects.filter(pk=old.pk).update(is_placed=False)


def _clip_of(st: Soundtrack, line: FoundLine) -> Clip | None:
    """The clip that plays a found line."""
    return next(
        (c for c, _ in st.voice_clips() if c.take == line.take_id and c.in_us <= line.start_us < c.in_us + c.length_us),
        None,
    )


def _span_of(line: FoundLine) -> SoundSpan:
    """The span of a found line with handles."""
    rows = list(line.take.found_lines.order_by("start_us"))
    return _spans(line.take, [(one.start_us, one.end_us) for one in rows])[[one.pk for one in rows].index(line.pk)]
