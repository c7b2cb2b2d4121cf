"""`read_track`: a sound and its words give a reading. English, by forced alignment.

spell -> lay out in words -> align piece by piece -> mend edges -> reading.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import SoundError, WordsError
from tinfork.core.sound.voice import (
    HOP_US,
    SILENCE_DB,
    has_voice,
    level_db,
    mend_pause_edge,
    snap_to_flux,
    spectral_flux,
)
from tinfork.core.speech.arpabet import VOWELS, ipa_from_phones, phones_from_ipa
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import is_vowel
from tinfork.engines import limits, recogniser
from tinfork.engines.decode import Sound
from tinfork.engines.limits import READING_HZ
from tinfork.engines.recogniser import AlignedWord, Aligner
from tinfork.engines.spelling import WrittenWord, split_words
from tinfork.engines.synthesiser import pronounce

#: Called with a phase ("spell", "lay out", "align") and the share done, 0 to 1; may raise `Cancelled`.
Progress = Callable[[str, float], None]

ENGLISH = ("en", "en-us", "en-gb")
#: Three states of 10 ms each: nothing shorter can be aligned.
_SHORTEST_PHONE_S = 0.03
#: A word below this confidence is worth a second look.
DOUBTFUL = 0.5
#: Measured on eight voices, clean and at 10 dB of noise: right words had medians of -44 and better,
#: words of another text -49 and worse.
_WORST_RIGHT_MEDIAN = -46.0
_PIECE_S = 25.0
#: Sound this far under the loudest is no voice in the foreground (dB).
_FOREGROUND_DB = 25.0
_PAUSE_US = 30_000


@dataclass(frozen=True, slots=True)
class LineText:
    """A line to be read: who says it, what, and in which language."""

    text: str
    speaker: str = ""
    language: str = "en-us"


@dataclass(frozen=True, slots=True)
class _Spoken:
    """A spoken word, the written word it belongs to, and the IPA groups of a made-up pronunciation."""

    key: str
    written: int
    stressed: tuple[bool, ...]
    groups: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True)
class ReadResult:
    """The reading, and what its user should know, in their words."""

    reading: Reading
    warnings: tuple[str, ...] = ()


def lines_from_text(text: str, *, speaker: str = "", language: str = "en-us") -> list[LineText]:
    """A line per line of text that has something to say."""
    if len(text) > limits.MAX_TEXT_CHARACTERS:
        raise WordsError(f"The words are longer than {limits.MAX_TEXT_CHARACTERS:,} characters. Cut them into parts.")
    rows = [row.strip() for row in text.replace("\0", "").splitlines()]
    return [LineText(row, speaker, language) for row in rows if split_words(row)]


def read_track(sound: Sound, lines: list[LineText], progress: Progress = lambda phase, done: None) -> ReadResult:
    """Align the lines, in order, to the sound.

    Raises `SoundError` for a silent sound, `WordsError` for words that are missing or cannot fit.
    """
    samples = sound.mono_at(READING_HZ)
    levels = level_db(samples, READING_HZ)
    if not has_voice(levels):
        raise SoundError("The sound is silent: there is no voice to read. Check the recording's level and channel.")
    progress("spell", 0.0)
    written, spoken, aligner = _spell(lines)
    _check_fit(spoken, len(samples) / READING_HZ)
    progress("lay out", 0.0)
    words = [s.key for s in spoken]
    spans = aligner.lay_out(samples, words)
    aligned = _align_pieces(aligner, samples, words, spans, progress)
    reading = _reading(lines, written, spoken, aligned, _Mender(samples, levels), sound.duration_us)
    return ReadResult(reading, _warnings(reading, levels))


def _spell(lines: list[LineText]) -> tuple[list[list[WrittenWord]], list[_Spoken], Aligner]:
    written = [split_words(line.text) for line in lines]
    if not any(written):
        raise WordsError("There are no words. Type what is said in the sound, a line for each phrase.")
    for line in lines:
        if line.language not in ENGLISH:
            raise WordsError(f"Only English can be read yet; “{line.language[:20]}” is another language.")
    spoken: list[_Spoken] = []
    extra: dict[str, tuple[str, ...]] = {}
    number = 0
    for line, words in zip(lines, written, strict=True):
        for word in words:
            for key in word.spoken:
                entry = _spell_word(key, number, line.language, extra)
                if entry:
                    spoken.append(entry)
            number += 1
    if len(spoken) > limits.MAX_WORDS:
        raise WordsError(
            f"There are {len(spoken):,} words; {limits.MAX_WORDS:,} is the most at once. Cut the shot into parts."
        )
    if not spoken:
        raise WordsError("None of the words can be spoken. Type what is said in the sound.")
    return written, spoken, Aligner(extra)


def _spell_word(key: str, number: int, language: str, extra: dict[str, tuple[str, ...]]) -> _Spoken | None:
    """One spoken word; spelling-to-sound at once for what the dictionary does not know."""
    ipa = pronounce(key, language)
    stressed = tuple(s.startswith(("ˈ", "ˌ")) for s in ipa if is_vowel(s.lstrip("ˈˌ")))
    if recogniser.dictionary_phones(key) and key not in extra:
        return _Spoken(key, number, stressed)
    groups = tuple((symbol, len(phones)) for symbol in ipa if (phones := phones_from_ipa(symbol)))
    if not groups:
        return None
    # A name that no dictionary word has, so that odd spellings cannot collide with markup.
    name = f"tf_{language}_{key.encode('utf-8').hex()}"
    extra[name] = tuple(phone for symbol, _ in groups for phone in phones_from_ipa(symbol))
    return _Spoken(name, number, stressed, groups)


def _check_fit(spoken: list[_Spoken], seconds: float) -> None:
    phones = sum(
        sum(n for _, n in s.groups) if s.groups else len(recogniser.dictionary_phones(s.key) or ()) for s in spoken
    )
    if phones * _SHORTEST_PHONE_S > seconds:
        raise WordsError(
            f"{len(spoken)} words do not fit into {seconds:.1f} s of sound. "
            "Check that the words belong to this recording."
        )


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
    aligner: Aligner,
    samples: NDArray[np.float32],
    words: list[str],
    spans: list[tuple[float, float]],
    progress: Progress,
) -> list[AlignedWord]:
    aligned: list[AlignedWord] = []
    pieces = _pieces(spans)
    total_s = len(samples) / READING_HZ
    cuts = [0.0, *((spans[a[1] - 1][1] + spans[b[0]][0]) / 2 for a, b in pairwise(pieces)), total_s]
    for (first, last), from_s, to_s in zip(pieces, cuts, cuts[1:], strict=False):
        progress("align", first / len(words))
        # A second of silence around the words is enough; long silence only costs time.
        from_s, to_s = max(from_s, spans[first][0] - 1.0), min(to_s, spans[last - 1][1] + 1.0)
        part = samples[round(from_s * READING_HZ) : round(to_s * READING_HZ)]
        found = aligner.align(part, words[first:last])
        if found is None:
            raise WordsError(
                f"The words around {from_s:.0f} s could not be laid along the sound. "
                "Check that they are what is said there."
            )
        aligned += [_shifted(word, from_s) for word in found]
    progress("align", 1.0)
    return aligned


def _shifted(word: AlignedWord, by_s: float) -> AlignedWord:
    return AlignedWord(
        tuple(recogniser.AlignedPhone(p.name, p.start_s + by_s, p.end_s + by_s, p.score) for p in word.phones)
    )


class _Mender:
    """Moves edges to where the sound changes: by flux inside speech, by energy beside pauses."""

    def __init__(self, samples: NDArray[np.float32], levels: NDArray[np.float64]) -> None:
        self._flux = spectral_flux(samples, READING_HZ)
        self._levels = levels
        self._end_us = len(samples) * 1_000_000 // READING_HZ

    def edges(self, phones: list[tuple[int, int]]) -> list[tuple[int, int]]:
        """The spans, in microseconds, with edges mended, still in order and none shorter than 10 ms."""
        out: list[list[int]] = []
        for at, (start, end) in enumerate(phones):
            after_pause = at == 0 or start - phones[at - 1][1] > _PAUSE_US
            before_pause = at == len(phones) - 1 or phones[at + 1][0] - end > _PAUSE_US
            new_start = (
                mend_pause_edge(start, self._levels, is_start=True) if after_pause else snap_to_flux(start, self._flux)
            )
            floor = out[-1][1] if after_pause and out else (out[-1][0] + 10_000 if out else 0)
            new_start = min(max(new_start, floor), max(self._end_us - 10_000, 0))
            if out and not after_pause:
                out[-1][1] = new_start
            new_end = mend_pause_edge(end, self._levels, is_start=False) if before_pause else end
            out.append([new_start, min(max(new_end, new_start + 10_000), self._end_us)])
        return [(a, b) for a, b in out]


def _confidence(score: float, median: float) -> float:
    """0 to 1 from log likelihood a frame, against the sound's median.

    Even odds at 30 below it: on eight voices that flagged 4 % of right words and 94 % of wrong ones.
    """
    return float(1 / (1 + np.exp(-(score - median + 30) / 9)))


def _reading(
    lines: list[LineText],
    written: list[list[WrittenWord]],
    spoken: list[_Spoken],
    aligned: list[AlignedWord],
    mender: _Mender,
    duration_us: int,
) -> Reading:
    sounds: list[tuple[int, str, int, int, float, float]] = []
    median = max(float(np.median([w.score for w in aligned])), _WORST_RIGHT_MEDIAN)
    for entry, word in zip(spoken, aligned, strict=True):
        for ipa, start_s, end_s, score in _ipa_phones(entry, word):
            span = (round(start_s * 1e6), round(end_s * 1e6))
            sounds.append((entry.written, ipa, *span, _confidence(score, median), _confidence(word.score, median)))
    mended = mender.edges([(max(0, s[2]), s[3]) for s in sounds])
    by_word: dict[int, list[tuple[Phoneme, float]]] = {}
    for (number, ipa, _, _, phone_sure, word_sure), (start, end) in zip(sounds, mended, strict=True):
        if start < end <= duration_us:
            by_word.setdefault(number, []).append((Phoneme(ipa, start, end, phone_sure), word_sure))
    return Reading(duration_us, _lines(lines, written, by_word))


def _lines(
    lines: list[LineText], written: list[list[WrittenWord]], by_word: dict[int, list[tuple[Phoneme, float]]]
) -> tuple[Line, ...]:
    out: list[Line] = []
    number = 0
    for line, words in zip(lines, written, strict=True):
        timed: list[Word] = []
        for word in words:
            parts = by_word.get(number, [])
            number += 1
            if parts:
                phonemes = tuple(p for p, _ in parts)
                sure = min(c for _, c in parts)
                timed.append(Word(word.text, phonemes[0].start_us, phonemes[-1].end_us, phonemes, sure))
        out.append(Line(line.speaker, line.text, line.language, tuple(timed)))
    return tuple(out)


def _ipa_phones(entry: _Spoken, word: AlignedWord) -> list[tuple[str, float, float, float]]:
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
