"""Learning how sure to be: voices the ear has learnt, read with right and with wrong words, and what came of it.

What is right is said in `core/score/rightness.py`.
"""

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from tinfork.core.score.rightness import SOUND_RIGHT, WORD_RIGHT, shares_right, word_share
from tinfork.core.speech.reading import Phoneme
from tinfork.engines.sureness import sound_features, word_features
from tinfork.engines.timing import TimedWord, time_words
from tinfork.engines.wording import LineText, spell
from tools.ear import soiling, speaking, texts
from tools.ear.speaking import Heard

_SENTENCES = 400
#: A sentence of four has a wrong word, one of six an extra or a missing one.
_WRONG, _MORE, _LESS = 0.3, 0.15, 0.15

Case = tuple[Heard, str, str]


def cases(pick: np.random.Generator) -> Iterator[Case]:
    """Speech of learnt voices, soiled, with a text that is not always what is said, and its language."""
    for number in range(_SENTENCES):
        text = texts.english(pick)
        if number % 3 == 0:
            heard, language = speaking.flite(text, "cmu_us_rms", stretch=pick.uniform(0.8, 1.3)), "en-us"
        elif number % 3 == 1:
            heard = speaking.festival([text], "ked_diphone", "radio", encoding="ascii")[0]
            language = "en-us"
        else:
            language = str(pick.choice(["es", "de", "fr", "pl", "it", "tr", "en-gb"]))
            text = texts.text_in(language, pick) or text
            heard = speaking.espeak(text, language, pitch=int(pick.integers(20, 90)))
        heard = speaking.with_tails(heard)
        roll = pick.random()
        if roll < 0.3:
            heard = soiling.faster(heard, 2 ** (pick.uniform(-6, 7) / 12))
        elif roll < 0.6:
            ratio = 2 ** (pick.uniform(-7, 7) / 12)
            heard = Heard(soiling.shifted(heard.samples, ratio, int(pick.choice([320, 640, 1024]))), heard.segments)
        if pick.random() < 0.6:
            heard = Heard(soiling.soiled(heard.samples, pick, [heard.samples]), heard.segments)
        yield heard, _mistaken(text, pick), language


def _mistaken(text: str, pick: np.random.Generator) -> str:
    words = text.split()
    at = int(pick.integers(len(words)))
    roll = pick.random()
    other = texts.english(pick).split()[0]
    if roll < _WRONG:
        words[at] = other
    elif roll < _WRONG + _MORE:
        words.insert(at, other)
    elif roll < _WRONG + _MORE + _LESS and len(words) > 3:
        del words[at]
    return " ".join(words)


def timed(case: Case) -> list[TimedWord]:
    """The words of a case as the application times them."""
    heard, text, language = case
    wording = spell([LineText(text, "", language)])
    return [word for word in time_words(heard.samples, wording.spoken, wording.aligner) if word and word.sounds]


def _phonemes(segments: Iterable[tuple[str, float, float]]) -> list[Phoneme]:
    spans = ((ipa, max(0, round(a * 1e6)), round(b * 1e6)) for ipa, a, b in segments)
    return [Phoneme(ipa, a, max(a + 1, b)) for ipa, a, b in spans]


def calibrate(seed: int = 77) -> dict[str, NDArray[np.float32]]:
    """The weights of `sureness`, learnt."""
    pick = np.random.default_rng(seed)
    rows: dict[str, list[NDArray[np.float64]]] = {"sound": [], "word": []}
    right: dict[str, list[float]] = {"sound": [], "word": []}
    for case in cases(pick):
        words = timed(case)
        if not words:
            continue
        rows["sound"].append(sound_features(words))
        rows["word"].append(word_features(words))
        truth = _phonemes(case[0].segments)
        for word in words:
            sounds = _phonemes((s.ipa, s.start_s, s.end_s) for s in word.sounds)
            shares = shares_right(sounds, truth)
            right["sound"] += [float(share > SOUND_RIGHT) for share in shares]
            right["word"].append(float(word_share(sounds, shares) > WORD_RIGHT))
    out = {}
    for kind in ("sound", "word"):
        x, y = np.concatenate(rows[kind]), np.array(right[kind])
        out[f"sure_{kind}"] = _logistic(x, y).astype(np.float32)
        print(f"{kind}s: {len(y):,}, right {y.mean():.1%}", flush=True)
    return out


def _logistic(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weights of the likeliest logistic model with a little shrinkage (Newton's method)."""
    weights = np.zeros(x.shape[1])
    shrink = np.eye(x.shape[1]) * 1.0
    shrink[0, 0] = 0.0
    for _ in range(30):
        odds = 1 / (1 + np.exp(-x @ weights))
        slope = x.T @ (y - odds) - shrink @ weights
        bend = (x * (odds * (1 - odds))[:, None]).T @ x + shrink
        weights = weights + np.linalg.solve(bend, slope)
    return weights
