"""Stage 2, words: which words are said in a piece of sound, from the typed words and those the listener heard.

Where both agree, the typed words are used, and none is left out. Where they differ, the ear decides: the heard words
replace the typed ones if they fit the sound better by enough. Speech that neither has is read by ear.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.loop import sounds_in
from tinfork.core.ear.network import Evidence
from tinfork.core.ear.path import Alignment, Freedom, Span, Variants, find
from tinfork.core.ear.phones import HEARD
from tinfork.core.errors import WordsError
from tinfork.core.sound.silence import quiet_cuts
from tinfork.core.speech.agreement import Doubt, doubts, without_same_words
from tinfork.core.speech.lexicon import Lexicon
from tinfork.core.speech.visemes import is_vowel
from tinfork.engines.ear import transitions
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords
from tinfork.engines.reading.hear import FRAME_S, SoundEvidence
from tinfork.engines.reading.rungs import (
    DISTRUST,
    ENTER,
    ENTER_LOOSE,
    ENTER_NOTHING,
    LONG,
    PER_LOOSE_SOUND,
    PER_SYLLABLE,
    UNLIKE,
    USUAL_DOUBTS,
)
from tinfork.engines.reading.voices import Voices, adapted, heard_at_their_sizes, laid, learn_accents
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import LineText, Pronounced, Speller, SpokenWord

#: Hears words in samples of a language; None if it cannot.
Listener = Callable[[NDArray[np.float32], str], HeardWords | None]
#: The longest part given to the listener.
_PART_US = 14_000_000
#: Typed words that are not said are laid over the most similar part of the speech.
_SOMEWHERE = Freedom(enter_other=4.0, other=1.0)
#: The number of words around a place that are searched with it.
_NEIGHBOURS = 2
#: The most syllables a second that anybody says.
_MOST_SYLLABLES_PER_S = 10.0


@dataclass(frozen=True)
class SaidWord:
    """A spoken word, and its pronunciations.

    `typed`: its index among the typed words of the piece; None if it was not typed.
    """

    ways: tuple[Pronounced, ...]
    variants: Variants
    typed: int | None = None


@dataclass(frozen=True)
class OtherWords:
    """A place where other words are said than typed.

    The typed words `[first, last)` (may be empty), the spoken ones `[said_first, said_last)`, and the listener's text.
    """

    first: int
    last: int
    said_first: int
    said_last: int
    text: str


@dataclass(frozen=True)
class Said:
    """The words said in a piece of sound, their alignment with the ear's evidence, and the typed words.

    `agreed`: whether the listener heard each typed word; None if unknown.
    """

    words: tuple[SaidWord, ...]
    typed: tuple[SaidWord, ...]
    found: Alignment
    evidence: Evidence
    ratio: float
    agreed: tuple[bool | None, ...]
    others: tuple[OtherWords, ...] = ()


@dataclass
class WordsStage:
    """Finds the spoken words of one piece after the other; what it learns about the speakers is used for the next."""

    lines: Sequence[LineText]
    listener: Listener | None = None
    lexicon: Lexicon = field(default_factory=Lexicon)
    voices: Voices = field(default_factory=Voices)

    def what_is_said(self, heard: SoundEvidence, typed: Sequence[SpokenWord]) -> Said | None:
        """The words said in a piece with these typed words; None if they do not fit into it."""
        names = [self.lines[word.line].speaker for word in typed]
        found = laid(heard.as_size(1.0), typed, names, self.voices)
        if found is None:
            return None
        sized = heard_at_their_sizes(heard, typed, names, found, self.voices)
        if sized.ratio != 1.0 or sized.evidence is not heard.as_size(1.0):
            found = laid(sized.evidence, typed, names, self.voices) or found
        learn_accents(sized.evidence, typed, names, self.voices)
        evidence = adapted(sized.evidence, typed, names, found, self.voices)
        found = laid(evidence, typed, names, self.voices) or found
        words = [
            SaidWord(word.ways, self.voices[name].variants(word), at)
            for at, (word, name) in enumerate(zip(typed, names, strict=True))
        ]
        said = Said(tuple(words), tuple(words), found, evidence, sized.ratio, (None,) * len(words))
        if self.listener is None:
            return said
        places, agreed = self._places(heard, typed, said)
        taken = [each for place in places if (each := self._decided(place, typed, said))]
        return _with_others(replace(said, agreed=agreed), taken)

    def _places(
        self, heard: SoundEvidence, typed: Sequence[SpokenWord], said: Said
    ) -> tuple[list["_Place"], tuple[bool | None, ...]]:
        """The places where the listener heard other words than typed; and for each typed word, whether it was heard."""
        places: list[_Place] = []
        agreed: list[bool | None] = [None] * len(typed)
        for language in dict.fromkeys(self.lines[word.line].language for word in typed):
            own = [self.lines[word.line].language == language for word in typed]
            words = self._heard_words(heard, language)
            if words is None:
                continue
            agreed = [True if is_own else a for a, is_own in zip(agreed, own, strict=True)]
            keys, ways = [key for key, _, _ in words], [ways for _, ways, _ in words]
            by_sounds = [[way.ipa for way in word.ways] for word in typed]
            by_spelling = [word.key for word in typed]
            found = [
                other
                for doubt in doubts(by_sounds, [w[0].ipa for w in ways])
                if (other := without_same_words(doubt, by_spelling, keys))
            ]
            # Lines in another language are always heard differently.
            found = [d for d in found if all(own[d.first : d.last] or own[max(0, d.first - 1) : d.first + 1])]
            share = sum(doubt.last - doubt.first for doubt in found) / sum(own)
            for doubt in found:
                agreed[doubt.first : doubt.last] = [False] * (doubt.last - doubt.first)
                instead = [
                    SaidWord(w, Variants(tuple(p.ipa for p in w), c))
                    for _, w, c in words[doubt.heard_first : doubt.heard_last]
                ]
                text = " ".join(keys[doubt.heard_first : doubt.heard_last])
                places.append(
                    _Place(doubt, tuple(instead), text, distrust=1 + DISTRUST * max(0.0, share - USUAL_DOUBTS))
                )
        if all(a is None for a in agreed):
            places = _unlikely(said)
        # They were found language by language; decide them in the order of words.
        return sorted(places, key=lambda place: (place.doubt.first, place.doubt.last)), tuple(agreed)

    def _heard_words(
        self, heard: SoundEvidence, language: str
    ) -> list[tuple[str, tuple[Pronounced, ...], tuple[float, ...]]] | None:
        """The words that the listener hears in a piece, with their pronunciations; None if it cannot tell."""
        assert self.listener
        texts = []
        cuts = quiet_cuts(heard.levels, 0, round(heard.seconds * 1e6), most_us=_PART_US)
        for start_us, end_us in itertools.pairwise(cuts):
            part = heard.samples[start_us * READING_HZ // 1_000_000 : end_us * READING_HZ // 1_000_000]
            words = self.listener(part, language)
            if words is None or not words.is_sure:
                return None
            texts.append(words.text)
        written = split_words(" ".join(texts), language)
        try:
            return [said for word in Speller(self.lexicon).line(written, language) for said in word]
        except WordsError:
            return None

    def _decided(self, place: "_Place", typed: Sequence[SpokenWord], said: Said) -> "_Place | None":
        """The place with the words said there, if these are not the typed ones; else None."""
        first, last = place.doubt.first, place.doubt.last
        left, right = max(0, first - _NEIGHBOURS), min(len(typed), last + _NEIGHBOURS)
        begin = _end_before(said.found, left)
        end = _begin_after(said.found, right, len(said.evidence.heard))
        evidence = said.evidence.part(begin, end)
        before, after = ([w.variants for w in said.words[a:b]] for a, b in ((left, first), (last, right)))
        own = find(evidence, [*before, *(w.variants for w in said.words[first:last]), *after])
        syllables = _syllables([w.ways[0].ipa for w in said.words[first:last]])
        if place.is_heard:
            instead = [w.variants for w in place.instead]
            other = find(evidence, [*before, *instead, *after]) if before or instead or after else None
            at_stake = max(1, syllables, _syllables([w.ways[0].ipa for w in place.instead]))
            price = max(ENTER + PER_SYLLABLE * at_stake, 0.0 if instead else ENTER_NOTHING)
            if other and (own is None or other.score - own.score > price * place.distrust):
                return place
        return self._by_ear(place, said, own, evidence, (before, after), begin)

    def _by_ear(
        self,
        place: "_Place",
        said: Said,
        own: Alignment | None,
        evidence: Evidence,
        around: tuple[list[Variants], list[Variants]],
        begin: int,
    ) -> "_Place | None":
        """The place with the sounds heard there, if the typed words are unlike them.

        They must fit better than any known words.
        """
        first, last = place.doubt.first, place.doubt.last
        a = _end_before(said.found, first) - begin
        b = _begin_after(said.found, last, begin + len(evidence.heard)) - begin
        is_unlike = first == last or _fit_of(said.found, first, last) < _usual_fit(said.found) - UNLIKE
        if b - a < LONG or own is None or not is_unlike:
            return None
        heard = [HEARD[s.sound] for s in sounds_in(evidence.part(a, b), transitions()) if s.sound]
        if not any(is_vowel(sound) for sound in heard):
            return None
        before, after = around
        loose = Variants((tuple(heard),), (0.0,))
        other = find(evidence, [*before, loose, *after])
        price = (ENTER_LOOSE + PER_LOOSE_SOUND * len(heard)) * place.distrust
        if other is None or other.score - own.score <= price:
            return None
        way = Pronounced(tuple(heard), ())
        return replace(place, instead=(SaidWord((way,), loose),), text=_sayable(place, b - a))


@dataclass(frozen=True)
class _Place:
    """A doubtful place, the words heard there, and the listener's text.

    `is_heard`: the listener ran; `distrust`: the factor on the gain required.
    """

    doubt: Doubt
    instead: tuple[SaidWord, ...]
    text: str
    is_heard: bool = True
    distrust: float = 1.0


def _sayable(place: _Place, frames: int) -> str:
    """The listener's words, unless they are more than anybody can say in that time: then it repeated itself."""
    syllables = _syllables([w.ways[0].ipa for w in place.instead])
    return place.text if syllables <= 1 + _MOST_SYLLABLES_PER_S * frames * FRAME_S else ""


def _fit_of(found: Alignment, first: int, last: int) -> float:
    """How well some words fit: mean log probability per frame; 0 if none of them is said."""
    fits = replace(found, words=found.words[first:last]).word_fits()
    return float(np.mean(fits)) if fits else 0.0


def _usual_fit(found: Alignment) -> float:
    return float(np.median(found.word_fits()))


def _syllables(words: Sequence[Sequence[str]]) -> int:
    return sum(is_vowel(symbol.lstrip("ˈˌ")) for word in words for symbol in word)


def _end_before(found: Alignment, word: int) -> int:
    """The frame in which the last word before this one ends."""
    return max((s.last for spans in found.words[:word] for s in spans if s), default=0)


def _begin_after(found: Alignment, word: int, frames: int) -> int:
    """The frame in which the first word from this one on begins."""
    return min((s.first for spans in found.words[word:] for s in spans if s), default=frames)


def _unlikely(said: Said) -> list[_Place]:
    """Words that fit far worse than the rest of their line.

    Also places between words where one is stretched over sound that is unlike it.
    """
    fits = said.found.word_fits()
    usual = _usual_fit(said.found)
    out = []
    for at, (spans, fit) in enumerate(zip(said.found.words, fits, strict=True)):
        if fit < usual - UNLIKE:
            out.append(_Place(Doubt(at, at + 1, 0, 0), (), "", is_heard=False))
        elif any(s and s.last - s.first >= LONG and s.score < usual - UNLIKE for s in spans[-1:]):
            out.append(_Place(Doubt(at + 1, at + 1, 0, 0), (), "", is_heard=False))
    return out


def _with_others(said: Said, places: Sequence[_Place]) -> Said:
    """Align again, with the words that replace the typed ones."""
    if not places:
        return said
    words: list[SaidWord] = []
    others: list[OtherWords] = []
    at = 0
    for place in places:
        words += said.words[at : place.doubt.first]
        begun = len(words)
        words += place.instead
        others.append(OtherWords(place.doubt.first, place.doubt.last, begun, len(words), place.text))
        at = place.doubt.last
    words += said.words[at:]
    found = find(said.evidence, [w.variants for w in words]) if words else None
    if found is None:
        return said
    return replace(said, words=tuple(words), found=found, others=tuple(others))


def laid_over(
    said: Said, other: OtherWords, typed: Sequence[Variants]
) -> tuple[list[list[Span | None]], list[int]] | None:
    """Lay typed words over the speech that replaces them: spans and variants; None if there is no room."""
    spans = [s for word in said.found.words[other.said_first : other.said_last] for s in word if s]
    if not spans or not typed:
        return None
    first, last = spans[0].first, spans[-1].last
    found = find(said.evidence.part(first, last), typed, _SOMEWHERE)
    if found is None:
        return None
    moved = [[s and replace(s, first=s.first + first, last=s.last + first) for s in word] for word in found.words]
    return moved, found.taken
