"""Recordings of people to measure with.

Rows of phrases whose edges are known by construction (`tools/ear/joining.py`), and whole sentences. None of them was
learnt from (`tools/ear/people.py`): two languages, and all English ones, not at all; of the others, every text in one
of five parts.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np

from tinfork.engines.decode import Sound
from tools.ear import people
from tools.ear.augmentation import levelled
from tools.ear.joining import Joined, Samples, rows
from tools.ear.people import Recording
from tools.ear.speaking import RATE_HZ

#: A phrase has at most so many words, a whole sentence at least.
_PHRASE_WORDS, _SENTENCE_WORDS = 3, 6


@dataclass(frozen=True)
class Sentence:
    """A recorded sentence: samples at 16 kHz, language, and its words as they were written."""

    samples: Samples
    language: str
    text: str

    @property
    def sound(self) -> Sound:
        """What the reader is given."""
        return Sound(self.samples[:, None], RATE_HZ)


@cache
def _kept(language: str) -> tuple[tuple[Recording, Samples], ...]:
    own = [r for r in people.recordings() if r.is_kept and r.language == language and r.source != "letters"]
    return tuple(people.decoded(own))


def joined(language: str, count: int, seed: int = 3) -> list[Joined]:
    """So many rows of phrases of a language, fewer where there are not enough."""
    pool = [(r, s) for r, s in _kept(language) if len(r.text.split()) <= _PHRASE_WORDS]
    return rows(pool, language, np.random.default_rng(seed))[:count]


def sentences(language: str, count: int, seed: int = 5) -> list[Sentence]:
    """So many recorded sentences of a language, of six words or more."""
    pick = np.random.default_rng(seed)
    pool = [(r, s) for r, s in _kept(language) if len(r.text.split()) >= _SENTENCE_WORDS]
    some = [pool[at] for at in pick.permutation(len(pool))[:count]]
    return [Sentence(levelled(samples), language, recording.text) for recording, samples in some]
