"""Forced alignment with the recogniser (pocketsphinx, US English acoustic model).

The settings were measured for this job: wide beams, no bestpath, 16 kHz, no normalisation of levels, a quarter second
of faint noise at both ends. State alignment needs a table of frames by states, so a long sound is first laid out by
ear, then aligned in pieces of bounded length.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
import soxr
from numpy.typing import NDArray
from pocketsphinx import Decoder

from tinfork.engines.limits import READING_HZ

_PAD_S = 0.25
#: The middle of a 25 ms window is 8 ms after the start of its frame.
_SHIFT_S = 0.008
_FRAME_S = 0.010
_WIDE = {"beam": 1e-150, "wbeam": 1e-120, "pbeam": 1e-150}
_UNPRUNED = {"beam": 0.0, "wbeam": 0.0, "pbeam": 0.0, "maxhmmpf": -1}
#: Beyond this length a search without pruning would take too long.
_UNPRUNED_MAX_S = 90.0


@dataclass(frozen=True, slots=True)
class AlignedPhone:
    """An ARPABET phone, times in seconds; `score` is the log likelihood per frame."""

    name: str
    start_s: float
    end_s: float
    score: float

    def faster(self, ratio: float) -> "AlignedPhone":
        """The phone when the sound is played faster by a factor."""
        return replace(self, start_s=self.start_s / ratio, end_s=self.end_s / ratio)


@dataclass(frozen=True, slots=True)
class AlignedWord:
    """The phones of one spoken word, in order."""

    phones: tuple[AlignedPhone, ...]

    @property
    def score(self) -> float:
        """Log likelihood per frame over the whole word."""
        frames = [(p.end_s - p.start_s) / _FRAME_S for p in self.phones]
        return sum(p.score * n for p, n in zip(self.phones, frames, strict=True)) / max(sum(frames), 1e-9)


@cache
def _decoder(pruned: bool) -> Decoder:
    return Decoder(lm=None, loglevel="FATAL", bestpath=False, **(_WIDE if pruned else _UNPRUNED))


def dictionary_phones(word: str) -> list[tuple[str, ...]]:
    """The dictionary's pronunciations of a lower-case word, the usual one first.

    Empty if it is not in the dictionary.
    """
    out: list[tuple[str, ...]] = []
    while found := _decoder(True).lookup_word(f"{word}({len(out) + 1})" if out else word):
        out.append(tuple(found.split()))
    return out


def slowed(samples: NDArray[np.float32], ratio: float) -> NDArray[np.float32]:
    """The sound played slower, and so lower, by a factor; samples at the same rate."""
    return np.asarray(soxr.resample(samples, READING_HZ, READING_HZ * ratio), dtype=np.float32)


def _pcm(samples: NDArray[np.float32]) -> bytes:
    """16-bit samples between two stretches of faint noise, always the same noise."""
    noise = np.random.default_rng(7).normal(scale=8.0, size=(2, round(_PAD_S * READING_HZ)))
    body = np.clip(samples, -1, 1) * 32767
    return np.concatenate([noise[0], body, noise[1]]).astype("<i2").tobytes()


#: A word to be aligned, by its phones.
Phones = tuple[str, ...]


def _first_pass(samples: NDArray[np.float32], words: Sequence[Phones], pruned: bool) -> Decoder | None:
    decoder = _decoder(pruned)
    names = []
    for phones in words:
        # A name that is not a dictionary word; the same phones get the same name.
        names.append(f"tf_{'_'.join(phones)}")
        if decoder.lookup_word(names[-1]) is None:
            decoder.add_word(names[-1], " ".join(phones), True)
    # Forget earlier sounds, so that the same sound always gives the same result.
    decoder.reinit_feat()
    decoder.set_align_text(" ".join(names))
    if not _run(decoder, _pcm(samples)) or decoder.hyp() is None:
        return None
    return decoder


def align(samples: NDArray[np.float32], words: Sequence[Phones], *, ratio: float = 1.0) -> list[AlignedWord] | None:
    """Align the words and phones of a piece; None if no path was found.

    A voice that is `ratio` times as high as usual is played at a speed that makes it usual.
    """
    if ratio != 1.0:
        found = align(slowed(samples, ratio), words)
        return found and [AlignedWord(tuple(p.faster(ratio) for p in word.phones)) for word in found]
    pruned_too = (True, False) if len(samples) <= _UNPRUNED_MAX_S * READING_HZ else (True,)
    for pruned in pruned_too:
        decoder = _first_pass(samples, words, pruned)
        if decoder is None:
            continue
        try:
            decoder.set_alignment()
        except RuntimeError:
            continue
        if not _run(decoder, _pcm(samples)):
            continue
        # The iterators below point into this object, which must outlive them.
        alignment = decoder.get_alignment()
        aligned = [_word(entry) for entry in alignment if not _is_filler(entry.name)] if alignment else []
        if len(aligned) == len(words):
            return aligned
    return None


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
