"""What is learnt about each speaker while a sound is read: their size, their accent, and how they pronounce sounds."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from tinfork.core.ear.adapting import SoundGains
from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import Alignment, Variants, find
from tinfork.core.ear.speakers import NEARBY, RATIOS, Gains, gains_of_sizes
from tinfork.engines.reading.hear import SoundEvidence
from tinfork.engines.reading.rungs import ACCENT_KNOWN, ACCENT_SURE, FITS_WELL, NAMED_ACCENT, WORDS_OF_SIZE
from tinfork.engines.wording import SpokenWord


@dataclass
class SpeakerVoice:
    """What is known about a speaker."""

    gains: Gains = field(default_factory=Gains)
    #: By the accents of a language: how well everything so far fits each of them (log probability).
    accents: dict[frozenset[str], dict[str, float]] = field(default_factory=dict)
    sounds: SoundGains = field(default_factory=SoundGains)

    @property
    def is_size_known(self) -> bool:
        """Whether enough was heard to know their size."""
        return self.gains.words >= WORDS_OF_SIZE

    def accent_lead(self, accents: frozenset[str]) -> float:
        """By how much the likeliest of these accents fits better than the next one (log probability)."""
        best, second = sorted(self.accents.get(accents, {}).values(), reverse=True)[:2] or (0.0, 0.0)
        return best - second

    def accent_of(self, word: SpokenWord) -> str:
        """The accent in which they say a word; empty while it is not known."""
        if self.accent_lead(word.accents) < ACCENT_KNOWN:
            return ""
        fits = self.accents[word.accents]
        return max(fits, key=lambda accent: fits[accent])

    def variants(self, word: SpokenWord) -> Variants:
        """A word's pronunciations as this speaker may say them, for a search."""
        return word.variants(self.accent_of(word))


class Voices:
    """The speakers of a sound, by name."""

    def __init__(self) -> None:
        self._by_name: dict[str, SpeakerVoice] = {}

    def __getitem__(self, name: str) -> SpeakerVoice:
        return self._by_name.setdefault(name, SpeakerVoice())


@dataclass(frozen=True)
class SizedEvidence:
    """The evidence of a piece, with each speaker at their own size; `ratio`: that of the main speaker."""

    evidence: Evidence
    ratio: float


def heard_at_their_sizes(
    heard: SoundEvidence, words: Sequence[SpokenWord], names: Sequence[str], found: Alignment, voices: Voices
) -> SizedEvidence:
    """Find the sizes of the speakers of a piece, from the words found at the usual size.

    `names`: the speaker of each word.
    """
    ipa = [word.ways[taken].ipa for word, taken in zip(words, found.taken, strict=True)]
    numbers = {name: [at for at, own in enumerate(names) if own == name] for name in dict.fromkeys(names)}
    ratios: dict[str, float] = {}
    for name, own in numbers.items():
        voice = voices[name]
        if not voice.is_size_known and _fit(found, own) < FITS_WELL:
            _listen_for_size(voice, heard, found, ipa, own, RATIOS[1:])
            first = voice.gains.likeliest()
            if first != 1.0:
                _listen_for_size(voice, heard, found, ipa, own, [first * by for by in NEARBY])
        ratios[name] = voice.gains.likeliest()
    if len(set(ratios.values())) == 1:
        ratio = next(iter(ratios.values()))
        return SizedEvidence(heard.as_size(ratio), ratio)
    frames = {name: sum(s.last - s.first for at in own for s in found.words[at] if s) for name, own in numbers.items()}
    return SizedEvidence(_composed(heard, names, found, ratios), ratios[max(frames, key=lambda n: frames[n])])


def _listen_for_size(
    voice: SpeakerVoice,
    heard: SoundEvidence,
    found: Alignment,
    ipa: Sequence[Sequence[str]],
    own: list[int],
    ratios: Sequence[float],
) -> None:
    plain, *others = heard.as_sizes([1.0, *ratios])
    voice.gains.add(ratios, gains_of_sizes(_words_of(found, own), [ipa[at] for at in own], plain, others))


def _fit(found: Alignment, numbers: Sequence[int]) -> float:
    fits = _words_of(found, numbers).word_fits()
    return float(np.mean(fits)) if fits else -np.inf


def _words_of(found: Alignment, numbers: Sequence[int]) -> Alignment:
    """An alignment reduced to some of its words."""
    return Alignment([found.words[at] for at in numbers], [], found.score, [found.taken[at] for at in numbers])


def _composed(heard: SoundEvidence, names: Sequence[str], found: Alignment, ratios: dict[str, float]) -> Evidence:
    """The evidence of each stretch at the size of its speaker."""
    stretches = _stretches(names, found, len(heard.as_size(1.0).heard))
    return _joined([heard.as_size(ratios[name]).part(first, last) for name, first, last in stretches])


def _stretches(names: Sequence[str], found: Alignment, frames: int) -> list[tuple[str, int, int]]:
    """The frames of each speaker.

    From the first words of one speaker to those of the next, with the silence between.
    """
    out: list[tuple[str, int, int]] = []
    begun = 0
    for at, name in enumerate(names):
        is_last = at + 1 == len(names)
        if not is_last and names[at + 1] == name:
            continue
        spans = [s for s in found.words[at] if s]
        after = [s for s in found.words[at + 1] if s] if not is_last else []
        until = frames if is_last else (spans[-1].last + after[0].first) // 2 if spans and after else begun
        out.append((name, begun, until))
        begun = until
    return out


def _joined(parts: Sequence[Evidence]) -> Evidence:
    return Evidence(np.concatenate([p.heard for p in parts]), np.concatenate([p.edge for p in parts]))


def adapted(
    evidence: Evidence, words: Sequence[SpokenWord], names: Sequence[str], found: Alignment, voices: Voices
) -> Evidence:
    """The evidence adapted to how each speaker pronounces sounds."""
    for name in dict.fromkeys(names):
        own = [at for at, other in enumerate(names) if other == name]
        voices[name].sounds.add(_words_of(found, own), [words[at].ways[found.taken[at]].ipa for at in own], evidence)
    stretches = _stretches(names, found, len(evidence.heard))
    return _joined([evidence.part(a, b).with_gains(voices[name].sounds.gains()) for name, a, b in stretches])


def learn_accents(evidence: Evidence, words: Sequence[SpokenWord], names: Sequence[str], voices: Voices) -> None:
    """Compare how well a piece fits if each speaker has one accent or another, until their accent is sure.

    Nobody changes their accent from word to word, though in noise one word or another fits another accent better.
    """
    groups = [(name, word.accents) for word, name in zip(words, names, strict=True)]
    for group in dict.fromkeys(groups):
        name, accents = group
        voice = voices[name]
        if len(accents) < 2 or voice.accent_lead(accents) >= ACCENT_SURE:
            continue
        named = words[groups.index(group)].ways[0].accent
        fits = voice.accents.setdefault(accents, {a: NAMED_ACCENT * (a == named) for a in sorted(accents)})
        tried: dict[str, Alignment | None] = {}
        for accent in fits:
            ways = [
                word.variants(accent) if (other, word.accents) == group else voices[other].variants(word)
                for word, other in zip(words, names, strict=True)
            ]
            tried[accent] = find(evidence, ways)
        # Where the words of one have no room, nothing can be compared.
        if all(tried.values()):
            voice.accents[accents] = {a: fits[a] + found.score for a, found in tried.items() if found}


def laid(evidence: Evidence, words: Sequence[SpokenWord], names: Sequence[str], voices: Voices) -> Alignment | None:
    """Align words to a piece of sound, each in one of its speaker's possible pronunciations."""
    return find(evidence, [voices[name].variants(word) for word, name in zip(words, names, strict=True)])
