"""Training the confidence of words that nobody typed, on voices and people of the training set.

A word is right when it sounds like what is said in its place: whether it is spelled so does not matter to a mouth.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import TinForkError
from tinfork.core.speech.agreement import doubts
from tinfork.engines.decode import Sound
from tinfork.engines.reading.confidence import heard_features
from tinfork.engines.transcribing import HearingRequest, words_of_both
from tinfork.engines.wording import LineText, spell
from tools.ear import augmentation, people, speaking, texts
from tools.ear.fitting import logistic
from tools.ear.speaking import RATE_HZ

_SENTENCES, _RECORDINGS, _LANGUAGES = 120, 30, ("ru", "fr", "es", "ca", "ro", "it", "da", "nl")
#: Recordings of so many words, put in a row in so many, as somebody speaks.
_WORDS, _IN_A_ROW, _PAUSE_S = 3, 4, 0.5


@dataclass(frozen=True)
class Speech:
    """Samples at 16 kHz, what is said in them, and the language."""

    samples: NDArray[np.float32]
    text: str
    language: str


def synthesised(pick: np.random.Generator) -> Iterator[Speech]:
    """English of learnt voices, most of it augmented, some higher or lower."""
    for number in range(_SENTENCES):
        text = texts.text_in("en", pick) or texts.english(pick)
        voice = "cmu_us_rms" if number % 2 else "cmu_us_kal16"
        heard = speaking.with_tails(speaking.flite(text, voice, stretch=float(pick.uniform(0.8, 1.3))))
        samples = heard.samples
        if pick.random() < 0.4:
            samples = augmentation.shifted(samples, 2 ** (pick.uniform(-6, 6) / 12), int(pick.choice([320, 640, 1024])))
        if pick.random() < 0.6:
            samples = augmentation.augmented(samples, pick, [samples])
        yield Speech(samples, text, "en-us")


def spoken_by_people(pick: np.random.Generator) -> Iterator[Speech]:
    """Learnt recordings, some in a row."""
    pause = np.zeros(round(_PAUSE_S * RATE_HZ), dtype=np.float32)
    for language in _LANGUAGES:
        own = [r for r in people.recordings() if r.language == language and not r.is_kept and r.source != "letters"]
        long = [r for r in own if len(r.text.split()) >= _WORDS]
        some = people.decoded([long[at] for at in pick.permutation(len(long))[:_RECORDINGS]])
        for first in range(0, len(some), _IN_A_ROW):
            row = some[first : first + _IN_A_ROW]
            samples = np.concatenate([part for _, s in row for part in (augmentation.levelled(s), pause)])
            yield Speech(samples, " ".join(r.text for r, _ in row), language)


def calibrate(seed: int = 78) -> dict[str, NDArray[np.float32]]:
    """Train the weights of `sure_of_heard`."""
    pick = np.random.default_rng(seed)
    rows: list[NDArray[np.float64]] = []
    right: list[float] = []
    for speech in (*synthesised(pick), *spoken_by_people(pick)):
        try:
            found = list(words_of_both(Sound(speech.samples[:, None], RATE_HZ), HearingRequest(speech.language)))
        except TinForkError:
            continue
        rows += [heard_features(word.confidence, owner.sure, bool(owner.others)) for word, owner in found]
        right += are_right([owner.text for _, owner in found], speech.text, speech.language)
    x, y = np.array(rows), np.array(right)
    print(f"heard words: {len(y):,}, right {y.mean():.1%}", flush=True)
    return {"sure_heard": logistic(x, y).astype(np.float32)}


def are_right(heard: list[str], text: str, language: str) -> list[float]:
    """Of each heard word 1 where it sounds like what is said in its place, 0 where it does not."""
    spoken = spell([LineText(text, "", language)]).spoken
    wording = [spell([LineText(word, "", language)]).spoken for word in heard]
    flat = [(at, word) for at, words in enumerate(wording) for word in words]
    wrong: set[int] = set()
    for doubt in doubts([[way.ipa for way in word.ways] for _, word in flat], [word.word.ipa for word in spoken]):
        wrong |= {at for at, _ in flat[doubt.first : doubt.last]}
    return [float(at not in wrong) for at in range(len(heard))]
