"""Second looks: places worth checking, each with its reason, the worst first.

They are computed from the shot, never stored. A look that a person dismissed stays dismissed as long as its `key` is
the same: the key is made from the cause, so that a new cause is a new look.
"""

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.kept import kept, of_each
from tinfork.core.messages import Message
from tinfork.core.solver.holds import VISEME_AT, HoldColumns
from tinfork.core.solver.solve import Solution
from tinfork.core.sound.silence import speech_level_db, speech_stretches
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.reading import DOUBTFUL, Line, Reading, Turn, Word
from tinfork.core.speech.unworded import BY_EAR
from tinfork.core.speech.visemes import CLOSURES, REST, SOUNDS, class_of

#: A drawing this far from a sound is a poor match for it; also, a drawing for rest that is not closed.
_FAR_OFF = 0.55
#: The least length of speech without words, and of time without rest, for a second look.
_BARE_US, _RESTLESS_US = 400_000, 20_000_000
#: A word lies over silence if less than this share of it is heard.
_HEARD_SHARE = 0.25
_MOST_ANSWERS = 3


#: The kind of remarks from a review.
REMARK = "remark"


@dataclass(frozen=True, slots=True)
class Look:
    """A place `[start_us, end_us)`, the reason, the severity (0 to 1), and the cause as a short string.

    `answers`: what else the word there may be, the likeliest first; `who`: the character whose mouth it is about, if
    any.
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
    """Looks in the order in which they are shown: by severity, then by time."""
    return sorted(looks, key=lambda look: (-look.severity, look.start_us, look.kind))


def looks_at_words(
    reading: Reading, is_unknown: Callable[[Word, Line], bool] = lambda word, line: False
) -> Iterator[Look]:
    """Doubtful words, words that are not heard, words that no dictionary has, lines by ear, and turns that overlap."""
    for line in reading.lines:
        yield from looks_at_line(line, is_unknown)
    yield from looks_at_turns(reading.turns)


def looks_at_line(line: Line, is_unknown: Callable[[Word, Line], bool]) -> tuple[Look, ...]:
    """The looks of `looks_at_words` in one line."""
    return tuple(replace(look, who=line.speaker) for look in _looks_at_line(line, is_unknown))


def _looks_at_line(line: Line, is_unknown: Callable[[Word, Line], bool]) -> Iterator[Look]:
    """Find the looks in one line."""
    if line.method == BY_EAR and line.words:
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
    for word_text in line.missing_words:
        text = Message("look.unsaid", word=word_text)
        yield _look("unsaid", line.start_us, max(line.end_us, line.start_us + 1), text, 0.8, word_text, line.text)


def _answers(word: Word) -> tuple[str, ...]:
    """What else a word may be, of those that are a single word."""
    heard = (word.heard,) if word.heard and len(word.heard.split()) == 1 else ()
    return tuple(dict.fromkeys((*heard, *word.others)))[:_MOST_ANSWERS]


def _with_heard(code: str, heard: str, **values: str) -> Message:
    """A reason, with the words that were heard instead, if known."""
    return Message(f"{code}_heard", heard=heard, **values) if heard else Message(code, **values)


def looks_at_turns(turns: Sequence[Turn]) -> Iterator[Look]:
    """Turns that overlap."""
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
    """Speech without words, and words over silence; `levels` is dB per 10 ms, shape (hops,)."""
    if not len(levels):
        return
    spoken_runs, loud_before = _speech(levels)
    spans = of_each(_spans, reading.lines) or [_NO_SPANS]
    starts, ends, words = (np.concatenate(column) for column in zip(*spans, strict=True))
    firsts, lasts = starts // HOP_US, np.minimum(-(-ends // HOP_US), len(levels))
    inside = firsts < lasts
    runs = without_spans(spoken_runs, firsts[inside], lasts[inside]) * HOP_US
    for start, end in runs[runs[:, 1] - runs[:, 0] >= _BARE_US].tolist():
        yield _look("bare", start, end, Message("look.bare"), 0.7, start // 100_000, end // 100_000)
    spoken = inside & (words >= 0)
    heard = (loud_before[lasts[spoken]] - loud_before[firsts[spoken]]) / (lasts[spoken] - firsts[spoken])
    line_ends = np.cumsum([len(column) for column, *_ in spans])
    for at in np.flatnonzero(spoken)[heard < _HEARD_SHARE].tolist():
        line = reading.lines[int(np.searchsorted(line_ends, at, side="right"))]
        word = line.words[words[at]]
        text = Message("look.silence", word=word.text)
        cause = word.text, word.start_us // 100_000
        look = _look("silence", word.start_us, word.end_us, text, 0.6, *cause)
        yield replace(look, who=line.speaker)


def without_spans(
    runs: NDArray[np.integer], firsts: NDArray[np.integer], lasts: NDArray[np.integer]
) -> NDArray[np.int64]:
    """Subtract spans `[first, last)`, in any order, from runs `[start, end)`, shape (runs, 2).

    The runs are in order and do not touch.
    """
    order = np.argsort(firsts, kind="stable")
    begins, ends = firsts[order], np.maximum.accumulate(lasts[order])
    far = np.iinfo(np.int64).max
    # From the end of the spans so far to the start of the next one.
    gaps = np.column_stack([np.concatenate([[0], ends]), np.concatenate([begins, [far]])]).astype(np.int64)
    gaps = gaps[gaps[:, 0] < gaps[:, 1]]
    since = np.searchsorted(runs[:, 1], gaps[:, 0], side="right")
    until = np.searchsorted(runs[:, 0], gaps[:, 1], side="left")
    counts = np.maximum(until - since, 0)
    of_gap = np.repeat(np.arange(len(gaps)), counts)
    of_run = since[of_gap] + np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    starts = np.maximum(gaps[of_gap, 0], runs[of_run, 0])
    return np.column_stack([starts, np.minimum(gaps[of_gap, 1], runs[of_run, 1])])


@kept
def _speech(levels: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The runs of hops with speech, shape (runs, 2).

    Also the number of hops louder than the background before each hop, shape (hops + 1,).
    """
    voiced = np.zeros(len(levels) + 2, dtype=np.bool_)
    for stretch in speech_stretches(levels):
        voiced[stretch.start_us // HOP_US + 1 : stretch.end_us // HOP_US + 1] = True
    runs = np.flatnonzero(voiced[1:] != voiced[:-1]).reshape(-1, 2)
    return runs, np.concatenate([[0], np.cumsum(levels > speech_level_db(levels))])


_NO_SPANS = (np.zeros(0, dtype=np.int64),) * 3


@kept
def _spans(line: Line) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """The start, end and number of each word of a line.

    Speech without words, which `looks_at_words` reports already, has number -1.
    """
    spans = [(word.start_us, word.end_us, at) for at, word in enumerate(line.words)]
    spans += [(extra.start_us, extra.end_us, -1) for extra in line.extras]
    starts, ends, words = np.array(spans, dtype=np.int64).reshape(-1, 3).T
    return starts, ends, words


def lost_pins(pins: Iterable[tuple[int, int, int]]) -> Iterator[Look]:
    """Looks at pins (start, end, drawing number) whose drawing was removed: nothing replaces it unasked."""
    for start, end, drawing in pins:
        yield _look("pin", start, end, Message("look.pin", drawing=drawing), 0.9, start, drawing)


def looks_at_mouths(solution: Solution, holds: HoldColumns | None = None) -> Iterator[Look]:
    """What is worth a second look in how a character's mouths are timed.

    Hidden closures, holds that pins made too short, drawings that match poorly, flicker, a mouth that never rests.

    `holds` are those that are shown, if they are not the solution's own.
    """
    shown = solution.columns if holds is None else holds
    yield from _closures(solution, shown)
    yield from _lengths(solution, shown)
    yield from _far_off(solution)
    yield from _restless(solution, shown)


def _span(rate: FrameRate, start: int, end: int) -> tuple[int, int]:
    return rate.first_us(start), rate.first_us(end)


def _closures(solution: Solution, holds: HoldColumns) -> Iterator[Look]:
    claims = {sound: solution.chart.drawing_for(sound).number for sound in dict.fromkeys(_closing(solution))}
    if not len(holds):
        return
    frames = solution.demand.closure_frames
    shown = holds.on(frames)
    for sound, claimed in claims.items():
        is_seen = (holds.visemes[shown] == VISEME_AT[class_of(sound)]) | (holds.drawings[shown] == claimed)
        is_due = solution.demand.closure_sounds == SOUNDS.index(sound)
        for frame in frames[is_due & ~is_seen].tolist():
            start, end = _span(solution.rate, frame, frame + 1)
            yield _look("closure", start, end, Message("look.closure", sound=sound), 0.75, sound, frame)


def _closing(solution: Solution) -> list[str]:
    """The closures of the shot: sounds for which lips or teeth must meet."""
    return [SOUNDS[at] for at in np.unique(solution.demand.closure_sounds).tolist()]


def _lengths(solution: Solution, holds: HoldColumns) -> Iterator[Look]:
    least, lengths = solution.dials.shortest, holds.ends - holds.starts
    for at in np.flatnonzero((lengths < least) & (len(holds) > 1)).tolist():
        start, end = _span(solution.rate, *holds.frames(at))
        length = int(lengths[at])
        text = Message("look.short", count=length, least=least)
        yield _look("short", start, end, text, 0.5, int(holds.starts[at]), length, int(holds.drawings[at]))
    is_back = (holds.drawings[:-2] == holds.drawings[2:]) & (holds.sets[:-2] == holds.sets[2:])
    for before in np.flatnonzero(is_back & (lengths[1:-1] == 1)).tolist():
        start, end = _span(solution.rate, *holds.frames(before + 1))
        cause = int(holds.starts[before + 1]), int(holds.drawings[before]), int(holds.drawings[before + 1])
        yield _look("flicker", start, end, Message("look.flicker"), 0.55, *cause)


def _far_off(solution: Solution) -> Iterator[Look]:
    """One look for each sound that no drawing of the chart matches well."""
    away = solution.chart.distances.min(axis=0) > _FAR_OFF
    for sound_at in np.flatnonzero(away & (np.bincount(solution.segments.sounds, minlength=len(away)) > 0)).tolist():
        sound = SOUNDS[sound_at]
        if sound != REST:
            part = solution.segments[int((solution.segments.sounds == sound_at).argmax())]
            number = solution.chart.drawing_for(sound).number
            text = Message("look.stand_in", sound=sound, drawing=number)
            severity = 0.65 if class_of(sound) in CLOSURES else 0.4
            yield _look("stand-in", part.start_us, part.end_us, text, severity, sound, number)


def _restless(solution: Solution, holds: HoldColumns) -> Iterator[Look]:
    rests = (holds.visemes == VISEME_AT[REST]) | (holds.drawings == solution.chart.resting.number)
    # Holds with fewer frames than this are too short in time.
    few = solution.rate.frame_at(_RESTLESS_US) - 1
    edges = np.flatnonzero(np.diff(np.concatenate([[0], ~rests, [0]]).astype(np.int8)))
    for first, last in edges.reshape(-1, 2).tolist():
        since = int(holds.starts[first])
        if holds.ends[last - 1] - since < few:
            continue
        ends_us = solution.rate.starts_of(holds.ends[first:last])
        at = 0
        while at < len(ends_us):
            start = solution.rate.first_us(since)
            at = int(np.searchsorted(ends_us, start + _RESTLESS_US, side="right"))
            if at < len(ends_us):
                yield _look("restless", start, int(ends_us[at]), Message("look.restless"), 0.25, since)
                since = int(holds.ends[first + at])
