"""Stage 4, judge: which of the two alignments counts for each word, the confidence of its sounds, and what is wrong."""

from dataclasses import dataclass, replace

from tinfork.core.speech.reading import WORDS_AMISS
from tinfork.engines.reading.align import Aligned, TimedSound, likelihood, sounds_of_spans
from tinfork.engines.reading.confidence import NOT_SAID, sure_of
from tinfork.engines.reading.rungs import NEARLY, RECOGNISER_SHARE
from tinfork.engines.reading.words import OtherWords, Said, laid_over

#: The method of a piece without wrong words.
PLAIN, EAR_ALONE, OTHER_SPEAKER = "plain", "by the ear", "other speaker"


@dataclass(frozen=True)
class JudgedWord:
    """A word with its sounds, their times in seconds and confidence.

    `typed`: its index among the typed words of the piece, None for speech that was not typed; `heard`: the words heard
    instead, if any.
    """

    typed: int | None
    sounds: tuple[TimedSound, ...]
    sure: float
    sounds_sure: tuple[float, ...]
    heard: str = ""

    def moved(self, by_s: float) -> "JudgedWord":
        """The word shifted later."""
        sounds = tuple(replace(s, start_s=s.start_s + by_s, end_s=s.end_s + by_s) for s in self.sounds)
        return replace(self, sounds=sounds)


@dataclass(frozen=True)
class Judged:
    """The result of a piece: its words in order, the indices of typed words that are not said, and the method."""

    words: tuple[JudgedWord, ...]
    missing: tuple[int, ...]
    method: str


def judge(aligned: Aligned) -> Judged:
    """Choose between the two alignments, word by word."""
    said = aligned.said
    timed, agreed = weighed(aligned)
    words = [
        JudgedWord(word.typed, sounds, sure, tuple(sounds_sure))
        for word, sounds, (sure, sounds_sure) in zip(said.words, timed, sure_of(timed, agreed), strict=True)
    ]
    unsaid: list[int] = []
    for other in said.others[::-1]:
        guesses = _guesses(said, other)
        if guesses:
            words[other.said_first : other.said_last] = guesses
        else:
            unsaid += range(other.first, other.last)
            words[other.said_first : other.said_last] = [
                replace(word, heard=other.text) for word in words[other.said_first : other.said_last]
            ]
    usual = PLAIN if said.ratio == 1.0 else OTHER_SPEAKER
    way = WORDS_AMISS if said.others else usual if aligned.by_recogniser else EAR_ALONE
    return Judged(tuple(word for word in words if word.sounds), tuple(sorted(unsaid)), way)


def weighed(aligned: Aligned) -> tuple[list[tuple[TimedSound, ...]], list[bool | None]]:
    """The sounds of each spoken word, from both alignments, and whether the listener heard it (None: unknown)."""
    timed = [
        _together(by_ear, aligned.by_recogniser[at] if aligned.by_recogniser else (), aligned)
        for at, by_ear in enumerate(aligned.by_ear)
    ]
    said = aligned.said
    return timed, [None if word.typed is None else said.agreed[word.typed] for word in said.words]


def _guesses(said: Said, other: OtherWords) -> list[JudgedWord]:
    """The typed words laid over the speech that replaces them; none if there is no room, or no speech."""
    typed = said.typed[other.first : other.last]
    laid = laid_over(said, other, [word.variants for word in typed])
    if laid is None:
        return []
    spans, taken = laid
    out = []
    for word, own, way in zip(typed, spans, taken, strict=True):
        sounds = sounds_of_spans(word.ways[way].ipa, own)
        out.append(JudgedWord(word.typed, sounds, NOT_SAID, (NOT_SAID,) * len(sounds), heard=other.text))
    return out


def _together(
    by_ear: tuple[TimedSound, ...], by_recogniser: tuple[TimedSound, ...], aligned: Aligned
) -> tuple[TimedSound, ...]:
    """A word's sounds combined from both alignments."""
    if [s.ipa for s in by_recogniser] != [s.ipa for s in by_ear]:
        return by_ear
    fits = likelihood([by_recogniser], aligned.emission) > likelihood([by_ear], aligned.emission) - NEARLY
    share = RECOGNISER_SHARE if fits else 0.0
    out = []
    for ear, rec in zip(by_ear, by_recogniser, strict=True):
        start = ear.start_s + share * (rec.start_s - ear.start_s)
        end = ear.end_s + share * (rec.end_s - ear.end_s)
        out.append(replace(ear, start_s=start, end_s=end, score=rec.score, apart_s=abs(rec.start_s - ear.start_s)))
    return tuple(out)
