"""`read_track`: a sound and its words give a reading. English, by forced alignment.

spell -> lay out in words, window by window -> align piece by piece -> mend edges -> lines.
A short sound is one window. Times inside are seconds until the edges are mended.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SoundError, WordsError
from tinfork.core.sound.voice import HOP_US, SILENCE_DB, has_voice, level_db
from tinfork.core.speech.arpabet import VOWELS, ipa_from_phones
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.rereading import Change, shifted
from tinfork.engines import recogniser
from tinfork.engines.decode import Sound
from tinfork.engines.layout import WHOLE_S, Laid, LineLayout
from tinfork.engines.limits import READING_HZ
from tinfork.engines.mending import Mender
from tinfork.engines.recogniser import AlignedWord, Aligner
from tinfork.engines.wording import LineText, Spoken, Wording, check_fit, spell

#: A word below this confidence is worth a second look.
DOUBTFUL = 0.5
#: Measured on eight voices, clean and at 10 dB of noise: right words had medians of -44 and better,
#: words of another text -49 and worse.
_WORST_RIGHT_MEDIAN = -46.0
_PIECE_S = 25.0
#: Sound this far under the loudest is no voice in the foreground (dB).
_FOREGROUND_DB = 25.0
#: How much sound around a window its edges are mended in.
_MARGIN_S = 1.0


class Progress(Protocol):
    """Told a phase ("spell", "lay out", "align") and the share done, 0 to 1; may raise `Cancelled`.

    `part`: lines that are finished, by their number among those given.
    """

    def __call__(self, phase: str, done: float, part: Any = None) -> None:
        """Take note."""


def silent_progress(phase: str, done: float, part: Any = None) -> None:
    """For whoever does not want to know."""


@dataclass(frozen=True)
class ReadResult:
    """The reading, and what its user should know, in their words."""

    reading: Reading
    warnings: tuple[str, ...] = ()


def read_changes(
    voice: Path,
    texts: list[LineText],
    changes: Sequence[Change],
    may_skip: bool = False,
    report: Progress = silent_progress,
) -> tuple[dict[int, Line], tuple[str, ...]]:
    """Read some lines, each run of them between two times of a sound; the lines by number, and warnings.

    `voice` is a file of mono samples at 16 kHz (NumPy's format). Every line is also reported as soon as it is done.
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
        result = read_track(sound, texts[change.first : change.last], inner, may_skip=may_skip)
        warnings += result.warnings
        done = [(change.first + at, shifted(line, change.start_us)) for at, line in enumerate(result.reading.lines)]
        out.update(done)
        before += change.end_us - change.start_us
        report("align", before / max(total, 1), done)
    return out, tuple(dict.fromkeys(warnings))


@dataclass(frozen=True)
class _Inner:
    """Progress inside one change, told as progress of the whole."""

    report: Progress
    change: Change
    begins: float
    share: float

    def __call__(self, phase: str, done: float, part: Any = None) -> None:
        """Pass it on, lines with their numbers and times in the whole."""
        lines = [(self.change.first + at, shifted(line, self.change.start_us)) for at, line in part or ()]
        whole = self.begins + self.share * done if phase == "align" else done
        self.report(phase, whole, lines or None)


@dataclass(frozen=True)
class _Window:
    """Words laid out between two times: the numbers of spoken words, their spans, and where the sound around them
    is.
    """

    numbers: list[int]
    spans: list[tuple[float, float]]
    from_s: float
    to_s: float
    aligned: tuple[AlignedWord, ...] = ()


def read_track(
    sound: Sound, lines: list[LineText], progress: Progress = silent_progress, *, may_skip: bool = False
) -> ReadResult:
    """Align the lines, in order, to the sound.

    In a long sound, or where it `may_skip`, lines that are not said are left without words.

    Raises `SoundError` for a silent sound, `WordsError` for words that are missing or cannot fit.
    """
    samples = sound.mono_at(READING_HZ)
    levels = level_db(samples, READING_HZ)
    if not has_voice(levels):
        raise SoundError("The sound is silent: there is no voice to read. Check the recording's level and channel.")
    progress("spell", 0.0)
    wording = spell(lines)
    check_fit(wording.spoken, len(samples) / READING_HZ)
    progress("lay out", 0.0)
    track = _Track(samples, lines, wording, sound.duration_us)
    if len(samples) <= WHOLE_S * READING_HZ and not may_skip:
        track.take(_whole(wording, samples), progress)
    else:
        for window, done in _windows(wording, samples, levels):
            track.take(window, silent_progress)
            progress("align", done, track.finished(upto=window.numbers[-1] if window.numbers else None))
    progress("align", 1.0)
    reading = Reading(sound.duration_us, track.lines())
    if not any(line.words for line in reading.lines):
        raise WordsError(_NOT_SAID)
    return ReadResult(reading, _warnings(reading, levels))


_NOT_SAID = (
    "The words could not be laid along the sound. Check that they are what is said in it, from its start to its end."
)


def _whole(wording: Wording, samples: NDArray[np.float32]) -> _Window:
    keys = [s.key for s in wording.spoken]
    spans = wording.aligner.lay_out(samples, keys)
    return _Window(list(range(len(keys))), spans, 0.0, len(samples) / READING_HZ)


def _windows(
    wording: Wording, samples: NDArray[np.float32], levels: NDArray[np.float64]
) -> Iterator[tuple[_Window, float]]:
    """The windows of a long sound, and the share of it that is behind each."""
    keys = wording.keys_by_line()
    firsts = np.cumsum([0, *map(len, keys)]).tolist()
    layout = LineLayout(wording.aligner, samples, keys)
    loud = levels > max(float(levels.max()) - _FOREGROUND_DB, SILENCE_DB)
    last_s = 0.0
    while not layout.is_done:
        laid = layout.find()
        aligned = _align_laid(wording.aligner, samples, keys, laid)
        if faults := _faults(laid, aligned, loud):
            # Something else may be said here too: step over it, if that fits better.
            other = layout.find(past_others=True)
            other_aligned = _align_laid(wording.aligner, samples, keys, other)
            if _faults(other, other_aligned, loud) < faults:
                laid, aligned = other, other_aligned
        layout.accept(laid)
        numbers = [firsts[line] + word for line, word, *_ in laid.words]
        spans = [(start, end) for *_, start, end in laid.words]
        yield _Window(numbers, spans, last_s, laid.upto_s, tuple(aligned)), layout.done
        last_s = spans[-1][1] if spans else last_s


def _align_laid(aligner: Aligner, samples: NDArray[np.float32], keys: list[list[str]], laid: Laid) -> list[AlignedWord]:
    """The words of a window with their sounds; empty where no path was found."""
    if not laid.words:
        return []
    start, end = max(0.0, laid.words[0][2] - 0.3), laid.words[-1][3] + 0.3
    part = samples[round(start * READING_HZ) : round(end * READING_HZ)]
    aligned = aligner.align(part, [keys[line][word] for line, word, *_ in laid.words])
    return [_shifted(word, start) for word in aligned or ()]


#: A line whose words fit worse than this on average (log likelihood a frame), and the share of loud sound without words
#: from which on it counts: measured on two voices with and without speech that no line has.
_BAD_LINE, _BARE = -52.0, 0.15


def _faults(laid: Laid, aligned: list[AlignedWord], loud: NDArray[np.bool_]) -> float:
    """In how many ways the words of a window do not fit it: lines that do not sound like it, sound without words."""
    if not aligned:
        return float("inf")
    first, last = round(laid.words[0][2] * 100), round(laid.words[-1][3] * 100)
    bare = loud[max(0, first) : last].copy()
    total = max(1, int(bare.sum()))
    scores: dict[int, list[float]] = {}
    for (line, _, start, end), word in zip(laid.words, aligned, strict=True):
        scores.setdefault(line, []).append(word.score)
        bare[max(0, round(start * 100) - first) : round(end * 100) - first] = False
    bad = sum(float(np.mean(own)) < _BAD_LINE for own in scores.values())
    return bad + (int(bare.sum()) > _BARE * total)


class _Track:
    """Collects the sounds of windows and makes lines of them."""

    def __init__(self, samples: NDArray[np.float32], texts: list[LineText], wording: Wording, duration_us: int) -> None:
        self._samples, self._texts, self._wording = samples, texts, wording
        self._duration_us = duration_us
        self._by_word: dict[int, list[tuple[Phoneme, float]]] = {}
        self._last_us = 0
        self._given = 0

    def take(self, window: _Window, progress: Progress) -> None:
        """Align the words of a window."""
        if not window.numbers:
            return
        spoken = [self._wording.spoken[number] for number in window.numbers]
        keys = [s.key for s in spoken]
        aligned = window.aligned or _align_pieces(self._wording.aligner, self._samples, keys, window, progress)
        heard = [(s, a) for s, a in zip(spoken, aligned, strict=True) if a]
        if not heard:
            raise (
                WordsError(_NOT_SAID)
                if window.from_s == 0 and len(keys) == len(self._wording.spoken)
                else WordsError(
                    f"The words around {window.from_s:.0f} s could not be laid along the sound. "
                    "Check that they are what is said there."
                )
            )
        self._mend(heard, window)

    def _mend(self, heard: list[tuple[Spoken, AlignedWord]], window: _Window) -> None:
        first_s = max(0.0, window.spans[0][0] - _MARGIN_S)
        last_s = window.spans[-1][1] + _MARGIN_S
        offset = round(first_s * READING_HZ)
        mender = Mender(self._samples[offset : round(last_s * READING_HZ)])
        offset_us = offset * 1_000_000 // READING_HZ
        median = max(float(np.median([word.score for _, word in heard])), _WORST_RIGHT_MEDIAN)
        sounds: list[tuple[int, str, int, int, float, float]] = []
        for entry, word in heard:
            for ipa, start_s, end_s, score in _ipa_phones(entry, word):
                span = (round(start_s * 1e6) - offset_us, round(end_s * 1e6) - offset_us)
                sounds.append((entry.written, ipa, *span, _confidence(score, median), _confidence(word.score, median)))
        mended = mender.edges([(max(0, s[2]), s[3]) for s in sounds])
        for (number, ipa, _, _, phone_sure, word_sure), (start, end) in zip(sounds, mended, strict=True):
            start_us = max(self._last_us, start + offset_us)
            end_us = min(end + offset_us, self._duration_us)
            if start_us < end_us:
                self._by_word.setdefault(number, []).append((Phoneme(ipa, start_us, end_us, phone_sure), word_sure))
                self._last_us = end_us

    def finished(self, upto: int | None) -> list[tuple[int, Line]]:
        """The lines that came to their end since this was last asked."""
        if upto is None:
            return []
        spoken = self._wording.spoken
        line = spoken[upto].line
        done = line + 1 if upto + 1 == len(spoken) or spoken[upto + 1].line > line else line
        out = [(at, line) for at, line in enumerate(self.lines()[self._given : done], self._given)]
        self._given = max(self._given, done)
        return out

    def lines(self) -> tuple[Line, ...]:
        """Every line with the words found so far."""
        out: list[Line] = []
        number = 0
        for text, words in zip(self._texts, self._wording.written, strict=True):
            timed: list[Word] = []
            for word in words:
                parts = self._by_word.get(number, [])
                number += 1
                if parts:
                    phonemes = tuple(p for p, _ in parts)
                    sure = min(c for _, c in parts)
                    timed.append(Word(word.text, phonemes[0].start_us, phonemes[-1].end_us, phonemes, sure))
            out.append(Line(text.speaker, text.text, text.language, tuple(timed)))
        return tuple(out)


def _pieces(spans: list[tuple[float, float]]) -> list[tuple[int, int]]:
    """Runs of words `[first, last)` of about `_PIECE_S`, cut where the pause is widest."""
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


def _align_pieces(
    aligner: Aligner, samples: NDArray[np.float32], words: list[str], window: _Window, progress: Progress
) -> list[AlignedWord | None]:
    """The words of a window, aligned; None for those of a piece that found no path."""
    aligned: list[AlignedWord | None] = []
    spans = window.spans
    pieces = _pieces(spans)
    middles = ((spans[a[1] - 1][1] + spans[b[0]][0]) / 2 for a, b in pairwise(pieces))
    cuts = [window.from_s, *middles, max(window.to_s, spans[-1][1])]
    for (first, last), from_s, to_s in zip(pieces, cuts, cuts[1:], strict=False):
        progress("align", first / len(words))
        # A second of silence around the words is enough; long silence only costs time.
        from_s, to_s = max(from_s, spans[first][0] - 1.0), min(to_s, spans[last - 1][1] + 1.0)
        part = samples[round(from_s * READING_HZ) : round(to_s * READING_HZ)]
        found = aligner.align(part, words[first:last])
        aligned += [_shifted(word, from_s) for word in found] if found else [None] * (last - first)
    return aligned


def _shifted(word: AlignedWord, by_s: float) -> AlignedWord:
    return AlignedWord(
        tuple(recogniser.AlignedPhone(p.name, p.start_s + by_s, p.end_s + by_s, p.score) for p in word.phones)
    )


def _confidence(score: float, median: float) -> float:
    """0 to 1 from log likelihood a frame, against the sound's median.

    Even odds at 30 below it: on eight voices that flagged 4 % of right words and 94 % of wrong ones.
    """
    return float(1 / (1 + np.exp(-(score - median + 30) / 9)))


def _ipa_phones(entry: Spoken, word: AlignedWord) -> list[tuple[str, float, float, float]]:
    """The IPA of an aligned word: of the phones heard, or of the pronunciation it was given."""
    if not entry.groups:
        names = tuple(p.name for p in word.phones)
        vowels = sum(n in VOWELS for n in names)
        stressed = entry.stressed if len(entry.stressed) == vowels else ()
        symbols = ipa_from_phones(names, stressed)
        return [(s, p.start_s, p.end_s, p.score) for s, p in zip(symbols, word.phones, strict=True)]
    out, at = [], 0
    for ipa, count in entry.groups:
        part = word.phones[at : at + count]
        at += count
        if part:
            out.append((ipa, part[0].start_s, part[-1].end_s, min(p.score for p in part)))
    return out


def _warnings(reading: Reading, levels: NDArray[np.float64]) -> tuple[str, ...]:
    words = list(reading.words())
    missing = [line.text for line in reading.lines if not line.words]
    if missing:
        which = f"“{missing[0][:60]}”" + (f" and {len(missing) - 1} more" if len(missing) > 1 else "")
        return (f"Not found in the sound: {which}. Check that it is said in this recording.",)
    doubtful = sum(w.confidence < DOUBTFUL for w in words)
    if doubtful > len(words) / 3:
        return ("Many words do not sound like what was typed. Check the words against the recording.",)
    loud = levels > max(float(levels.max()) - _FOREGROUND_DB, SILENCE_DB)
    covered = np.zeros(len(levels), dtype=bool)
    for word in words:
        covered[word.start_us // HOP_US : -(-word.end_us // HOP_US)] = True
    if loud.sum() and (loud & ~covered).sum() > 0.4 * loud.sum():
        return ("Much of the sound has no words under it. Check that everything that is said was typed.",)
    return ()
