"""Acting proposed by rule from what is said: blinks, gaze, accents, brows, breath, openings, listening.

Everything is worked out from the reading, the loudness and a seed: the same seed gives the same performance. Proposals
never change what a person set: none is made where a person's keys move a column, or are near.

Blinks: people blink about 17 times a minute at rest and 26 times while they talk (Bentivoglio and others 1997,
"Analysis of blink rate patterns in normal subjects", Movement Disorders 12), at irregular intervals whose logarithm is
about normally distributed, and most often where a phrase ends.

Gaze: listeners look at the speaker; somebody about to speak looks away, and looks back as their turn ends (Kendon 1967,
"Some functions of gaze-direction in social interaction", Acta Psychologica 26).
"""

import math
import random
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from tinfork.core.messages import Message
from tinfork.core.motion.gestures import Gesture, Steps, scaled
from tinfork.core.motion.stage import Stage, frames_of, own_lines, phrases, prominent_words

#: Blinks a minute at rest and while talking.
_BLINKS_TALKING, _BLINKS_AT_REST = 26.0, 17.0
#: How widely the logarithm of the time between two blinks is spread.
_BLINK_SPREAD = 0.55
#: The least distance between two blinks, in frames.
_BLINK_APART = 12
#: The least silence in which a breath is drawn (microseconds).
_BREATH_US = 450_000
_PHRASE_ENDS = Message("acting.blink_phrase_ends")
#: A shut eye: squashed to a tenth of its height, and a little wider.
SHUT = {"size": -150.0, "stretch": -165.0}
#: How far pupils move to the side (hundredths of the face picture's height), and the length of pauses (microseconds) in
#: which somebody about to speak looks away: shorter ones are no pauses, in longer ones nobody is about to speak.
_LOOK_ASIDE = 2.2
_THINKS_US, _WAITS_US = 350_000, 4_000_000
#: A pose at rest.
_REST: Mapping[str, float] = {}


def _blinks(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.eyes:
        return
    rate = stage.rate
    talking = [(rate.frame_at(w[0].start_us), rate.frame_at(w[-1].end_us)) for w, _ in phrases(own_lines(stage))]
    apart = max(_BLINK_APART, frames_of(stage, _BLINK_APART))
    often = 0.25 + 0.75 * amount
    ends = [end + dice.randint(-1, 3) for _, end in talking if dice.random() < often]
    at = 0
    wanted: list[tuple[int, Message]] = []
    while at < stage.frames:
        is_talking = any(start <= at < end for start, end in talking)
        a_minute = (_BLINKS_TALKING if is_talking else _BLINKS_AT_REST) * (0.3 + amount)
        # The mean of a log-normal distribution is its median times e to half its variance.
        median_s = 60 / a_minute / math.exp(_BLINK_SPREAD**2 / 2)
        chance = at + max(apart, round(float(rate.value) * median_s * math.exp(dice.gauss(0, _BLINK_SPREAD))))
        end = next((frame for frame in ends if at + apart <= frame < chance + apart), None)
        at, why = (chance, Message("acting.blink")) if end is None else (end, _PHRASE_ENDS)
        wanted.append((at, why))
    shut, stay, opened = (frames_of(stage, n) for n in (2, 1, 3))
    for frame, why in wanted:
        open_at = frame + shut + stay
        steps: Steps = ((frame, _REST), (frame + shut, SHUT), (open_at, SHUT), (open_at + opened, _REST))
        for part in (*stage.eyes, *stage.pupils):
            yield Gesture(part, why, steps)


def _gaze(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.pupils:
        return
    there = frames_of(stage, 2)
    last = 0
    for start, end, (x, y), why in sorted(_looks(stage, amount, dice), key=lambda look: look[0]):
        # One look at a time: while the eyes are elsewhere, nothing else is looked at.
        if start <= last or end - start < 3 * there:
            continue
        last = end + there
        pose = {"x": round(x + dice.uniform(-0.2, 0.2), 2), "y": round(y + dice.uniform(-0.2, 0.2), 2)}
        for part in stage.pupils:
            yield Gesture(part, why, ((start, _REST), (start + there, pose), (end, pose), (end + there, _REST)))


def _looks(stage: Stage, amount: float, dice: random.Random) -> Iterator[tuple[int, int, tuple[float, float], str]]:
    """Looks: the first and the last frame, the direction (right, down), and the reason."""
    frame_at = stage.rate.frame_at
    lines = sorted((x for x in stage.reading.lines if x.words), key=lambda line: line.words[0].start_us)
    own = own_lines(stage)
    often = 0.3 + 0.7 * amount
    for line in lines:
        side = stage.others.get(line.speaker, 0.0)
        if line not in own and side and dice.random() < often:
            begun = frame_at(line.words[0].start_us) + frames_of(stage, dice.uniform(2, 7))
            yield begun, frame_at(line.end_us), (side * _LOOK_ASIDE, 0.0), Message("acting.looks_at_speaker")
    for line, after in pairwise(lines):
        if line in own and after not in own and (side := stage.others.get(after.speaker, 0.0)):
            start, end = frame_at(line.words[-1].start_us), frame_at(line.end_us) + frames_of(stage, 8)
            if dice.random() < often:
                yield start, end, (side * _LOOK_ASIDE, 0.0), Message("acting.looks_at_next")
    said = phrases(lines)
    for (before, _), (words, _) in pairwise(said):
        pause_us = words[0].start_us - before[-1].end_us
        is_own = any(words[0] in line.words for line in own)
        if is_own and _THINKS_US <= pause_us <= _WAITS_US and dice.random() < 0.7 * often:
            start = max(frame_at(before[-1].end_us), frame_at(words[0].start_us) - frames_of(stage, 14))
            end = frame_at(words[0].start_us) + frames_of(stage, dice.uniform(2, 6))
            aside = dice.choice([-1, 1]) * _LOOK_ASIDE * 0.8
            yield (
                start,
                end,
                (aside, dice.choice([-1.4, -1.0, 0.8])),
                Message("acting.looks_away", word=words[0].text[:40]),
            )


def _accents(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    found = prominent_words(stage)
    apart, taken = frames_of(stage, 14), list[int]()
    for _, word, frame in found[: round(len(found) * amount * 0.7)]:
        if any(abs(frame - other) < apart for other in taken):
            continue
        taken.append(frame)
        before, down, settle = (frames_of(stage, n) for n in (dice.choice([2, 3, 3, 4]), 3, 7))
        deep, side = dice.uniform(1.6, 2.8), dice.uniform(-1.6, 1.6)
        yield Gesture(
            "head",
            Message("acting.accent", word=word.text[:40]),
            (
                (frame - 2 * before, _REST),
                # First a little the other way (anticipation), then past the resting place.
                (frame - before, {"y": -0.45 * deep, "turn": -0.4 * side, "stretch": 2.0}),
                (frame + down - before, {"y": deep, "turn": side, "stretch": -3.0}),
                (frame + down + frames_of(stage, 2), {"y": -0.15 * deep, "turn": 0.3 * side, "stretch": 1.0}),
                (frame + down + settle, _REST),
            ),
        )


def _brows(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.brows:
        return
    taken: list[tuple[int, int]] = []
    for words, asks in phrases(own_lines(stage)):
        if asks:
            first, last = stage.rate.frame_at(words[-1].start_us), stage.rate.frame_at(words[-1].end_us)
            span = first - frames_of(stage, 3), last + frames_of(stage, 8)
            taken.append(span)
            yield from _raised(stage, span, last + frames_of(stage, 3), Message("acting.brows_question"), 6.0)
    found = prominent_words(stage)
    for _, word, frame in found[: round(len(found) * amount * 0.5)]:
        span = frame - frames_of(stage, 3), frame + frames_of(stage, 9)
        if dice.random() < 0.8 and all(span[1] < start or end < span[0] for start, end in taken):
            taken.append(span)
            yield from _raised(
                stage, span, frame + frames_of(stage, 4), Message("acting.brows", word=word.text[:40]), 4.0
            )


def _raised(stage: Stage, span: tuple[int, int], until: int, why: str, high: float) -> Iterator[Gesture]:
    up = span[0] + frames_of(stage, 3)
    for part in stage.brows:
        yield Gesture(
            part,
            why,
            ((span[0], _REST), (up, {"y": -high}), (max(up + 1, until), {"y": -0.8 * high}), (span[1], _REST)),
        )


def _breaths(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    before_us = -_BREATH_US
    for words, _ in phrases(own_lines(stage)):
        start_us = words[0].start_us
        is_after_silence = start_us - before_us >= _BREATH_US
        before_us = words[-1].end_us
        if is_after_silence and dice.random() < 0.3 + 0.7 * amount:
            frame = stage.rate.frame_at(start_us)
            deep = dice.uniform(2.5, 4.5)
            steps: Steps = (
                (frame - frames_of(stage, 9), _REST),
                (frame - frames_of(stage, 2), {"stretch": deep, "y": -0.3 * deep}),
                (frame + frames_of(stage, 7), _REST),
            )
            yield Gesture("head", Message("acting.breath", word=words[0].text[:40]), steps)


def _openings(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    wide = [
        (p.end_us - p.start_us, word, stage.rate.frame_at(p.start_us))
        for line in own_lines(stage)
        for word in line.words
        for p in word.phonemes
        if p.viseme == "open"
    ]
    wide.sort(key=lambda one: (-one[0], one[2]))
    apart, taken = frames_of(stage, 8), list[int]()
    for _, word, frame in wide[: round(len(wide) * amount)]:
        if all(abs(frame - other) >= apart for other in taken):
            taken.append(frame)
            large = dice.uniform(3.0, 6.0)
            steps: Steps = (
                (frame - 2, _REST),
                (frame - 1, {"stretch": -0.5 * large}),
                (frame + 1, {"stretch": large}),
                (frame + frames_of(stage, 5), _REST),
            )
            yield Gesture("face", Message("acting.opening", word=word.text[:40]), steps)


def _listening(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    own = [(w[0].start_us, w[-1].end_us) for w, _ in phrases(own_lines(stage))]
    lines = [x for x in stage.reading.lines if x.words and stage.character not in (x.speaker, *x.co_speakers)]
    for line in lines:
        start, end = stage.rate.frame_at(line.words[0].start_us), stage.rate.frame_at(line.end_us)
        if any(a < line.end_us and line.words[0].start_us < b for a, b in own):
            continue
        side = stage.others.get(line.speaker, 0.0)
        turn = side * dice.uniform(2.0, 4.0)
        begin, there = start + frames_of(stage, dice.uniform(1, 6)), frames_of(stage, 8)
        if side and end - begin > 2 * there:
            lean: Mapping[str, float] = {"turn": turn, "x": side * 1.5}
            yield Gesture(
                "head",
                Message("acting.turns_to_speaker"),
                ((begin, _REST), (begin + there, lean), (end, lean), (end + there, _REST)),
            )
        for words, _ in phrases([line]):
            if dice.random() < 0.8 * amount:
                frame = stage.rate.frame_at(words[-1].end_us) + frames_of(stage, dice.uniform(1, 5))
                deep = dice.uniform(1.2, 2.4)
                steps = (
                    (frame, _REST),
                    (frame + frames_of(stage, 4), {"y": deep, "turn": 0.0}),
                    (frame + frames_of(stage, 10), _REST),
                )
                yield Gesture("head", Message("acting.nods"), steps)


def _sway(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    """Now and then the weight shifts from one side to the other: for characters in the background."""
    side, at = dice.choice([-1, 1]), frames_of(stage, dice.uniform(4, 30))
    steps: list[tuple[int, Mapping[str, float]]] = [(at, _REST)]
    end = stage.frames - frames_of(stage, 16)
    while at < end - frames_of(stage, 40):
        at += frames_of(stage, dice.uniform(12, 20))
        pose = {"turn": side * dice.uniform(0.8, 2.2) * (0.4 + amount), "x": side * dice.uniform(0.4, 1.4)}
        steps.append((at, pose))
        at += frames_of(stage, dice.uniform(14, 50))
        steps.append((min(at, end), pose))
        side = -side
    if len(steps) > 1 and steps[-1][0] > steps[-2][0]:
        steps.append((steps[-1][0] + frames_of(stage, 12), _REST))
        yield Gesture("head", Message("acting.sways"), tuple(steps))


@dataclass(frozen=True)
class ActingKind:
    """A kind of acting: its name, what it does, and its default amount."""

    label: str
    does: str
    usual: int
    rule: Callable[[Stage, float, random.Random], Iterable[Gesture]]


#: Every kind of acting, in the order in which they are offered.
KINDS: dict[str, ActingKind] = {
    "blinks": ActingKind("Blinks", "At ends of phrases and now and then. Needs an eyes part", 60, _blinks),
    "gaze": ActingKind("Gaze", "Looks at the speaker, away before an answer. Needs a pupils part", 60, _gaze),
    "accents": ActingKind("Accents", "Head nods on stressed words", 50, _accents),
    "brows": ActingKind("Brows", "Up on questions and accents. Needs a brows part", 40, _brows),
    "breath": ActingKind("Breath", "Before a phrase after a silence", 50, _breaths),
    "openings": ActingKind("Openings", "Face stretches with wide open mouths", 40, _openings),
    "listening": ActingKind("Listening", "Turns to the speaker and nods", 50, _listening),
    "sway": ActingKind("Sway", "Sways from side to side. For background characters", 0, _sway),
}


def usual_amounts() -> dict[str, int]:
    """The default amount of each kind."""
    return {name: kind.usual for name, kind in KINDS.items()}


def propose(stage: Stage, amounts: Mapping[str, int], strength: int, seed: int) -> list[Gesture]:
    """Gestures in order of time. `amounts`: how much of each kind, 0 to 100; `strength`: how large, 100 as usual."""
    out: list[Gesture] = []
    for name, kind in KINDS.items():
        amount = amounts.get(name, 0) / 100
        if amount > 0:
            # Each kind and character has its own random numbers: changing one setting leaves all others alone.
            out += kind.rule(stage, amount, random.Random(f"{seed} {stage.character} {name}"))
    whole = [g for g in out if g.start >= 0 and g.end < stage.frames]
    return sorted((scaled(g, strength / 100) for g in whole), key=lambda g: (g.start, g.part, g.why))
