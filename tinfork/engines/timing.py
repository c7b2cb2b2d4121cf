"""When the sounds of some words fall in a piece of sound: the recogniser and the ear, each by its own, then together.

The ladder: both listen, to the voice as it is or, where it fits the words better, as if its speaker were larger or
smaller. Where words do not sound as they should, the ear looks for words that are missing and for speech that no word
has. Where the recogniser's way is nearly as likely to the ear as its own, edges are put between the two; else the ear's
stand.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.hearing import HOP
from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import LOOSE, Found, Span, emissions, find, shares_of
from tinfork.core.ear.speakers import Heard, speaker_of_words
from tinfork.core.speech.arpabet import VOWELS, ipa_from_phones
from tinfork.core.speech.reading import WORDS_AMISS
from tinfork.engines.ear import network
from tinfork.engines.limits import READING_HZ
from tinfork.engines.recogniser import AlignedWord, Aligner
from tinfork.engines.wording import Spoken

#: How a piece was read, where no words were amiss.
PLAIN, EAR_ALONE, OTHER_SPEAKER = "plain", "by the ear", "other speaker"
_FRAME_S = HOP / READING_HZ
#: A word whose sounds fit worse than this (mean log probability) makes one look for words that are missing.
_SUSPECT = -2.2
#: So does a sound that lasts so many frames and fits worse than this.
_LONG, _UNLIKE = 12, -2.0
#: The better half of the words usually fits so well; where it does not, in a voice or language far from what the ear
#: has learnt, what no word has must fit better by as much.
_USUAL_FIT = -0.9
#: The recogniser's way counts while it fits no worse than the ear's own by this much, and how much it counts.
_NEARLY, _RECOGNISER_SHARE = 0.45, 0.4


@dataclass(frozen=True, slots=True)
class TimedSound:
    """One sound: seconds; `fit`, what the ear thinks of it (mean log probability); `score`, the recogniser (log
    likelihood a frame, NaN where it was not asked); `apart_s`, how far apart the two began it.
    """

    ipa: str
    start_s: float
    end_s: float
    fit: float
    score: float = float("nan")
    apart_s: float = float("nan")


@dataclass(frozen=True)
class TimedWord:
    """The sounds of a word. `is_guess`: something else is said there, and the word only laid over it. `other_before`,
    `other_after`: speech that no word has lies between it and its neighbour.
    """

    sounds: tuple[TimedSound, ...]
    way: str
    is_guess: bool = False
    other_before: bool = False
    other_after: bool = False

    def moved(self, by_s: float) -> "TimedWord":
        """So much later."""
        return replace(
            self, sounds=tuple(replace(s, start_s=s.start_s + by_s, end_s=s.end_s + by_s) for s in self.sounds)
        )

    @property
    def fit(self) -> float:
        """The ear's mean over the word, by length."""
        lengths = np.array([s.end_s - s.start_s for s in self.sounds])
        return float(np.average([s.fit for s in self.sounds], weights=np.maximum(lengths, 1e-3)))


def time_words(samples: NDArray[np.float32], words: Sequence[Spoken], aligner: Aligner) -> list[TimedWord | None]:
    """Each word's sounds in a piece of sound (16 kHz, its start is 0 s); None for words that are not said in it.

    Words must be known to the aligner. All None when the piece is too short for them.
    """
    usual = [word.word.ipa for word in words]
    speaker = speaker_of_words(network(), samples, usual)
    evidence, emission = speaker.evidence, emissions(speaker.evidence)
    aligned, ratio = _aligned(samples, words, aligner, speaker, emission)
    ipa = [heard_ipa(w, a) for w, a in zip(words, aligned, strict=True)] if aligned else usual
    found = speaker.found if ipa == usual else find(evidence, ipa)
    if found is None:
        return [None] * len(words)
    found, is_amiss = _loosened(found, evidence, ipa)
    way = WORDS_AMISS if is_amiss else PLAIN if speaker.ratio == 1.0 else OTHER_SPEAKER
    kept = [at for at, spans in enumerate(found.words) if spans]
    guesses = {}
    if len(kept) < len(words):
        guesses = _over_others(evidence, ipa, found)
        aligned = aligner.align(samples, [words[at].key for at in kept], ratio=ratio)
    if aligned is None and way == PLAIN:
        way = EAR_ALONE
    out: list[TimedWord | None] = [None] * len(words)
    for nth, at in enumerate(kept):
        by_ear = _sounds(ipa[at], found.words[at])
        before, after = _beside_others(found, kept, nth)
        # The recogniser knows of no others: its words would lie over them.
        sounds = by_ear
        if aligned and not (before or after):
            sounds = _together(words[at], ipa[at], by_ear, aligned[nth], emission)
        out[at] = TimedWord(tuple(sounds), way, other_before=before, other_after=after)
    for at, spans in guesses.items():
        out[at] = TimedWord(tuple(_sounds(ipa[at], spans)), way, is_guess=True)
    return out


def _aligned(
    samples: NDArray[np.float32],
    words: Sequence[Spoken],
    aligner: Aligner,
    speaker: Heard,
    emission: NDArray[np.float32],
) -> tuple[list[AlignedWord] | None, float]:
    """The recogniser's way, and how many times as slow it heard the sound. A voice that the ear takes for another
    speaker's is usual to it at another speed; where the ear finds that way unlikely, the one at its own speed may be
    likelier.
    """
    keys = [word.key for word in words]
    aligned = aligner.align(samples, keys, ratio=speaker.ratio)
    if speaker.ratio == 1.0 or speaker.found is None:
        return aligned, speaker.ratio
    by_ear = [s for word, spans in zip(words, speaker.found.words, strict=True) for s in _sounds(word.word.ipa, spans)]
    likely = _likelihood_of_way(words, aligned, emission)
    if likely > _likelihood(by_ear, emission) - _NEARLY:
        return aligned, speaker.ratio
    as_it_is = aligner.align(samples, keys)
    if _likelihood_of_way(words, as_it_is, emission) > likely:
        return as_it_is, 1.0
    return aligned, speaker.ratio


def _loosened(found: Found, evidence: Evidence, ipa: Sequence[Sequence[str]]) -> tuple[Found, bool]:
    """Where the words are; and whether some are missing, or something else is said: that is looked for where they do
    not sound as they should.
    """
    word_fits = found.word_fits()
    if min(word_fits) < _SUSPECT or _is_stretched(found):
        strange = max(0.0, _USUAL_FIT - float(np.median(word_fits)))
        loose = find(evidence, ipa, replace(LOOSE, other=LOOSE.other + strange))
        if loose and (loose.others or not all(loose.words)) and any(loose.words):
            return loose, True
    return found, False


def _beside_others(found: Found, kept: Sequence[int], nth: int) -> tuple[bool, bool]:
    """Whether speech that no word has comes between a word and the one before it, and the one after."""
    spans = [s for s in found.words[kept[nth]] if s]
    earlier = [s.last for s in found.words[kept[nth - 1]] if s] if nth else [0]
    later = [s.first for s in found.words[kept[nth + 1]] if s] if nth + 1 < len(kept) else [10**9]

    def is_between(first: int, last: int) -> bool:
        return any(first <= a and b <= last for a, b in found.others)

    return is_between(earlier[-1], spans[0].first), is_between(spans[-1].last, later[0])


def _is_stretched(found: Found) -> bool:
    """Whether some sound is laid over what does not sound like it, for long: there something else may be said."""
    return any(s and s.last - s.first >= _LONG and s.score < _UNLIKE for word in found.words for s in word)


def _over_others(evidence: Evidence, ipa: Sequence[Sequence[str]], found: Found) -> dict[int, list[Span | None]]:
    """Words that were not found, laid over the speech that no word has between their neighbours."""
    out: dict[int, list[Span | None]] = {}
    at = 0
    while at < len(ipa):
        if found.words[at]:
            at += 1
            continue
        last = at
        while last < len(ipa) and not found.words[last]:
            last += 1
        begin = max((s.last for word in found.words[:at] for s in word if s), default=0)
        end = min((s.first for word in found.words[last:] for s in word if s), default=len(evidence.heard))
        stretch = max(((b - a, a, b) for a, b in found.others if begin <= a and b <= end), default=None)
        laid = find(evidence.part(stretch[1], stretch[2]), ipa[at:last]) if stretch else None
        if stretch and laid:
            for nth, spans in enumerate(laid.words):
                out[at + nth] = [s and replace(s, first=s.first + stretch[1], last=s.last + stretch[1]) for s in spans]
        at = last
    return out


def _sounds(ipa: Sequence[str], spans: Sequence[Span | None]) -> list[TimedSound]:
    return [
        TimedSound(symbol, span.first * _FRAME_S, span.last * _FRAME_S, span.score)
        for symbol, span in zip(ipa, spans, strict=True)
        if span
    ]


def _together(
    word: Spoken, ipa: tuple[str, ...], by_ear: list[TimedSound], aligned: AlignedWord, emission: NDArray[np.float32]
) -> list[TimedSound]:
    """A word's sounds by both."""
    spoken = spans_of(word, ipa, aligned)
    if [s.ipa for s in spoken] != [s.ipa for s in by_ear]:
        return by_ear
    share = _RECOGNISER_SHARE if _likelihood(spoken, emission) > _likelihood(by_ear, emission) - _NEARLY else 0.0
    out = []
    for ear, rec in zip(by_ear, spoken, strict=True):
        start = ear.start_s + share * (rec.start_s - ear.start_s)
        end = ear.end_s + share * (rec.end_s - ear.end_s)
        out.append(replace(ear, start_s=start, end_s=end, score=rec.score, apart_s=abs(rec.start_s - ear.start_s)))
    return out


def heard_ipa(word: Spoken, aligned: AlignedWord) -> tuple[str, ...]:
    """The symbols of the pronunciation that the recogniser heard, of those its dictionary has."""
    names = tuple(p.name for p in aligned.phones)
    if not word.word.is_usual or names == tuple(name for (name,) in word.word.phones):
        return word.word.ipa
    vowels = sum(name in VOWELS for name in names)
    return ipa_from_phones(names, word.word.stressed if len(word.word.stressed) == vowels else ())


def spans_of(word: Spoken, ipa: tuple[str, ...], aligned: AlignedWord) -> list[TimedSound]:
    """The recogniser's sounds; phones that make up one symbol are joined."""
    groups = [1] * len(ipa) if word.word.is_usual else [len(group) for group in word.word.phones]
    out, at = [], 0
    for symbol, count in zip(ipa, groups, strict=True):
        part = aligned.phones[at : at + count]
        at += count
        if part:
            out.append(TimedSound(symbol, part[0].start_s, part[-1].end_s, 0.0, min(p.score for p in part)))
    return out


def _likelihood_of_way(
    words: Sequence[Spoken], aligned: Sequence[AlignedWord] | None, emission: NDArray[np.float32]
) -> float:
    ways = zip(words, aligned or (), strict=aligned is not None)
    sounds = [s for word, way in ways for s in spans_of(word, heard_ipa(word, way), way)]
    return _likelihood(sounds, emission) if sounds else -np.inf


def _likelihood(sounds: Sequence[TimedSound], emission: NDArray[np.float32]) -> float:
    """What the ear thinks of sounds where they are put: mean log probability a frame."""
    total, frames = 0.0, 0
    for sound in sounds:
        first = round(sound.start_s / _FRAME_S)
        for part, a, b in shares_of(sound.ipa, first, max(first + 1, round(sound.end_s / _FRAME_S))):
            # Beyond the ends, where the recogniser has silence of its own, it goes on as it is there.
            total += float(emission[np.clip(np.arange(a, b), 0, len(emission) - 1), part].sum())
            frames += b - a
    return total / max(frames, 1)
