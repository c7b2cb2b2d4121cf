"""Reading a sound without its words: the listener takes them down, in whatever language is spoken, and they are read.

Stretches of speech are heard together in windows, long pauses shortened, because a word among others is heard better
than alone. Where the listener is not sure, it is asked again as if the voice were higher or lower. What it writes where
the ear hears nobody is left out, and what nobody could write down is read by ear.
"""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.speakers import speaker_of_sounds
from tinfork.core.errors import SoundError, WordsError
from tinfork.core.sound.silence import Stretch, quiet_cuts, speech_stretches
from tinfork.core.sound.voice import HOP_US
from tinfork.core.speech.lexicon import Lexicon, base_language
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.core.speech.rereading import shifted
from tinfork.core.speech.transcript import PAUSE_US, HeardLine, HeardWord, lines_heard
from tinfork.engines import listener
from tinfork.engines.decode import Sound
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords, Listening, code_of
from tinfork.engines.reading.hear import hear
from tinfork.engines.reading.reader import Progress, ReadResult, read_track, silent_progress
from tinfork.engines.reading.sureness import sure_of_heard
from tinfork.engines.recogniser import slowed
from tinfork.engines.synthesiser import languages
from tinfork.engines.unworded import kept, part_by_ear, voice_of
from tinfork.engines.wording import LineText

Samples = NDArray[np.float32]

#: A window is no longer than this; between two stretches in it there is this much silence, around each so much sound.
_WINDOW_US, _GAP_US, _AROUND_US = 27_000_000, 300_000, 150_000
#: A stretch in which the ear hears a voice for less than this share of the time, or this long, is no speech.
_VOICED, _LEAST_VOICED_US = 0.15, 120_000
#: A hearing less likely than this (mean log probability) is tried again as if the voice were so many times as high, or
#: as high as the ear takes it to be.
_POOR, _OTHER_HEIGHTS = -0.55, (2 ** (5 / 12), 2 ** (-4 / 12))
#: The language that was spoken so far counts for the next window as much as this much of its own sound.
_REMEMBERED = 0.6
#: Another language than the window's is taken for a stretch where it is this likely, in so much sound; for one of which
#: no word was heard where it is likelier than not, in less.
_SURELY, _LEAST_OF_LANGUAGE_US = 0.8, 1_500_000
_LIKELY, _LEAST_UNHEARD_US = 0.5, 500_000
#: Lines further apart than this are read for themselves, with so much sound around them.
_APART_US, _MARGIN_US = 1_500_000, 400_000
#: Of languages that have several accents here, the one that is meant where the listener cannot say.
_USUAL = {"en": "en-us", "zh": "cmn", "no": "nb", "pt": "pt-br", "tl": "fil"}

NO_LISTENER = (
    "There is no model to hear words with. Set this up again with ./run, or point TINFORK_WORDS_MODEL to a folder that "
    "has one. The sounds can be read by ear without it."
)
_NOT_KNOWN = "Words of this language cannot be heard here. Type them, or read the sound by ear."
NO_WORDS = "No words are heard in this sound. Is it music or noise? If somebody speaks, read it by ear."


@dataclass(frozen=True)
class Wanted:
    """How to listen: the language ("": found by itself), and names and words that may occur."""

    language: str = ""
    context: str = ""
    lexicon: Lexicon = field(default_factory=Lexicon)


def language_for(code: str) -> str:
    """The synthesiser's language for one of the listener's; empty where it cannot pronounce it."""
    there = {language.code for language in languages()}
    found = _USUAL.get(code, code)
    return found if found in there else ""


def transcribe_voice(voice: Path, wanted: Wanted, report: Progress) -> Reading:
    """`transcribe` of a file of mono samples at 16 kHz (NumPy's format), for a process of its own."""
    return transcribe(kept(voice), wanted, report).reading


def transcribe(sound: Sound, wanted: Wanted | None = None, progress: Progress = silent_progress) -> ReadResult:
    """The reading of what seems to be said; its lines have the words that were heard, by nobody.

    Raises `SoundError` for a silent sound, `WordsError` where there is no listener, it does not know the language, or
    there is nothing to hear.
    """
    wanted = wanted or Wanted()
    if not listener.is_there():
        raise WordsError(NO_LISTENER)
    if wanted.language and not code_of(wanted.language):
        raise WordsError(_NOT_KNOWN)
    samples, levels = voice_of(sound)
    lines: list[Line] = []
    tongue = _Tongue(wanted.language)
    for window in _windows(samples, levels):
        progress("listen", window.stretches[0].start_us / sound.duration_us)
        new = [_as_sure(*both) for both in _heard_and_read(samples, window, tongue, wanted)]
        new = sorted([*new, *_by_ear(samples, window, new, tongue.language)], key=lambda line: line.start_us)
        if new:
            progress("listen", window.stretches[-1].end_us / sound.duration_us, list(enumerate(new, len(lines))))
        lines += new
    if not lines:
        raise WordsError(NO_WORDS)
    return ReadResult(Reading(sound.duration_us, tuple(_untangled(lines))))


def words_of_both(sound: Sound, wanted: Wanted) -> Iterator[tuple[Word, HeardWord]]:
    """Each word as it was read, as sure as the ear alone is, and as it was heard: to learn how sure to be of both."""
    samples, levels = voice_of(sound)
    tongue = _Tongue(wanted.language)
    for window in _windows(samples, levels):
        for line, heard in _heard_and_read(samples, window, tongue, wanted):
            owners = heard.word_of([word.text for word in line.words])
            yield from ((word, owner) for word, owner in zip(line.words, owners, strict=True) if owner)


# windows ------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Window:
    """Stretches of speech put in a row; `starts` is where each begins in `samples` (microseconds)."""

    stretches: tuple[Stretch, ...]
    starts: tuple[int, ...]
    samples: Samples

    def sound_us(self, at_us: int) -> int:
        """The time of the whole sound that a time of the row stands for: never in the silence that was put between."""
        number = max(0, int(np.searchsorted(self.starts, at_us, side="right")) - 1)
        own = self.stretches[number]
        return min(own.start_us + at_us - self.starts[number], own.end_us)


def _windows(samples: Samples, levels: NDArray[np.float64]) -> Iterator[_Window]:
    row: list[Stretch] = []
    for part in _parts(levels):
        if not _is_voice(samples, part):
            continue
        so_far_us = sum(p.end_us - p.start_us + _GAP_US for p in row)
        if row and so_far_us + part.end_us - part.start_us > _WINDOW_US:
            yield _row(samples, row)
            row = []
        row.append(part)
    if row:
        yield _row(samples, row)


def _parts(levels: NDArray[np.float64]) -> Iterator[Stretch]:
    """Stretches of speech with a little sound around them, long ones cut where it is quiet."""
    total_us = len(levels) * HOP_US
    last_us = 0
    found = speech_stretches(levels, pause_us=PAUSE_US)
    for at, stretch in enumerate(found):
        until_us = (stretch.end_us + found[at + 1].start_us) // 2 if at + 1 < len(found) else total_us
        start_us = max(last_us, stretch.start_us - _AROUND_US)
        end_us = min(until_us, stretch.end_us + _AROUND_US)
        for a, b in itertools.pairwise(quiet_cuts(levels, start_us, end_us, most_us=_WINDOW_US)):
            yield Stretch(a, b)
        last_us = end_us


def _is_voice(samples: Samples, part: Stretch) -> bool:
    """Whether the ear hears somebody in a stretch."""
    evidence = hear(_cut(samples, part.start_us, part.end_us)).as_size(1.0)
    voiced = evidence.voiceless < np.log(0.5)
    return bool(voiced.mean() >= _VOICED and voiced.sum() * HOP_US >= _LEAST_VOICED_US)


def _row(samples: Samples, stretches: Sequence[Stretch]) -> _Window:
    gap = np.zeros(_GAP_US * READING_HZ // 1_000_000, dtype=np.float32)
    pieces: list[Samples] = []
    starts: list[int] = []
    at = 0
    for stretch in stretches:
        if pieces:
            pieces.append(gap)
            at += len(gap)
        starts.append(at * 1_000_000 // READING_HZ)
        pieces.append(_cut(samples, stretch.start_us, stretch.end_us))
        at += len(pieces[-1])
    return _Window(tuple(stretches), tuple(starts), np.concatenate(pieces))


def _cut(samples: Samples, start_us: int, end_us: int) -> Samples:
    return samples[start_us * READING_HZ // 1_000_000 : end_us * READING_HZ // 1_000_000]


# words --------------------------------------------------------------------------------------------------------------


@dataclass
class _Tongue:
    """The language that is spoken, as far as is known; `fixed` is one that was asked for."""

    fixed: str
    #: How likely each of the listener's languages is, from what was heard so far.
    so_far: dict[str, float] = field(default_factory=dict)
    language: str = "en-us"

    def take(self, listening: Listening) -> str:
        """The language of a piece, in the light of those before it."""
        if self.fixed:
            self.language = self.fixed
            return self.fixed
        shares = {code: share for code, share in listening.languages().items() if language_for(code)}
        if self.so_far:
            known = {c: np.log(shares[c] + 1e-4) + _REMEMBERED * np.log(self.so_far.get(c, 0) + 1e-3) for c in shares}
        else:
            known = {c: np.log(shares[c] + 1e-4) for c in shares}
        best = max(known, key=lambda code: known[code])
        for code, share in shares.items():
            self.so_far[code] = share if not self.so_far else (self.so_far.get(code, 0.0) + share) / 2
        self.language = language_for(best)
        return self.language


def _heard(window: _Window, tongue: _Tongue, context: str) -> list[HeardWord]:
    """The words of a window, in the sound's time; a stretch in another language is heard in that."""
    listening = Listening(window.samples)
    language = tongue.take(listening)
    heard = _best(window.samples, listening, language, context)
    out = _placed(window, heard.words if heard and heard.is_sure else ())
    if tongue.fixed or len(window.stretches) == 1:
        return out
    for number, stretch in enumerate(window.stretches):
        own = [w for w in out if stretch.start_us <= w.start_us < stretch.end_us]
        needed, least_us = (_SURELY, _LEAST_OF_LANGUAGE_US) if own else (_LIKELY, _LEAST_UNHEARD_US)
        # Words that were heard surely are in the language they were heard in.
        is_sure = bool(own) and float(np.mean([w.sure for w in own])) >= _SURELY
        if is_sure or stretch.end_us - stretch.start_us < least_us:
            continue
        alone = _row_of_one(window, number)
        listening = Listening(alone.samples)
        code, share = max(listening.languages().items(), key=lambda item: item[1])
        other = language_for(code)
        if share < needed or not other or base_language(other) == base_language(language):
            continue
        again = _best(alone.samples, listening, other, context)
        if again and again.is_sure:
            out = sorted([*(w for w in out if w not in own), *_placed(alone, again.words)], key=lambda w: w.start_us)
    return out


def _row_of_one(window: _Window, number: int) -> _Window:
    first = window.starts[number] * READING_HZ // 1_000_000
    stretch = window.stretches[number]
    count = (stretch.end_us - stretch.start_us) * READING_HZ // 1_000_000
    return _Window((stretch,), (0,), window.samples[first : first + count])


def _best(samples: Samples, listening: Listening, language: str, context: str) -> HeardWords | None:
    """What is heard; of a voice that is hardly understood, as if it were higher or lower where that is likelier."""
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


def _placed(window: _Window, words: Sequence[HeardWord]) -> list[HeardWord]:
    """In the sound's time, without those that have no time at all: they are written past the end of what is said."""
    said = (word for word in words if word.end_us > word.start_us)
    placed = (
        replace(word, start_us=window.sound_us(word.start_us), end_us=window.sound_us(word.end_us - 1) + 1)
        for word in said
    )
    return [word for word in placed if word.end_us > word.start_us]


# reading ------------------------------------------------------------------------------------------------------------


def _runs(lines: Sequence[HeardLine]) -> list[list[HeardLine]]:
    """Lines that lie near each other, to be read together."""
    runs: list[list[HeardLine]] = []
    for line in lines:
        if not runs or line.start_us - runs[-1][-1].end_us > _APART_US:
            runs.append([])
        runs[-1].append(line)
    return runs


def _heard_and_read(samples: Samples, window: _Window, tongue: _Tongue, wanted: Wanted) -> list[tuple[Line, HeardLine]]:
    """The lines of a window as they were read, and as they were heard."""
    heard = lines_heard(_heard(window, tongue, wanted.context))
    return [both for run in _runs(heard) for both in _read(samples, run, wanted.lexicon)]


def _read(samples: Samples, heard: Sequence[HeardLine], lexicon: Lexicon) -> list[tuple[Line, HeardLine]]:
    """Lines that were heard, read where they are; none where they cannot be said there."""
    total_us = len(samples) * 1_000_000 // READING_HZ
    begins_us = max(0, heard[0].start_us - _MARGIN_US) // HOP_US * HOP_US
    ends_us = min(total_us, heard[-1].end_us + _MARGIN_US)
    part = Sound(np.array(_cut(samples, begins_us, ends_us))[:, None], READING_HZ)
    texts = [LineText(line.text, "", line.language) for line in heard]
    try:
        read = read_track(part, texts, lexicon=lexicon, is_checked=False).reading
    except (WordsError, SoundError):
        return []
    return [(shifted(line, begins_us), own) for line, own in zip(read.lines, heard, strict=True) if line.words]


def _as_sure(line: Line, heard: HeardLine) -> Line:
    """A line whose words are as sure as both are, with what else each may be."""
    owners = heard.word_of([word.text for word in line.words])
    words = [_weighed(word, owner) for word, owner in zip(line.words, owners, strict=True)]
    return replace(line, words=tuple(words))


def _weighed(word: Word, owner: HeardWord | None) -> Word:
    if owner is None:
        return word
    sure = sure_of_heard(word.confidence, owner.sure, bool(owner.others))
    return replace(word, confidence=sure, others=owner.others)


def _by_ear(samples: Samples, window: _Window, lines: Sequence[Line], language: str) -> list[Line]:
    """What is said in stretches of which no word was taken down, by ear: somebody laughs, screams, hums."""
    out: list[Line] = []
    for stretch in window.stretches:
        if any(line.start_us < stretch.end_us and stretch.start_us < line.end_us for line in lines):
            continue
        out += part_by_ear(samples, stretch.start_us, stretch.end_us, language)
    return out


def _untangled(lines: Sequence[Line]) -> list[Line]:
    """In order, without words that begin before those before them end: of two windows, or of two ways."""
    out: list[Line] = []
    last_us = 0
    for line in sorted(lines, key=lambda line: line.start_us):
        words = tuple(word for word in line.words if word.start_us >= last_us)
        if words:
            out.append(line if len(words) == len(line.words) else replace(line, words=words))
            last_us = words[-1].end_us
    return out
