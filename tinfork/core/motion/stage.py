"""What proposals of acting are worked out from: a character, its face, what is heard, and who else is there."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.reading import Line, Reading, Word

#: A pause that ends a phrase (microseconds).
PHRASE_US = 250_000


@dataclass(frozen=True)
class Stage:
    """What proposals of acting are worked out from: a character, the parts of its face by kind, and what is heard.

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


def own_lines(stage: Stage) -> list[Line]:
    """The lines with words that the character says, alone or with others."""
    return [x for x in stage.reading.lines if x.words and stage.character in (x.speaker, *x.co_speakers)]


def phrases(lines: Iterable[Line]) -> list[tuple[list[Word], bool]]:
    """The phrases of the character: words without a pause, and whether they are a question."""
    out: list[tuple[list[Word], bool]] = []
    for line in lines:
        run: list[Word] = []
        for word in line.words:
            if run and word.start_us - run[-1].end_us > PHRASE_US:
                out.append((run, False))
                run = []
            run.append(word)
        if run:
            out.append((run, line.text.rstrip().rstrip("”\"'»)").endswith(("?", "？", "؟"))))
    return out


def loudness(stage: Stage, start_us: int, end_us: int) -> float:
    """The loudest 10 ms of a stretch, in dB."""
    part = stage.levels[start_us // HOP_US : max(start_us // HOP_US + 1, -(-end_us // HOP_US))]
    return float(part.max()) if len(part) else -90.0


def prominent_words(stage: Stage) -> list[tuple[float, Word, int]]:
    """The words of a character by prominence, the most prominent first, with the frame of the stressed vowel."""
    found = []
    for words, _ in phrases(own_lines(stage)):
        middle = sum(loudness(stage, w.start_us, w.end_us) for w in words) / len(words)
        for word in words:
            stressed = next((p for p in word.phonemes if p.ipa.startswith("ˈ")), None)
            if stressed is None:
                continue
            length_s = (word.end_us - word.start_us) / 1e6
            louder = loudness(stage, stressed.start_us, stressed.end_us) - middle
            found.append((louder + 14 * min(0.6, length_s), word, stage.rate.frame_at(stressed.start_us)))
    return sorted(found, key=lambda one: (-one[0], one[2]))


def frames_of(stage: Stage, at_24: float) -> int:
    """A length given in frames at 24 a second, in frames of this rate; at least one."""
    return max(1, round(at_24 * float(stage.rate.value) / 24))
