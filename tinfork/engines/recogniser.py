"""Forced alignment with the recogniser (pocketsphinx, US English acoustic model).

Settings as measured for this job: wide beams, no bestpath, 16 kHz, never level-normalised, a quarter
second of faint noise at both ends. The state alignment keeps a table of frames by states, so a
long sound is first laid out in words, then aligned in pieces of bounded length.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from pocketsphinx import Decoder

from tinfork.core.errors import WordsError
from tinfork.core.speech.arpabet import PHONES
from tinfork.engines.limits import READING_HZ

_PAD_S = 0.25
#: The middle of a 25 ms window lies 8 ms after the frame count's start.
_SHIFT_S = 0.008
_FRAME_S = 0.010
_WIDE = {"beam": 1e-150, "wbeam": 1e-120, "pbeam": 1e-150}
_UNPRUNED = {"beam": 0.0, "wbeam": 0.0, "pbeam": 0.0, "maxhmmpf": -1}
#: Past this a try without pruning would take longer than anyone waits.
_UNPRUNED_MAX_S = 90.0


@dataclass(frozen=True, slots=True)
class AlignedPhone:
    """One ARPABET phone, times in seconds; `score` is log likelihood a frame."""

    name: str
    start_s: float
    end_s: float
    score: float


@dataclass(frozen=True, slots=True)
class AlignedWord:
    """The phones of one spoken word, in order."""

    phones: tuple[AlignedPhone, ...]

    @property
    def score(self) -> float:
        """Log likelihood a frame over the whole word."""
        frames = [(p.end_s - p.start_s) / _FRAME_S for p in self.phones]
        return sum(p.score * n for p, n in zip(self.phones, frames, strict=True)) / max(sum(frames), 1e-9)


@cache
def _decoder(pruned: bool) -> Decoder:
    return Decoder(lm=None, loglevel="FATAL", bestpath=False, **(_WIDE if pruned else _UNPRUNED))


@cache
def _quick_decoder() -> Decoder:
    """For the grammar with any other speech in it, which is large: twice as fast, as right in finding lines."""
    return Decoder(lm=None, loglevel="FATAL", bestpath=False, beam=1e-80, wbeam=1e-60, pbeam=1e-80)


def dictionary_phones(word: str) -> tuple[str, ...] | None:
    """The dictionary's first pronunciation of a lower-case word, or None."""
    found = _decoder(True).lookup_word(word)
    return tuple(found.split()) if found else None


def _pcm(samples: NDArray[np.float32]) -> bytes:
    """16-bit samples between two stretches of faint noise, always the same noise."""
    noise = np.random.default_rng(7).normal(scale=8.0, size=(2, round(_PAD_S * READING_HZ)))
    body = np.clip(samples, -1, 1) * 32767
    return np.concatenate([noise[0], body, noise[1]]).astype("<i2").tobytes()


class Aligner:
    """Aligns words to sound; knows the dictionary plus the pronunciations it is given."""

    def __init__(self, pronunciations: dict[str, tuple[str, ...]]) -> None:
        self._pronunciations = pronunciations

    def _ready(self, decoder: Decoder) -> Decoder:
        for word, phones in self._pronunciations.items():
            if decoder.lookup_word(word) is None:
                decoder.add_word(word, " ".join(phones), True)
        return decoder

    def lay_out(self, samples: NDArray[np.float32], words: list[str]) -> list[tuple[float, float]]:
        """Where each word is, in seconds: shape (words, 2). Raises `WordsError` when they cannot fit."""
        for pruned in (True, False):
            if not pruned and len(samples) > _UNPRUNED_MAX_S * READING_HZ:
                break
            decoder = self._first_pass(samples, words, pruned)
            if decoder is None:
                continue
            spans = [
                (s.start_frame * _FRAME_S - _PAD_S, (s.end_frame + 1) * _FRAME_S - _PAD_S)
                for s in decoder.seg()
                if not _is_filler(s.word)
            ]
            if len(spans) == len(words):
                return spans
        raise WordsError(
            "The words could not be laid along the sound. "
            "Check that they are what is said in it, from its start to its end."
        )

    def find_lines(
        self, samples: NDArray[np.float32], lines: list[list[str]], *, past_others: bool = False
    ) -> list[tuple[int, int, float, float]] | None:
        """As many of the lines as are said in a window of sound, in order: (line, word in it, start, end) in seconds.

        Lines may be left out; the last may be broken off. `past_others` also steps over speech that no line has,
        at three times the cost. None when no path was found.
        """
        decoder = self._ready(_quick_decoder() if past_others else _decoder(True))
        decoder.add_fsg("lines", decoder.create_fsg("lines", 0, *_line_grammar(decoder, lines, past_others)))
        decoder.activate_search("lines")
        if not _run(decoder, _pcm(samples)) or decoder.hyp() is None:
            return None
        heard = [
            (s.word.split("(")[0], s.start_frame * _FRAME_S - _PAD_S, (s.end_frame + 1) * _FRAME_S - _PAD_S)
            for s in decoder.seg()
            if not _is_filler(s.word) and not s.word.startswith(_OTHER)
        ]
        found = which_lines([word for word, *_ in heard], lines)
        if len(found) != len(heard):
            return None
        return [(line, word, start, end) for (line, word), (_, start, end) in zip(found, heard, strict=True)]

    def _first_pass(self, samples: NDArray[np.float32], words: list[str], pruned: bool) -> Decoder | None:
        decoder = self._ready(_decoder(pruned))
        decoder.set_align_text(" ".join(words))
        if not _run(decoder, _pcm(samples)) or decoder.hyp() is None:
            return None
        return decoder

    def align(self, samples: NDArray[np.float32], words: list[str]) -> list[AlignedWord] | None:
        """Words and phones of one piece; None when no path was found."""
        pruned_too = (True, False) if len(samples) <= _UNPRUNED_MAX_S * READING_HZ else (True,)
        for pruned in pruned_too:
            decoder = self._first_pass(samples, words, pruned)
            if decoder is None:
                continue
            try:
                decoder.set_alignment()
            except RuntimeError:
                continue
            if not _run(decoder, _pcm(samples)):
                continue
            # The iterators below point into this object: it must outlive them.
            alignment = decoder.get_alignment()
            aligned = [_word(entry) for entry in alignment if not _is_filler(entry.name)] if alignment else []
            if len(aligned) == len(words):
                return aligned
        return None


#: What speech that is in no line is heard as: a word for every phone.
_OTHER = "tfother_"
#: What a line left out, a window that ends inside a line, and a phone of other speech cost (probabilities).
_LEFT_OUT, _BROKEN_OFF, _ENTER_OTHER, _OTHER_PHONE = 1e-12, 1e-2, 1e-6, 1e-4


_Arc = tuple[int, int, float] | tuple[int, int, float, str]


def _line_grammar(decoder: Decoder, lines: list[list[str]], past_others: bool) -> tuple[int, list[_Arc]]:
    """The last state, and the arcs of a grammar: lines one after another, each to be left out, ended anywhere."""
    arcs: list[_Arc] = []
    begins, state = [], 0
    for words in lines:
        begins.append(state)
        for word in words:
            arcs.append((state, state + 1, 1.0, word))
            state += 1
        arcs.append((begins[-1], state, _LEFT_OUT))
    final = state + 1
    arcs += [(inside, final, _BROKEN_OFF) for inside in range(1, state)]
    arcs += [(state, final, 1.0), (0, final, _OTHER_PHONE)]
    if past_others:
        for phone in PHONES:
            if decoder.lookup_word(_OTHER + phone) is None:
                decoder.add_word(_OTHER + phone, phone, True)
        for aside, begin in enumerate([*begins, state], final + 1):
            arcs += [(begin, aside, _ENTER_OTHER), (aside, begin, 1.0)]
            arcs += [(aside, aside, _OTHER_PHONE, _OTHER + phone) for phone in PHONES]
    return final, arcs


def which_lines(heard: list[str], lines: list[list[str]]) -> list[tuple[int, int]]:
    """Which word of which line each heard word is: lines in order, each whole, but for the last one heard.

    Where two lines fit alike, the earlier one is meant. Empty when no lines fit.
    """

    @cache
    def fit(line: int, at: int) -> tuple[tuple[int, int], ...] | None:
        if at == len(heard):
            return ()
        if line == len(lines):
            return None
        here = heard[at : at + len(lines[line])]
        if here == lines[line][: len(here)]:
            rest = fit(line + 1, at + len(here))
            if rest is not None:
                return ((line, at), *rest)
        return fit(line + 1, at)

    found = fit(0, 0) or ()
    return [(line, word) for line, at in found for word in range(min(len(lines[line]), len(heard) - at))]


def _run(decoder: Decoder, pcm: bytes) -> bool:
    try:
        decoder.start_utt()
        decoder.process_raw(pcm, full_utt=True)
        decoder.end_utt()
    except RuntimeError:
        return False
    return True


def _is_filler(name: str) -> bool:
    return name.startswith(("<", "[", "+", "(NULL"))


def _word(entry: object) -> AlignedWord:
    phones = []
    for phone in entry:  # type: ignore[attr-defined]
        start = phone.start * _FRAME_S + _SHIFT_S - _PAD_S
        length = max(phone.duration, 1)
        phones.append(AlignedPhone(phone.name, start, start + length * _FRAME_S, phone.score / length))
    return AlignedWord(tuple(phones))
