"""Acting proposed by rule from what is said: blinks, gaze, accents, brows, breath, openings, listening.

Everything is worked out from the reading, the loudness and a seed: the same seed gives the same performance. A proposal
never touches what a person set: where somebody's keys move a column, or lie near, it is left out.

Blinks: people blink about 17 times a minute at rest and 26 times while they talk (Bentivoglio and others 1997,
"Analysis of blink rate patterns in normal subjects", Movement Disorders 12), at irregular intervals whose logarithm is
about normally distributed, and most often where a phrase ends.

Gaze: who listens looks at who speaks; who is about to speak looks away, and at the other again as the turn ends (Kendon
1967, "Some functions of gaze-direction in social interaction", Acta Psychologica 26).
"""

import math
import random
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.messages import Message
from tinfork.core.motion.curve import FrameKey, pose_on
from tinfork.core.motion.pose import FIELDS, Pose
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.reading import Line, Reading, Word

_WORD = re.compile("“(.*)”", re.DOTALL)


def said_reason(stored: str, gettext: Callable[[str], str]) -> str:
    """A stored reason in the language of `gettext`: its wording is looked up with the word in it taken out."""
    found = _WORD.search(stored)
    if found is None:
        return gettext(stored) if stored else ""
    return gettext(stored.replace(found[0], "“{word}”", 1)).replace("{word}", found[1])


#: The kinds of proposals, and how much of each there is where nobody says otherwise.
KINDS: dict[str, int] = {
    "blinks": 60,
    "gaze": 60,
    "accents": 50,
    "brows": 40,
    "breath": 50,
    "openings": 40,
    "listening": 50,
    "sway": 0,
}

#: Blinks a minute, by whether one talks.
_BLINKS_TALKING, _BLINKS_AT_REST = 26.0, 17.0
#: How widely the logarithm of the time between two blinks is spread.
_BLINK_SPREAD = 0.55
#: Never two blinks nearer than this, in frames.
_BLINK_APART = 12
#: A pause that ends a phrase, and a silence that one breathes in (microseconds).
_PHRASE_US, _BREATH_US = 250_000, 450_000
_PHRASE_ENDS = Message("acting.blink_phrase_ends")
#: A shut eye: squashed to a tenth of its height, and hardly wider.
SHUT = {"size": -150.0, "stretch": -165.0}
#: How far pupils go to the side (hundredths of the face picture's height), and pauses before which one looks away:
#: shorter ones are none, in longer ones nobody is about to speak (microseconds).
_LOOK_ASIDE = 2.2
_THINKS_US, _WAITS_US = 350_000, 4_000_000
#: Changes of a pose on frames.
Steps = tuple[tuple[int, Mapping[str, float]], ...]
_REST: Mapping[str, float] = {}
#: A person's key this near (frames) keeps a proposal away.
_NEAR = 4


@dataclass(frozen=True)
class Stage:
    """What a performance is made for: a character, the parts of its face by what they are, and what is heard.

    `levels` is dB per 10 ms, shape (hops,); `others` says on which side the others are, -1 to the left.
    """

    character: str
    reading: Reading
    rate: FrameRate
    frames: int
    levels: NDArray[np.float64]
    eyes: tuple[str, ...] = ()
    brows: tuple[str, ...] = ()
    others: Mapping[str, float] = field(default_factory=dict)
    pupils: tuple[str, ...] = ()


@dataclass(frozen=True)
class Gesture:
    """A proposed movement of one column: changes of its pose on frames, at rest at both ends; `why` in a few words.

    Keys are stored with their reason in English (`made_by`); `said_reason` says a stored one in another language.
    """

    part: str
    why: str
    steps: Steps

    @property
    def start(self) -> int:
        """Its first frame."""
        return self.steps[0][0]

    @property
    def end(self) -> int:
        """Its last frame."""
        return self.steps[-1][0]


def propose(stage: Stage, amounts: Mapping[str, int], strength: int, seed: int) -> list[Gesture]:
    """Gestures in order of time. `amounts` says how much of each kind, 0 to 100; `strength` how large, 100 as usual."""
    rules: dict[str, Callable[[Stage, float, random.Random], Iterable[Gesture]]] = {
        "blinks": _blinks,
        "gaze": _gaze,
        "accents": _accents,
        "brows": _brows,
        "breath": _breaths,
        "openings": _openings,
        "listening": _listening,
        "sway": _sway,
    }
    out: list[Gesture] = []
    for kind, rule in rules.items():
        amount = amounts.get(kind, 0) / 100
        if amount > 0:
            # Each kind and character has its own dice: turning one dial changes nothing of the others.
            out += rule(stage, amount, random.Random(f"{seed} {stage.character} {kind}"))
    whole = [g for g in out if g.start >= 0 and g.end < stage.frames]
    return sorted((_scaled(g, strength / 100) for g in whole), key=lambda g: (g.start, g.part, g.why))


def _scaled(gesture: Gesture, by: float) -> Gesture:
    """A blink shuts the eye however strong the acting is."""
    if by == 1 or gesture.why.startswith("blink"):
        return gesture
    steps = tuple((frame, {name: value * by for name, value in pose.items()}) for frame, pose in gesture.steps)
    return Gesture(gesture.part, gesture.why, steps)


# what is said ---------------------------------------------------------------------------------------------------------


def _own(stage: Stage) -> list[Line]:
    return [x for x in stage.reading.lines if x.words and stage.character in (x.speaker, *x.also)]


def _phrases(lines: Iterable[Line]) -> list[tuple[list[Word], bool]]:
    """Words that are said in one go, and whether they ask something."""
    out: list[tuple[list[Word], bool]] = []
    for line in lines:
        run: list[Word] = []
        for word in line.words:
            if run and word.start_us - run[-1].end_us > _PHRASE_US:
                out.append((run, False))
                run = []
            run.append(word)
        if run:
            out.append((run, line.text.rstrip().rstrip("”\"'»)").endswith(("?", "？", "؟"))))
    return out


def _loudness(stage: Stage, start_us: int, end_us: int) -> float:
    """The loudest 10 ms of a stretch, in dB."""
    part = stage.levels[start_us // HOP_US : max(start_us // HOP_US + 1, -(-end_us // HOP_US))]
    return float(part.max()) if len(part) else -90.0


def _prominent(stage: Stage) -> list[tuple[float, Word, int]]:
    """The words of a character by how much they stand out, the most first, with the frame of their stressed vowel."""
    found = []
    for words, _ in _phrases(_own(stage)):
        middle = sum(_loudness(stage, w.start_us, w.end_us) for w in words) / len(words)
        for word in words:
            stressed = next((p for p in word.phonemes if p.ipa.startswith("ˈ")), None)
            if stressed is None:
                continue
            length_s = (word.end_us - word.start_us) / 1e6
            louder = _loudness(stage, stressed.start_us, stressed.end_us) - middle
            found.append((louder + 14 * min(0.6, length_s), word, stage.rate.frame_at(stressed.start_us)))
    return sorted(found, key=lambda one: (-one[0], one[2]))


def _frames(stage: Stage, at_24: float) -> int:
    """A length of so many frames at 24 a second, one at the least."""
    return max(1, round(at_24 * float(stage.rate.value) / 24))


# the rules ------------------------------------------------------------------------------------------------------------


def _blinks(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.eyes:
        return
    rate = stage.rate
    talking = [(rate.frame_at(w[0].start_us), rate.frame_at(w[-1].end_us)) for w, _ in _phrases(_own(stage))]
    apart = max(_BLINK_APART, _frames(stage, _BLINK_APART))
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
    shut, stay, opened = (_frames(stage, n) for n in (2, 1, 3))
    for frame, why in wanted:
        open_at = frame + shut + stay
        steps: Steps = ((frame, _REST), (frame + shut, SHUT), (open_at, SHUT), (open_at + opened, _REST))
        for part in (*stage.eyes, *stage.pupils):
            yield Gesture(part, why, steps)


def _gaze(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.pupils:
        return
    there = _frames(stage, 2)
    last = 0
    for start, end, (x, y), why in sorted(_looks(stage, amount, dice), key=lambda look: look[0]):
        # One look at a time: what begins while the eyes are elsewhere is not looked at.
        if start <= last or end - start < 3 * there:
            continue
        last = end + there
        pose = {"x": round(x + dice.uniform(-0.2, 0.2), 2), "y": round(y + dice.uniform(-0.2, 0.2), 2)}
        for part in stage.pupils:
            yield Gesture(part, why, ((start, _REST), (start + there, pose), (end, pose), (end + there, _REST)))


def _looks(stage: Stage, amount: float, dice: random.Random) -> Iterator[tuple[int, int, tuple[float, float], str]]:
    """Looks: their first and last frames, where they go (right and down), and why."""
    frame_at = stage.rate.frame_at
    lines = sorted((x for x in stage.reading.lines if x.words), key=lambda line: line.words[0].start_us)
    own = _own(stage)
    often = 0.3 + 0.7 * amount
    for line in lines:
        side = stage.others.get(line.speaker, 0.0)
        if line not in own and side and dice.random() < often:
            begun = frame_at(line.words[0].start_us) + _frames(stage, dice.uniform(2, 7))
            yield begun, frame_at(line.end_us), (side * _LOOK_ASIDE, 0.0), Message("acting.looks_at_speaker")
    for line, after in pairwise(lines):
        if line in own and after not in own and (side := stage.others.get(after.speaker, 0.0)):
            start, end = frame_at(line.words[-1].start_us), frame_at(line.end_us) + _frames(stage, 8)
            if dice.random() < often:
                yield start, end, (side * _LOOK_ASIDE, 0.0), Message("acting.looks_at_next")
    phrases = _phrases(lines)
    for (before, _), (words, _) in pairwise(phrases):
        pause_us = words[0].start_us - before[-1].end_us
        is_own = any(words[0] in line.words for line in own)
        if is_own and _THINKS_US <= pause_us <= _WAITS_US and dice.random() < 0.7 * often:
            start = max(frame_at(before[-1].end_us), frame_at(words[0].start_us) - _frames(stage, 14))
            end = frame_at(words[0].start_us) + _frames(stage, dice.uniform(2, 6))
            aside = dice.choice([-1, 1]) * _LOOK_ASIDE * 0.8
            yield (
                start,
                end,
                (aside, dice.choice([-1.4, -1.0, 0.8])),
                Message("acting.looks_away", word=words[0].text[:40]),
            )


def _accents(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    found = _prominent(stage)
    apart, taken = _frames(stage, 14), list[int]()
    for _, word, frame in found[: round(len(found) * amount * 0.7)]:
        if any(abs(frame - other) < apart for other in taken):
            continue
        taken.append(frame)
        before, down, settle = (_frames(stage, n) for n in (dice.choice([2, 3, 3, 4]), 3, 7))
        deep, side = dice.uniform(1.6, 2.8), dice.uniform(-1.6, 1.6)
        yield Gesture(
            "head",
            Message("acting.accent", word=word.text[:40]),
            (
                (frame - 2 * before, _REST),
                # Against it first, then further than it comes to rest.
                (frame - before, {"y": -0.45 * deep, "turn": -0.4 * side, "stretch": 2.0}),
                (frame + down - before, {"y": deep, "turn": side, "stretch": -3.0}),
                (frame + down + _frames(stage, 2), {"y": -0.15 * deep, "turn": 0.3 * side, "stretch": 1.0}),
                (frame + down + settle, _REST),
            ),
        )


def _brows(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    if not stage.brows:
        return
    taken: list[tuple[int, int]] = []
    for words, asks in _phrases(_own(stage)):
        if asks:
            first, last = stage.rate.frame_at(words[-1].start_us), stage.rate.frame_at(words[-1].end_us)
            span = first - _frames(stage, 3), last + _frames(stage, 8)
            taken.append(span)
            yield from _raised(stage, span, last + _frames(stage, 3), Message("acting.brows_question"), 6.0)
    found = _prominent(stage)
    for _, word, frame in found[: round(len(found) * amount * 0.5)]:
        span = frame - _frames(stage, 3), frame + _frames(stage, 9)
        if dice.random() < 0.8 and all(span[1] < start or end < span[0] for start, end in taken):
            taken.append(span)
            yield from _raised(
                stage, span, frame + _frames(stage, 4), Message("acting.brows", word=word.text[:40]), 4.0
            )


def _raised(stage: Stage, span: tuple[int, int], until: int, why: str, high: float) -> Iterator[Gesture]:
    up = span[0] + _frames(stage, 3)
    for part in stage.brows:
        yield Gesture(
            part,
            why,
            ((span[0], _REST), (up, {"y": -high}), (max(up + 1, until), {"y": -0.8 * high}), (span[1], _REST)),
        )


def _breaths(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    before_us = -_BREATH_US
    for words, _ in _phrases(_own(stage)):
        start_us = words[0].start_us
        is_after_silence = start_us - before_us >= _BREATH_US
        before_us = words[-1].end_us
        if is_after_silence and dice.random() < 0.3 + 0.7 * amount:
            frame = stage.rate.frame_at(start_us)
            deep = dice.uniform(2.5, 4.5)
            steps: Steps = (
                (frame - _frames(stage, 9), _REST),
                (frame - _frames(stage, 2), {"stretch": deep, "y": -0.3 * deep}),
                (frame + _frames(stage, 7), _REST),
            )
            yield Gesture("head", Message("acting.breath", word=words[0].text[:40]), steps)


def _openings(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    wide = [
        (p.end_us - p.start_us, word, stage.rate.frame_at(p.start_us))
        for line in _own(stage)
        for word in line.words
        for p in word.phonemes
        if p.viseme == "open"
    ]
    wide.sort(key=lambda one: (-one[0], one[2]))
    apart, taken = _frames(stage, 8), list[int]()
    for _, word, frame in wide[: round(len(wide) * amount)]:
        if all(abs(frame - other) >= apart for other in taken):
            taken.append(frame)
            large = dice.uniform(3.0, 6.0)
            steps: Steps = (
                (frame - 2, _REST),
                (frame - 1, {"stretch": -0.5 * large}),
                (frame + 1, {"stretch": large}),
                (frame + _frames(stage, 5), _REST),
            )
            yield Gesture("face", Message("acting.opening", word=word.text[:40]), steps)


def _listening(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    own = [(w[0].start_us, w[-1].end_us) for w, _ in _phrases(_own(stage))]
    lines = [x for x in stage.reading.lines if x.words and stage.character not in (x.speaker, *x.also)]
    for line in lines:
        start, end = stage.rate.frame_at(line.words[0].start_us), stage.rate.frame_at(line.end_us)
        if any(a < line.end_us and line.words[0].start_us < b for a, b in own):
            continue
        side = stage.others.get(line.speaker, 0.0)
        turn = side * dice.uniform(2.0, 4.0)
        begin, there = start + _frames(stage, dice.uniform(1, 6)), _frames(stage, 8)
        if side and end - begin > 2 * there:
            lean: Mapping[str, float] = {"turn": turn, "x": side * 1.5}
            yield Gesture(
                "head",
                Message("acting.turns_to_speaker"),
                ((begin, _REST), (begin + there, lean), (end, lean), (end + there, _REST)),
            )
        for words, _ in _phrases([line]):
            if dice.random() < 0.8 * amount:
                frame = stage.rate.frame_at(words[-1].end_us) + _frames(stage, dice.uniform(1, 5))
                deep = dice.uniform(1.2, 2.4)
                steps = (
                    (frame, _REST),
                    (frame + _frames(stage, 4), {"y": deep, "turn": 0.0}),
                    (frame + _frames(stage, 10), _REST),
                )
                yield Gesture("head", Message("acting.nods"), steps)


def _sway(stage: Stage, amount: float, dice: random.Random) -> Iterator[Gesture]:
    """The weight goes from one side to the other, now and then: for those in the background."""
    side, at = dice.choice([-1, 1]), _frames(stage, dice.uniform(4, 30))
    steps: list[tuple[int, Mapping[str, float]]] = [(at, _REST)]
    end = stage.frames - _frames(stage, 16)
    while at < end - _frames(stage, 40):
        at += _frames(stage, dice.uniform(12, 20))
        pose = {"turn": side * dice.uniform(0.8, 2.2) * (0.4 + amount), "x": side * dice.uniform(0.4, 1.4)}
        steps.append((at, pose))
        at += _frames(stage, dice.uniform(14, 50))
        steps.append((min(at, end), pose))
        side = -side
    if len(steps) > 1 and steps[-1][0] > steps[-2][0]:
        steps.append((steps[-1][0] + _frames(stage, 12), _REST))
        yield Gesture("head", Message("acting.sways"), tuple(steps))


# keys -----------------------------------------------------------------------------------------------------------------


def keys_of(gestures: Sequence[Gesture], by_hand: Sequence[FrameKey]) -> list[tuple[FrameKey, str]]:
    """The keys of the gestures of one column, with why each is there, on top of what a person set in it.

    Where several gestures meet, their changes are added. One that would come near a person's key, or into what moves by
    hand, is left out.
    """
    free = [g for g in gestures if _is_free(g, by_hand)]
    frames: dict[int, str] = {}
    for gesture in free:
        for frame, _ in gesture.steps:
            frames.setdefault(frame, gesture.why)
    tracks = [[FrameKey(frame, Pose.clamped(pose), "ease") for frame, pose in g.steps] for g in free]
    out = []
    for frame in sorted(frames):
        base = pose_on(by_hand, frame)
        values = dict(zip(FIELDS, base.values, strict=True))
        for keys in tracks:
            if keys[0].frame <= frame <= keys[-1].frame:
                for name, value in zip(FIELDS, pose_on(keys, frame).values, strict=True):
                    values[name] += value
        # Up to a person's next key it stays where it came to rest.
        next_by_hand = next((key.frame for key in by_hand if key.frame > frame), None)
        is_last = next_by_hand is not None and not any(frame < other < next_by_hand for other in frames)
        rounded = {name: round(value, 2) for name, value in values.items()}
        out.append(
            (
                FrameKey(frame, Pose.clamped(rounded, base.bend), "hold" if is_last else "ease", is_proposed=True),
                frames[frame],
            )
        )
    return out


def _is_free(gesture: Gesture, by_hand: Sequence[FrameKey]) -> bool:
    first, end = gesture.start - _NEAR, gesture.end + _NEAR
    if any(first <= key.frame <= end for key in by_hand):
        return False
    before = max((key.frame for key in by_hand if key.frame < first), default=first)
    after = min((key.frame for key in by_hand if key.frame > end), default=end)
    # Nothing moves by hand from the key before to the one after it.
    return len({pose_on(by_hand, frame) for frame in range(before, after)}) == 1
