"""The confidence of sounds and words, calibrated on speech with known truth, so that 90 % means nine in ten.

Features: how well each sound fits by the ear, alone, in its word and overall; how well it fits by the recogniser,
relative to the others; the difference between the two; and whether its length is usual. Logistic regression (Berkson
1944) over these; its weights come with the ear's (`tools/ear`).
"""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.engines.ear import confidence_weights
from tinfork.engines.reading.align import TimedSound

#: The confidence of a word laid over other speech.
NOT_SAID = 0.15
#: The unit of the recogniser's scores; the usual difference between ear and recogniser, if only one of them ran.
_SCORE_UNIT, _USUAL_APART_S = 10.0, 0.03


#: A word with its sounds.
Timed = Sequence[TimedSound]


def sound_features(words: Sequence[Timed], agreed: Sequence[bool | None]) -> NDArray[np.float64]:
    """The features of each sound, in order, shape (sounds, 12); the first column is 1.

    `agreed`: for each word, whether the listener heard it (None: it did not run).
    """
    sounds = [sound for word in words for sound in word]
    fits = np.array([s.fit for s in sounds])
    near = np.minimum(np.concatenate((fits[:1], fits[:-1])), np.concatenate((fits[1:], fits[-1:])))
    in_word = np.array([_fit(word) for word in words for _ in word])
    scores = np.array([s.score for s in sounds])
    apart = np.array([s.apart_s for s in sounds])
    seconds = np.array([s.end_s - s.start_s for s in sounds])
    heard = np.array([own for word, own in zip(words, agreed, strict=True) for _ in word], dtype=object)
    usual = max(float(np.median(fits)), -8.0)
    return np.column_stack(
        (
            np.ones(len(sounds)),
            np.maximum(fits, -8.0),
            np.maximum(near, -8.0),
            np.maximum(in_word, -8.0),
            np.full(len(sounds), usual),
            _relative(scores),
            np.minimum(np.nan_to_num(apart, nan=_USUAL_APART_S), 0.15) * 20,
            seconds < 0.04,
            seconds > 0.3,
            np.minimum(in_word - usual, 0.0),
            heard == True,  # noqa: E712
            heard == False,  # noqa: E712
        )
    ).astype(np.float64)


def _fit(word: Timed) -> float:
    """The ear's mean fit over a word, weighted by length."""
    lengths = np.array([s.end_s - s.start_s for s in word])
    return float(np.average([s.fit for s in word], weights=np.maximum(lengths, 1e-3)))


def _relative(scores: NDArray[np.float64]) -> NDArray[np.float64]:
    """Scores relative to their median; 0 if missing."""
    known = ~np.isnan(scores)
    middle = float(np.median(scores[known])) if known.any() else 0.0
    return np.clip(np.where(known, (scores - middle) / _SCORE_UNIT, 0.0), -6.0, 2.0)


def word_features(words: Sequence[Timed], agreed: Sequence[bool | None]) -> NDArray[np.float64]:
    """The features of each word, shape (words, 13): the mean features of its sounds, and the fit of its worst sound."""
    rows = sound_features(words, agreed)
    cuts = np.cumsum([0, *(len(word) for word in words)])
    parts = [rows[a:b] for a, b in itertools.pairwise(cuts)]
    return np.array([[*part.mean(axis=0), part[:, 1].min()] for part in parts])


def sure_of(words: Sequence[Timed], agreed: Sequence[bool | None]) -> list[tuple[float, list[float]]]:
    """For each word, the probability that it is right, and that each of its sounds is."""
    if not words:
        return []
    for_sounds, for_words, _ = confidence_weights()
    sounds = _odds(sound_features(words, agreed) @ for_sounds)
    out: list[tuple[float, list[float]]] = []
    at = 0
    for word, sure in zip(words, _odds(word_features(words, agreed) @ for_words), strict=True):
        own = sounds[at : at + len(word)]
        at += len(word)
        # Rounded: sums in another order, on other machines or threads, differ in the last digits.
        out.append((round(float(sure), 4), [round(float(s), 4) for s in own]))
    return out


def heard_features(by_ear: float, by_listener: float, has_others: bool) -> NDArray[np.float64]:
    """The features of a word that nobody typed, shape (4,).

    The ear's confidence in its place, the listener's probability, and whether there are alternatives.
    """
    own = float(np.clip(by_ear, 0.01, 0.99))
    return np.array([1.0, np.log(own / (1 - own)), np.log(max(by_listener, 1e-3)), float(has_others)])


def sure_of_heard(by_ear: float, by_listener: float, has_others: bool) -> float:
    """The probability that a word nobody typed is right."""
    return round(float(_odds(heard_features(by_ear, by_listener, has_others) @ confidence_weights()[2])), 4)


def _odds(logit: NDArray[np.float64]) -> NDArray[np.float64]:
    return 1 / (1 + np.exp(-np.clip(logit, -30, 30)))
