"""Second looks: places worth checking, each with its reason, the worst first.

They are always computed. A look that a person settled stays settled for as long as its `key` is the same: the key is
made
of what caused it, so that a new cause is a new look.
"""

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.messages import Message
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import Solution, drawing_on
from tinfork.core.sound.silence import speech_level_db, speech_stretches
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.reading import DOUBTFUL, Line, Reading, Turn, Word
from tinfork.core.speech.unworded import BY_EAR
from tinfork.core.speech.visemes import CLOSURES, REST, SOUNDS, class_of

#: A sound shown by a drawing this far from it is shown by a far-off one; rest by one that is not closed counts too.
_FAR_OFF = 0.55
#: Speech without words is pointed out from here on, and a mouth that does not rest for so long.
_BARE_US, _RESTLESS_US = 400_000, 20_000_000
#: Words of which less than this share is heard lie over silence.
_HEARD_SHARE = 0.25
_MOST_ANSWERS = 3


#: The kind of what somebody said in a review.
REMARK = "remark"


@dataclass(frozen=True, slots=True)
class Look:
    """A place `[start_us, end_us)`, why it is worth a look, how bad it is (0 to 1), and what caused it as a short
    mark. `answers`: what else the word there may be, the likeliest first; `who`: whose mouth it is about, where it is
    one's.
    """

    kind: str
    start_us: int
    end_us: int
    text: str
    severity: float
    key: str
    answers: tuple[str, ...] = ()
    who: str = ""


def _look(kind: str, start_us: int, end_us: int, text: str, severity: float, *cause: object) -> Look:
    mark = hashlib.sha256(repr((kind, *cause)).encode()).hexdigest()[:16]
    return Look(kind, start_us, end_us, text, round(severity, 3), mark)


def worst_first(looks: Iterable[Look]) -> list[Look]:
    """In the order in which they are walked through: by severity, then by time."""
    return sorted(looks, key=lambda look: (-look.severity, look.start_us, look.kind))


def looks_at_words(
    reading: Reading, is_unknown: Callable[[Word, Line], bool] = lambda word, line: False
) -> Iterator[Look]:
    """Doubtful words, words that are not heard, words that no dictionary has, lines by ear, and turns that overlap."""
    for line in reading.lines:
        for look in _looks_at_line(line, is_unknown):
            yield replace(look, who=line.speaker)
    yield from _overlaps(reading.turns)


def _looks_at_line(line: Line, is_unknown: Callable[[Word, Line], bool]) -> Iterator[Look]:
    """What is worth a look in one line."""
    if line.way == BY_EAR and line.words:
        first = line.words[0]
        text = _with_heard("look.by_ear", first.heard)
        yield _look("by ear", first.start_us, line.end_us, text, 0.55, first.heard, first.start_us // 100_000)
        return
    for word in line.words:
        if word.confidence < DOUBTFUL:
            text = _with_heard("look.doubt", word.heard, word=word.text)
            look = _look(
                "doubt", word.start_us, word.end_us, text, 1 - word.confidence, word.text, word.start_us // 100_000
            )
            yield replace(look, answers=_answers(word))
        if is_unknown(word, line):
            text = Message("look.unknown", word=word.text)
            sounds = tuple(p.ipa for p in word.phonemes)
            yield _look("unknown", word.start_us, word.end_us, text, 0.35, word.text, sounds)
    for extra in line.extras:
        if not any(w.start_us < extra.end_us and extra.start_us < w.end_us for w in line.words):
            text = _with_heard("look.bare", extra.heard)
            yield _look("bare", extra.start_us, extra.end_us, text, 0.7, extra.heard, extra.start_us // 100_000)
    for word_text in line.unsaid:
        text = Message("look.unsaid", word=word_text)
        yield _look("unsaid", line.start_us, max(line.end_us, line.start_us + 1), text, 0.8, word_text, line.text)


def _answers(word: Word) -> tuple[str, ...]:
    """What else a word may be, as far as it is one word."""
    heard = (word.heard,) if word.heard and len(word.heard.split()) == 1 else ()
    return tuple(dict.fromkeys((*heard, *word.others)))[:_MOST_ANSWERS]


def _with_heard(code: str, heard: str, **values: str) -> Message:
    """A reason, with what was heard instead where that is known."""
    return Message(f"{code}_heard", heard=heard, **values) if heard else Message(code, **values)


def _overlaps(turns: Sequence[Turn]) -> Iterator[Look]:
    ordered = sorted(turns, key=lambda t: t.start_us)
    for a, b in pairwise(ordered):
        if a.speaker != b.speaker and b.start_us < a.end_us:
            end = min(a.end_us, b.end_us)
            yield _look(
                "overlap",
                b.start_us,
                end,
                Message("look.overlap"),
                0.3,
                b.start_us,
                end,
                a.speaker,
                b.speaker,
            )


def looks_at_sound(reading: Reading, levels: NDArray[np.float64]) -> Iterator[Look]:
    """Speech that no word lies under, and words over silence; `levels` is dB per 10 ms, shape (hops,)."""
    if not len(levels):
        return
    covered = np.zeros(len(levels), dtype=bool)
    # What was heard between the words is pointed out already, by `looks_at_words`.
    spans = [(word.start_us, word.end_us) for word in reading.words()]
    spans += [(extra.start_us, extra.end_us) for line in reading.lines for extra in line.extras]
    for start_us, end_us in spans:
        covered[start_us // HOP_US : -(-end_us // HOP_US)] = True
    quiet = levels <= speech_level_db(levels)
    for stretch in speech_stretches(levels):
        part = covered[stretch.start_us // HOP_US : stretch.end_us // HOP_US]
        bare = np.flatnonzero(np.diff(np.concatenate(([0], ~part, [0])).astype(np.int8)))
        for a, b in bare.reshape(-1, 2):
            start, end = stretch.start_us + int(a) * HOP_US, stretch.start_us + int(b) * HOP_US
            if end - start >= _BARE_US:
                yield _look("bare", start, end, Message("look.bare"), 0.7, start // 100_000, end // 100_000)
    for line in reading.lines:
        for word in line.words:
            own = quiet[word.start_us // HOP_US : -(-word.end_us // HOP_US)]
            if len(own) and 1 - own.mean() < _HEARD_SHARE:
                text = Message("look.silence", word=word.text)
                cause = word.text, word.start_us // 100_000
                look = _look("silence", word.start_us, word.end_us, text, 0.6, *cause)
                yield replace(look, who=line.speaker)


def lost_pins(pins: Iterable[tuple[int, int, int]]) -> Iterator[Look]:
    """Pins (start, end, drawing number) whose drawing is gone: nothing is shown in its place unasked."""
    for start, end, drawing in pins:
        yield _look("pin", start, end, Message("look.pin", drawing=drawing), 0.9, start, drawing)


def looks_at_mouths(solution: Solution, holds: Sequence[Hold] | None = None) -> Iterator[Look]:
    """Closures that cannot be seen, holds that pins made too short, far-off drawings, flicker, a mouth that never
    rests.

    `holds` are those that are shown, where they are not the solution's own.
    """
    shown = tuple(holds if holds is not None else solution.holds)
    yield from _closures(solution, shown)
    yield from _lengths(solution, shown)
    yield from _far_off(solution)
    yield from _restless(solution, shown)


def _span(rate: FrameRate, start: int, end: int) -> tuple[int, int]:
    return rate.first_us(start), rate.first_us(end)


def _closures(solution: Solution, holds: tuple[Hold, ...]) -> Iterator[Look]:
    claims = {sound: solution.chart.drawing_for(sound) for sound in {sound for _, sound in solution.demand.closures}}
    for frame, sound in solution.demand.closures:
        hold = drawing_on(holds, frame) if holds else None
        claimed = claims[sound]
        if hold is None or (hold.viseme == class_of(sound) or hold.drawing == claimed.number):
            continue
        start, end = _span(solution.rate, frame, frame + 1)
        yield _look("closure", start, end, Message("look.closure", sound=sound), 0.75, sound, frame)


def _lengths(solution: Solution, holds: tuple[Hold, ...]) -> Iterator[Look]:
    least = solution.dials.shortest
    for hold in holds:
        length = hold.end - hold.start
        if length < least and len(holds) > 1:
            start, end = _span(solution.rate, hold.start, hold.end)
            text = Message("look.short", count=length, least=least)
            yield _look("short", start, end, text, 0.5, hold.start, length, hold.drawing)
    for a, b, c in zip(holds, holds[1:], holds[2:], strict=False):
        if a.drawing == c.drawing and a.set == c.set and b.end - b.start == 1:
            start, end = _span(solution.rate, b.start, b.end)
            yield _look("flicker", start, end, Message("look.flicker"), 0.55, b.start, a.drawing, b.drawing)


def _far_off(solution: Solution) -> Iterator[Look]:
    """Once for each sound: the chart has nothing near it."""
    seen: set[str] = set()
    for part in solution.parts:
        if part.sound in seen or part.sound == REST:
            continue
        seen.add(part.sound)
        away = float(solution.chart.distances[:, SOUNDS.index(part.sound)].min())
        if away > _FAR_OFF:
            number = solution.chart.drawing_for(part.sound).number
            text = Message("look.stand_in", sound=part.sound, drawing=number)
            severity = 0.65 if class_of(part.sound) in CLOSURES else 0.4
            yield _look("stand-in", part.start_us, part.end_us, text, severity, part.sound, number)


def _restless(solution: Solution, holds: tuple[Hold, ...]) -> Iterator[Look]:
    resting = solution.chart.resting.number
    # Whatever is shorter than this in frames is shorter in time.
    few = solution.rate.frame_at(_RESTLESS_US) - 1
    since = 0
    for hold in holds:
        if hold.viseme == REST or hold.drawing == resting:
            since = hold.end
            continue
        if hold.end - since < few:
            continue
        start, end = _span(solution.rate, since, hold.end)
        if end - start > _RESTLESS_US:
            yield _look("restless", start, end, Message("look.restless"), 0.25, since)
            since = hold.end
