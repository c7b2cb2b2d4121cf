"""Reading a sound without a text: the listener hears the words, in any language, and they are read.

If the listener is not sure, it hears the sound again as if the voice were higher or lower. Words where the ear hears
nobody are dropped, and voices without words are read by ear.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.speakers import speaker_of_sounds
from tinfork.core.errors import SoundError, WordsError
from tinfork.core.messages import Message
from tinfork.core.sound.silence import SoundSpan
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.lexicon import Lexicon, base_language
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.rereading import shifted
from tinfork.core.speech.transcript import HeardLine, HeardWord, lines_heard
from tinfork.engines import listener
from tinfork.engines.decode import Sound
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords, Listening, code_of
from tinfork.engines.reading.confidence import sure_of_heard
from tinfork.engines.reading.hear import hear
from tinfork.engines.reading.reader import Progress, ReadResult, read_track, silent_progress
from tinfork.engines.recogniser import slowed
from tinfork.engines.synthesiser import languages
from tinfork.engines.unworded import kept, part_by_ear, voice_of
from tinfork.engines.windows import Samples, Window, cut, row_of, windows
from tinfork.engines.wording import LineText

#: A result less likely than this (mean log probability) is tried again as if the voice were higher by these factors, or
#: by the factor that the ear finds.
_POOR, _OTHER_HEIGHTS = -0.55, (2 ** (5 / 12), 2 ** (-4 / 12))
#: A stretch without words is a voice if the listener's probability of nobody speaking is at most this, its text at
#: least this likely, and, in a long stretch, at least this many sounds a second are heard. Measured on 180 laughs,
#: shouts and groans of 15 people (94 % are kept) and 80 effects, noises and pieces of music (77 % are dropped).
_NOBODY, _NONSENSE, _LONG_US, _SOUNDS_PER_S = 0.65, -2.3, 4_000_000, 1.5
#: For the next window, the language so far counts as much as this much sound.
_REMEMBERED = 0.6
#: The factor on the probability of an expected language.
_EXPECTED = 10.0
#: A stretch gets another language than its window if that is this likely, in at least this much sound; a stretch
#: without words, if it is more likely than not, in at least this much.
_SURELY, _LEAST_OF_LANGUAGE_US = 0.8, 1_500_000
_LIKELY, _LEAST_UNHEARD_US = 0.5, 500_000
#: Lines further apart than this are read separately, with this much sound around them.
_APART_US, _MARGIN_US = 1_500_000, 400_000
#: The default accent of languages with several, since the listener cannot tell accents.
_USUAL = {"en": "en-us", "zh": "cmn", "no": "nb", "pt": "pt-br", "tl": "fil"}

NO_LISTENER = Message("listener.missing")
_NOT_KNOWN = Message("listener.unknown_language")
NO_WORDS = Message("listener.no_words")


@dataclass(frozen=True)
class HearingRequest:
    """How to listen: the language ("": detect it), the languages expected then, and names and words that may occur."""

    language: str = ""
    context: str = ""
    lexicon: Lexicon = field(default_factory=Lexicon)
    expected: frozenset[str] = frozenset()


def language_for(code: str) -> str:
    """The synthesiser's code of a language of the listener; empty if it cannot pronounce it."""
    there = {language.code for language in languages()}
    found = _USUAL.get(code, code)
    return found if found in there else ""


def transcribe_voice(voice: Path, wanted: HearingRequest, done: Sequence[Line], report: Progress) -> Reading:
    """`transcribe` of a file of mono samples at 16 kHz (NumPy's format), for a process of its own."""
    return transcribe(kept(voice), wanted, report, done).reading


def transcribe(
    sound: Sound, wanted: HearingRequest | None = None, progress: Progress = silent_progress, done: Sequence[Line] = ()
) -> ReadResult:
    """Read the words that the listener hears; the lines have no speakers.

    `done` are the first lines, from an earlier run that did not finish: as passed to `progress`, all lines of a window
    at once.

    Raises
    ------
    SoundError
        For a silent sound.
    WordsError
        Where there is no listener, it does not know the language, or there is nothing to hear.
    """
    wanted = wanted or HearingRequest()
    check_listener(wanted.language)
    samples, levels = voice_of(sound)
    lines = list(done)
    for heard in heard_in(samples, levels, wanted, done):
        progress("listen", heard.stretches[0].start_us / sound.duration_us)
        new = [as_sure(*both) for both in read_heard(samples, heard.lines, wanted.lexicon)]
        new = sorted([*new, *by_ear(samples, heard, new)], key=lambda line: line.start_us)
        if new:
            progress("listen", heard.stretches[-1].end_us / sound.duration_us, list(enumerate(new, len(lines))))
        lines += new
    lines = in_order(sorted(lines, key=lambda line: line.start_us))
    if not lines:
        raise WordsError(NO_WORDS)
    return ReadResult(Reading(sound.duration_us, tuple(line for line in lines if line.words)))


def check_listener(language: str) -> None:
    """Raise an error if listening is not possible.

    Raises
    ------
    WordsError
        Where there is no listener, or it does not know a language that is asked for.
    """
    if not listener.is_there():
        raise WordsError(NO_LISTENER)
    if language and not code_of(language):
        raise WordsError(_NOT_KNOWN)


def words_of_both(sound: Sound, wanted: HearingRequest) -> Iterator[tuple[Word, HeardWord]]:
    """Each word as read, with the ear's own confidence, and as heard: used to train the confidence of heard words."""
    samples, levels = voice_of(sound)
    for window in heard_in(samples, levels, wanted):
        for line, heard in read_heard(samples, window.lines, wanted.lexicon):
            owners = heard.word_of([word.text for word in line.words])
            yield from ((word, owner) for word, owner in zip(line.words, owners, strict=True) if owner)


@dataclass(frozen=True)
class HeardWindow:
    """The words heard in some stretches, and their language."""

    stretches: tuple[SoundSpan, ...]
    lines: tuple[HeardLine, ...]
    language: str


def heard_in(
    samples: Samples, levels: NDArray[np.float64], wanted: HearingRequest, done: Sequence[Line] = ()
) -> Iterator[HeardWindow]:
    """Everything heard in a sound after the lines in `done`, window by window.

    Samples are mono at 16 kHz, `levels` in dB per 10 ms.
    """
    tongue = _Tongue(wanted.language, frozenset(map(code_of, wanted.expected)))
    if done:
        tongue.so_far = {code_of(done[-1].language): 1.0}
    until_us = max((line.end_us for line in done if line.words), default=0)
    for window in windows(samples, levels):
        if window.stretches[0].start_us < until_us:
            continue
        lines = lines_heard(_heard(samples, window, tongue, wanted.context))
        yield HeardWindow(window.stretches, tuple(lines), tongue.language)


# words --------------------------------------------------------------------------------------------------------------


@dataclass
class _Tongue:
    """The language of the sound so far.

    `fixed` was requested, `expected` has the listener's codes of expected ones.
    """

    fixed: str
    expected: frozenset[str] = frozenset()
    #: The probability of each of the listener's languages from the sound so far.
    so_far: dict[str, float] = field(default_factory=dict)
    language: str = "en-us"

    def take(self, listening: Listening) -> str:
        """The language of a piece, given those before it."""
        if self.fixed:
            self.language = self.fixed
            return self.fixed
        shares = self.shares(listening)
        if self.so_far:
            known = {c: np.log(shares[c] + 1e-4) + _REMEMBERED * np.log(self.so_far.get(c, 0) + 1e-3) for c in shares}
        else:
            known = {c: np.log(shares[c] + 1e-4) for c in shares}
        best = max(known, key=lambda code: known[code])
        for code, share in shares.items():
            self.so_far[code] = share if not self.so_far else (self.so_far.get(code, 0.0) + share) / 2
        self.language = language_for(best)
        return self.language

    def shares(self, listening: Listening) -> dict[str, float]:
        """The probability of each language that can be pronounced, from the sound and the expectation."""
        found = {code: share for code, share in listening.languages().items() if language_for(code)}
        weighed = {code: share * (_EXPECTED if code in self.expected else 1.0) for code, share in found.items()}
        total = sum(weighed.values())
        return {code: share / total for code, share in weighed.items()}


def _heard(samples: Samples, window: Window, tongue: _Tongue, context: str) -> list[HeardWord]:
    """The words of a window, in the sound's time; a stretch in another language is heard in that language."""
    listening = Listening(window.samples)
    language = tongue.take(listening)
    heard = _best(window.samples, listening, language, context)
    out = _placed(window, heard.words if heard and heard.is_sure else ())
    if tongue.fixed or len(window.stretches) == 1:
        return out
    for stretch in window.stretches:
        own = [w for w in out if stretch.start_us <= w.start_us < stretch.end_us]
        needed, least_us = (_SURELY, _LEAST_OF_LANGUAGE_US) if own else (_LIKELY, _LEAST_UNHEARD_US)
        # Words heard with confidence are in the language in which they were heard.
        is_sure = bool(own) and float(np.mean([w.sure for w in own])) >= _SURELY
        if is_sure or stretch.end_us - stretch.start_us < least_us:
            continue
        alone = row_of(samples, [stretch])
        listening = Listening(alone.samples)
        shares = tongue.shares(listening)
        code = max(shares, key=lambda one: shares[one])
        other = language_for(code)
        if shares[code] < needed or not other or base_language(other) == base_language(language):
            continue
        again = _best(alone.samples, listening, other, context)
        if again and again.is_sure:
            out = sorted([*(w for w in out if w not in own), *_placed(alone, again.words)], key=lambda w: w.start_us)
    return out


def _best(samples: Samples, listening: Listening, language: str, context: str) -> HeardWords | None:
    """The best result: for a voice that is hardly understood, as if it were higher or lower, if that is likelier."""
    best = listening.words(language, context=context, is_detailed=True)
    if best is None or (best.is_sure and best.score > _POOR):
        return best
    likeliest = speaker_of_sounds(hear(samples).as_sizes).ratio
    for ratio in (likeliest,) if likeliest != 1.0 else _OTHER_HEIGHTS:
        other = Listening(slowed(samples, ratio)).words(language, context=context, is_detailed=True)
        if other and other.is_sure and (not best.is_sure or other.score > best.score):
            best = replace(other, words=tuple(_faster(word, ratio) for word in other.words))
    return best


def _faster(word: HeardWord, ratio: float) -> HeardWord:
    return replace(word, start_us=round(word.start_us / ratio), end_us=round(word.end_us / ratio))


def _placed(window: Window, words: Sequence[HeardWord]) -> list[HeardWord]:
    """Words in the sound's time, without words of zero length, which the model adds after the end of speech."""
    said = (word for word in words if word.end_us > word.start_us)
    placed = (
        replace(word, start_us=window.sound_us(word.start_us), end_us=window.sound_us(word.end_us - 1) + 1)
        for word in said
    )
    return [word for word in placed if word.end_us > word.start_us]


# reading ------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class RoughLine:
    """A line, and roughly when it is said."""

    text: LineText
    start_us: int
    end_us: int


def read_where_said(
    samples: Samples, lines: Sequence[RoughLine], lexicon: Lexicon, *, is_checked: bool = False
) -> list[Line | None]:
    """Read lines at their rough times, in order; None for a line that does not fit there.

    `is_checked`: whether the listener checks once more for other words than written.
    """
    read = (_read_run(samples, run, lexicon, is_checked) for run in _runs(lines))
    return [line if line and line.words else None for run in read for line in run]


def _runs(lines: Sequence[RoughLine]) -> list[list[RoughLine]]:
    """Runs of lines near each other, which are read together."""
    runs: list[list[RoughLine]] = []
    for line in lines:
        if not runs or line.start_us - runs[-1][-1].end_us > _APART_US:
            runs.append([])
        runs[-1].append(line)
    return runs


def _read_run(samples: Samples, run: Sequence[RoughLine], lexicon: Lexicon, is_checked: bool) -> Sequence[Line | None]:
    """Read lines together, or, if that fails, one by one."""
    total_us = len(samples) * 1_000_000 // READING_HZ
    begins_us = max(0, run[0].start_us - _MARGIN_US) // HOP_US * HOP_US
    ends_us = min(total_us, run[-1].end_us + _MARGIN_US)
    part = Sound(np.array(cut(samples, begins_us, ends_us))[:, None], READING_HZ)
    try:
        read = read_track(part, [line.text for line in run], lexicon=lexicon, is_checked=is_checked).reading
    except (WordsError, SoundError):
        if len(run) == 1:
            return [None]
        return [line for one in run for line in _read_run(samples, [one], lexicon, is_checked)]
    return [shifted(line, begins_us) for line in read.lines]


def read_heard(samples: Samples, heard: Sequence[HeardLine], lexicon: Lexicon) -> list[tuple[Line, HeardLine]]:
    """Lines as read, each with the words that were heard; lines that do not fit are left out."""
    rough = [RoughLine(LineText(line.text, "", line.language), line.start_us, line.end_us) for line in heard]
    read = read_where_said(samples, rough, lexicon)
    return [(line, own) for line, own in zip(read, heard, strict=True) if line]


def as_sure(line: Line, heard: HeardLine) -> Line:
    """A line with the combined confidence of ear and listener, and the alternatives of each word."""
    owners = heard.word_of([word.text for word in line.words])
    words = [_weighed(word, owner) for word, owner in zip(line.words, owners, strict=True)]
    return replace(line, words=tuple(words))


def _weighed(word: Word, owner: HeardWord | None) -> Word:
    if owner is None:
        return word
    sure = sure_of_heard(word.confidence, owner.sure, bool(owner.others))
    return replace(word, confidence=sure, others=owner.others)


def by_ear(samples: Samples, heard: HeardWindow, lines: Sequence[Line]) -> list[Line]:
    """Read stretches without words by ear: somebody laughs, screams, hums.

    The listener's text becomes a suggestion.
    """
    out: list[Line] = []
    for stretch in heard.stretches:
        if any(line.start_us < stretch.end_us and stretch.start_us < line.end_us for line in lines):
            continue
        said = Listening(row_of(samples, [stretch]).samples).words(heard.language)
        if said and (said.nobody > _NOBODY or said.score < _NONSENSE):
            continue
        new = part_by_ear(samples, stretch.start_us, stretch.end_us, heard.language)
        length_us = stretch.end_us - stretch.start_us
        sounds = sum(len(word.phonemes) for line in new for word in line.words)
        if length_us > _LONG_US and sounds * 1_000_000 < _SOUNDS_PER_S * length_us:
            continue
        out += [_suggested(line, said.text if said and said.is_sure else "") for line in new]
    return out


def _suggested(line: Line, text: str) -> Line:
    """A line by ear, with the listener's text as a suggestion on its first syllable."""
    return replace(line, words=(replace(line.words[0], heard=text), *line.words[1:]))


def in_order(lines: Sequence[Line]) -> list[Line]:
    """Lines in order of time, without words that start before the end of earlier ones, as from two windows.

    A line may end up without words.
    """
    out: list[Line] = []
    last_us = 0
    for line in lines:
        words = tuple(word for word in line.words if word.start_us >= last_us)
        out.append(line if len(words) == len(line.words) else replace(line, words=words))
        last_us = words[-1].end_us if words else last_us
    return out
