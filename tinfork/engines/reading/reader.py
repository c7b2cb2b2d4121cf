"""`read_track` makes a reading from a sound and its words, in any language that the synthesiser can pronounce.

Words are converted to phonemes and laid out along the sound, window by window; each window is cut into pieces, and each
piece passes through the stages (hear, words, align, judge, place). A short sound is one window. Internal times are
seconds until the edges are placed.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.path import find
from tinfork.core.ear.speakers import evidence_between_pauses
from tinfork.core.errors import SoundError, WordsError
from tinfork.core.messages import Message
from tinfork.core.sound.voice import HOP_US, SILENCE_DB, has_voice, level_db
from tinfork.core.speech.lexicon import Lexicon
from tinfork.core.speech.reading import DOUBTFUL, Line, Reading
from tinfork.core.speech.rereading import Change, shifted
from tinfork.engines.decode import Sound
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import words_heard
from tinfork.engines.reading.align import align
from tinfork.engines.reading.hear import FRAME_S, SoundEvidence, hear
from tinfork.engines.reading.judge import Judged, judge
from tinfork.engines.reading.layout import LaidOutSounds, LineLayout
from tinfork.engines.reading.place import PlacedTrack
from tinfork.engines.reading.words import WordsStage
from tinfork.engines.wording import LineText, SpokenWord, Wording, check_fit, spell

#: A sound up to this long is one window.
WHOLE_S = 75.0
_PIECE_S = 25.0
#: Sound this far below the loudest is not a foreground voice (dB).
_FOREGROUND_DB = 25.0


class Progress(Protocol):
    """Called with a phase ("spell", "lay out", "align") and the progress, 0 to 1; may raise `Cancelled`.

    `part`: finished lines, by their index among the given ones.
    """

    def __call__(self, phase: str, done: float, part: Any = None) -> None:
        """Report progress."""


def silent_progress(phase: str, done: float, part: Any = None) -> None:
    """A progress callback that does nothing."""


@dataclass(frozen=True)
class ReadResult:
    """The reading, and warnings for the user."""

    reading: Reading
    warnings: tuple[str, ...] = ()


def read_changes(
    voice: Path,
    texts: list[LineText],
    changes: Sequence[Change],
    may_skip: bool = False,
    lexicon: Lexicon | None = None,
    report: Progress = silent_progress,
) -> tuple[dict[int, Line], tuple[str, ...]]:
    """Read runs of lines, each between two times of a sound; returns the lines by index, and warnings.

    `voice` is a file of mono samples at 16 kHz (NumPy's format). Each line is also reported as soon as it is done.
    """
    samples = np.load(voice, mmap_mode="r")
    out: dict[int, Line] = {}
    warnings: list[str] = []
    total = sum(change.end_us - change.start_us for change in changes)
    before = 0
    for change in changes:
        part = samples[change.start_us * READING_HZ // 1_000_000 : change.end_us * READING_HZ // 1_000_000]
        inner = _Inner(report, change, before / max(total, 1), (change.end_us - change.start_us) / max(total, 1))
        sound = Sound(np.array(part)[:, None], READING_HZ)
        texts_here = texts[change.first : change.last]
        result = read_track(sound, texts_here, inner, may_skip=may_skip, lexicon=lexicon)
        warnings += result.warnings
        done = [(change.first + at, shifted(line, change.start_us)) for at, line in enumerate(result.reading.lines)]
        out.update(done)
        before += change.end_us - change.start_us
        report("align", before / max(total, 1), done)
    return out, tuple(dict.fromkeys(warnings))


@dataclass(frozen=True)
class _Inner:
    """Converts progress in one change to progress of the whole."""

    report: Progress
    change: Change
    begins: float
    share: float

    def __call__(self, phase: str, done: float, part: Any = None) -> None:
        """Pass on progress, with the indices and times of lines in the whole sound."""
        lines = [(self.change.first + at, shifted(line, self.change.start_us)) for at, line in part or ()]
        whole = self.begins + self.share * done if phase == "align" else done
        self.report(phase, whole, lines or None)


@dataclass(frozen=True)
class _Window:
    """Words laid out between two times.

    The indices of spoken words, their spans, and the times of the sound around them.
    """

    numbers: list[int]
    spans: list[tuple[float, float]]
    from_s: float
    to_s: float


@dataclass(frozen=True)
class _Reading:
    """The state while a sound is read."""

    wording: Wording
    track: PlacedTrack
    words: WordsStage


def read_track(
    sound: Sound,
    lines: list[LineText],
    progress: Progress = silent_progress,
    *,
    may_skip: bool = False,
    lexicon: Lexicon | None = None,
    is_checked: bool = True,
) -> ReadResult:
    """Align lines, in order, to a sound.

    In a long sound, or with `may_skip`, lines that are not said stay without words. With `is_checked` the listener
    checks whether the typed words are the spoken ones.

    Raises
    ------
    SoundError
        For a silent sound.
    WordsError
        For words that are missing or cannot fit.
    """
    samples = sound.mono_at(READING_HZ)
    levels = level_db(samples, READING_HZ)
    if not has_voice(levels):
        raise SoundError(NO_VOICE)
    progress("spell", 0.0)
    wording = spell(lines, lexicon)
    check_fit(wording.spoken, len(samples) / READING_HZ)
    progress("lay out", 0.0)
    track = PlacedTrack(samples, lines, wording, sound.duration_us)
    words = WordsStage(lines, words_heard if is_checked else None, lexicon or Lexicon())
    reads = _Reading(wording, track, words)
    if len(samples) <= WHOLE_S * READING_HZ and not may_skip:
        heard = hear(samples)
        _read_window(reads, heard, _whole(wording, heard), progress)
    else:
        for window, done in _windows(wording, samples):
            until_s = max([window.to_s, *(end for _, end in window.spans[-1:])])
            heard = hear(samples[round(window.from_s * READING_HZ) : round(until_s * READING_HZ)])
            _read_window(reads, heard, window, silent_progress)
            progress("align", done, track.finished(upto=window.numbers[-1] if window.numbers else None))
    progress("align", 1.0)
    reading = Reading(sound.duration_us, track.lines())
    if not any(line.words for line in reading.lines):
        raise WordsError(_NOT_SAID)
    return ReadResult(reading, _warnings(reading, levels))


NO_VOICE = Message("reading.silent")
_NOT_SAID = Message("reading.not_said")


def _whole(wording: Wording, heard: SoundEvidence) -> _Window:
    """The whole sound as one window with all words; if it is a single piece, each word may be anywhere in it.

    Raises
    ------
    WordsError
        Where the words cannot have been said.
    """
    total_s = heard.seconds
    everything = list(range(len(wording.spoken)))
    if total_s <= _PIECE_S:
        return _Window(everything, [(0.0, total_s)] * len(everything), 0.0, total_s)
    found = find(evidence_between_pauses(heard.as_sizes, heard.levels), [s.variants() for s in wording.spoken])
    if found is None:
        raise WordsError(_NOT_SAID)
    spans = []
    for word in found.words:
        said = [s for s in word if s]
        spans.append((said[0].first * FRAME_S, said[-1].last * FRAME_S))
    return _Window(everything, spans, 0.0, total_s)


def _windows(wording: Wording, samples: NDArray[np.float32]) -> Iterator[tuple[_Window, float]]:
    """The windows of a long sound, and the progress at the end of each."""
    lines = wording.by_line()
    firsts = np.cumsum([0, *map(len, lines)]).tolist()
    layout = LineLayout(samples, [[s.word.ipa for s in line] for line in lines])
    last_s = 0.0
    while not layout.is_done:
        laid = _with_missing(layout.find())
        layout.accept(laid)
        numbers = [firsts[line] + word for line, word, *_ in laid.words]
        spans = [(start, end) for *_, start, end in laid.words]
        yield _Window(numbers, spans, last_s, laid.upto_s), layout.done
        last_s = spans[-1][1] if spans else last_s


def _with_missing(laid: LaidOutSounds) -> LaidOutSounds:
    """Add the words that were skipped inside a line, between their neighbours, for a closer search."""
    words: list[tuple[int, int, float, float]] = []
    for entry in laid.words:
        if words and words[-1][0] == entry[0]:
            line, last, _, end = words[-1]
            between = range(last + 1, entry[1])
            cuts = np.linspace(end, entry[2], len(between) + 1)
            words += [(line, at, float(a), float(b)) for at, a, b in zip(between, cuts, cuts[1:], strict=False)]
        words.append(entry)
    return LaidOutSounds(words, laid.upto_s)


def _read_window(reading: _Reading, heard: SoundEvidence, window: _Window, progress: Progress) -> None:
    """Read a window, piece by piece, into the track.

    Raises
    ------
    WordsError
        Where its words cannot have been said.
    """
    if not window.numbers:
        return
    spoken = [reading.wording.spoken[number] for number in window.numbers]
    any_said = False
    for first, last, judged in _judged_pieces(reading, heard, spoken, window, progress):
        any_said = any_said or bool(judged.words)
        reading.track.take(spoken[first:last], judged)
    if not any_said:
        is_all = len(spoken) == len(reading.wording.spoken)
        raise WordsError(_NOT_SAID if is_all else Message("reading.not_said_around", seconds=window.from_s))


def _pieces(spans: list[tuple[float, float]]) -> list[tuple[int, int]]:
    """Runs of words `[first, last)` of about `_PIECE_S`, cut at the longest pauses."""
    pieces, first = [], 0
    while first < len(spans):
        last = first + 1
        while last < len(spans) and spans[last][1] - spans[first][0] <= _PIECE_S:
            last += 1
        if last < len(spans):
            half = first + max(1, (last - first) // 2)
            gaps = [(spans[at][0] - spans[at - 1][1], at) for at in range(half, last + 1)]
            last = max(gaps)[1]
        pieces.append((first, last))
        first = last
    return pieces


def _judged_pieces(
    reading: _Reading, heard: SoundEvidence, spoken: list[SpokenWord], window: _Window, progress: Progress
) -> Iterator[tuple[int, int, Judged]]:
    """Pass the pieces `[first, last)` of a window's words through the stages; times are those of the sound."""
    spans = window.spans
    pieces = _pieces(spans)
    middles = ((spans[a[1] - 1][1] + spans[b[0]][0]) / 2 for a, b in pairwise(pieces))
    cuts = [window.from_s, *middles, max(window.to_s, spans[-1][1])]
    for (first, last), from_s, to_s in zip(pieces, cuts, cuts[1:], strict=False):
        progress("align", first / len(spoken))
        # A second of silence around the words is enough; more only takes time.
        from_s, to_s = max(from_s, spans[first][0] - 1.0), min(to_s, spans[last - 1][1] + 1.0)
        piece = heard.part(from_s - window.from_s, to_s - window.from_s)
        said = reading.words.what_is_said(piece, spoken[first:last])
        if said is None:
            yield first, last, Judged((), tuple(range(last - first)), "")
            continue
        judged = judge(align(piece, said))
        begins_s = window.from_s + round((from_s - window.from_s) / FRAME_S) * FRAME_S
        yield first, last, replace(judged, words=tuple(word.moved(begins_s) for word in judged.words))


def first_of(lines: Sequence[str]) -> str:
    """Lines as named in messages: the first one, and the number of others."""
    if len(lines) == 1:
        return Message("reading.line", line=lines[0][:60])
    return Message("reading.line_and_more", line=lines[0][:60], count=len(lines) - 1)


def _warnings(reading: Reading, levels: NDArray[np.float64]) -> tuple[str, ...]:
    words = list(reading.words())
    missing = [line.text for line in reading.lines if not line.words]
    if missing:
        return (Message("reading.not_found", lines=first_of(missing)),)
    doubtful = sum(w.confidence < DOUBTFUL for w in words)
    if doubtful > len(words) / 3:
        return (Message("reading.many_doubtful"),)
    loud = levels > max(float(levels.max()) - _FOREGROUND_DB, SILENCE_DB)
    covered = np.zeros(len(levels), dtype=bool)
    for word in words:
        covered[word.start_us // HOP_US : -(-word.end_us // HOP_US)] = True
    if loud.sum() and (loud & ~covered).sum() > 0.4 * loud.sum():
        return (Message("reading.much_bare"),)
    return ()
