"""Speaker sizes: a voice unlike those the ear was trained on is heard as if from a larger or smaller speaker.

The likeliest of a few sizes is taken, as in vocal tract length normalisation (Lee and Rose 1996). Here the pitch moves
with the formants, as it does in recordings that were pitch-shifted or played at another speed.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import Alignment, emissions, fits, shares_of
from tinfork.core.sound.silence import speech_stretches
from tinfork.core.sound.voice import HOP_US

#: Evidence of a sound for each of several ratios: as if the speaker were so many times as high as usual.
AsSizes = Callable[[Sequence[float]], Sequence[Evidence]]

#: After a pause this long somebody else may speak.
PAUSE_US = 500_000
#: The ratios that are tried first: as recorded, and five semitones below and above.
RATIOS = (1.0, 2 ** (-5 / 12), 2 ** (5 / 12))
#: Without words to decide by, eight semitones are tried too, beyond a ratio of five that was better.
_FURTHER = (2 ** (-8 / 12), 2 ** (8 / 12))
#: Around a ratio that was better, three semitones below and above are tried too.
NEARBY = (2 ** (-3 / 12), 2 ** (3 / 12))
#: Another ratio is taken only if the evidence is better by this (log probability per frame): of words, of any sounds.
_BETTER_WORDS, _BETTER = 0.05, 0.03
#: A ratio further away must be clearer than the one before it by this.
_BETTER_FURTHER = 0.05
#: How much less clear the sounds may be if words fit better.
_LESS_CLEAR = 0.05
#: The most that one word counts for a ratio: a wrong word fits any speaker by chance.
_MOST_OF_ONE = 0.5


@dataclass(frozen=True)
class SpeakerEvidence:
    """The evidence for a voice that is `ratio` times as high as usual."""

    ratio: float
    evidence: Evidence


@dataclass
class Gains:
    """How much better the words of one speaker fit at other ratios, added up over the whole recording."""

    words: int = 0
    by_ratio: dict[float, tuple[float, int]] = field(default_factory=dict)

    def add(self, ratios: Sequence[float], gains: Sequence[NDArray[np.float64]]) -> None:
        """Add some words' gains, for each ratio."""
        for ratio, own in zip(ratios, gains, strict=True):
            total, count = self.by_ratio.get(ratio, (0.0, 0))
            self.by_ratio[ratio] = total + float(own.sum()), count + len(own)
        self.words = max((count for _, count in self.by_ratio.values()), default=0)

    def likeliest(self) -> float:
        """The likeliest ratio; 1, unless another is better by enough."""
        means = {ratio: total / max(count, 1) for ratio, (total, count) in self.by_ratio.items()}
        ratio = max(means, key=lambda r: means[r], default=1.0)
        return ratio if means.get(ratio, 0.0) > _BETTER_WORDS else 1.0


def gains_of_sizes(
    found: Alignment, ipa: Sequence[Sequence[str]], plain: Evidence, others: Sequence[Evidence]
) -> list[NDArray[np.float64]]:
    """How much better each word fits where it was found, for each other ratio; shape (words,) each.

    There is no gain if the sounds alone would be less clear: then the words are wrong.
    """
    by_plain = _fits(found, plain, ipa)
    said = np.zeros(len(plain.heard), dtype=bool)
    for spans in found.words:
        for span in spans:
            if span:
                said[span.first : span.last] = True
    clear = [float(each.heard[said].max(axis=1).mean()) for each in (plain, *others)]
    out = []
    for each, own in zip(others, clear[1:], strict=True):
        gain = np.clip(_fits(found, each, ipa) - by_plain, -_MOST_OF_ONE, _MOST_OF_ONE)
        out.append(gain if own >= clear[0] - _LESS_CLEAR else np.minimum(gain, 0.0))
    return out


def _fits(found: Alignment, evidence: Evidence, ipa: Sequence[Sequence[str]]) -> NDArray[np.float64]:
    """How well the sounds of each word fit where they were found: mean log probability."""
    shares: list[tuple[int, int, int]] = []
    # Each share counts as much as any other of its sound, each sound as any other of its word.
    weights: list[tuple[int, float]] = []
    for number, (spans, symbols) in enumerate(zip(found.words, ipa, strict=True)):
        said = [(span, symbol) for span, symbol in zip(spans, symbols, strict=True) if span] if spans else []
        for span, symbol in said:
            own = shares_of(symbol, span.first, span.last)
            shares += own
            weights += [(number, 1 / (len(own) * len(said)))] * len(own)
    words, share = np.array(weights).reshape(-1, 2).T
    out = np.bincount(words.astype(int), weights=share * fits(emissions(evidence), shares), minlength=len(ipa))
    return np.asarray(out, dtype=np.float64)


def speaker_of_sounds(as_sizes: AsSizes) -> SpeakerEvidence:
    """The evidence at the ratio at which sounds are the clearest."""
    return _clearest(as_sizes, [slice(None)])[0]


def evidence_between_pauses(as_sizes: AsSizes, levels: NDArray[np.float64]) -> Evidence:
    """The evidence of each stretch of speech at its own likeliest ratio, since each may have another speaker.

    `levels`: dB of full scale per 10 ms.
    """
    stretches = speech_stretches(levels, pause_us=PAUSE_US)
    middles = [round((a.end_us + b.start_us) / 2 / HOP_US) for a, b in itertools.pairwise(stretches)]
    return evidence_of_speakers(as_sizes, middles)


def evidence_of_speakers(as_sizes: AsSizes, cuts: Sequence[int]) -> Evidence:
    """The evidence of each part before, between and after some frames.

    Each part is heard as from the speaker size whose sounds are the clearest in it.
    """
    parts = [slice(a, b) for a, b in itertools.pairwise([0, *cuts, None])]
    speakers = _clearest(as_sizes, parts)
    taken = [each.evidence.part(part.start, part.stop) for each, part in zip(speakers, parts, strict=True)]
    return Evidence(np.concatenate([t.heard for t in taken]), np.concatenate([t.edge for t in taken]))


def _clearest(as_sizes: AsSizes, parts: Sequence[slice]) -> list[SpeakerEvidence]:
    """The ratio at which sounds are the clearest, for each part, step by step away from 1."""

    def sized(ratios: Sequence[float]) -> list[SpeakerEvidence]:
        return [SpeakerEvidence(*each) for each in zip(ratios, as_sizes(ratios), strict=True)] if ratios else []

    heard = sized(RATIOS)
    near = [_likeliest(_clearness(heard, part), _BETTER) for part in parts]
    # Ratios further away are tried only beyond a nearer one that was better.
    sides = sorted(set(near) - {0})
    further = dict(zip(sides, sized([_FURTHER[side - 1] for side in sides]), strict=True))
    out = []
    for side, part in zip(near, parts, strict=True):
        way = [heard[side], further[side]] if side else [heard[0]]
        _, *clear = _clearness([heard[0], *way], part)
        out.append(way[_likeliest(clear, _BETTER_FURTHER)])
    return out


def _clearness(heard: Sequence[SpeakerEvidence], part: slice) -> list[float]:
    """For each ratio, the mean log probability of the likeliest sound in frames with speech."""
    voiced = heard[0].evidence.voiceless[part] < np.log(0.5)
    if not voiced.any():
        return [0.0] * len(heard)
    return [float(each.evidence.heard[part].max(axis=1)[voiced].mean()) for each in heard]


def _likeliest(scores: Sequence[float], better: float) -> int:
    """The first (as recorded), unless another is better by so much."""
    best = int(np.argmax(scores))
    return best if scores[best] > scores[0] + better else 0
