"""Training the confidence models on voices of the training set, read with right and with wrong words.

Of synthesised speech it is known which sound is where; of people's, only where each phrase begins and ends
(`tools/ear/joining.py`): there a word is right when it was typed rightly and lies in its phrase, its edges where the
phrase has them. What is right in synthesised speech is said in `core/score/rightness.py`.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from tinfork.core.score.rightness import SOUND_RIGHT, WORD_RIGHT, shares_right, word_share
from tinfork.core.speech.reading import Phoneme
from tinfork.engines.listener import words_heard
from tinfork.engines.reading.align import TimedSound, align
from tinfork.engines.reading.confidence import sound_features, word_features
from tinfork.engines.reading.hear import hear
from tinfork.engines.reading.judge import weighed
from tinfork.engines.reading.words import WordsStage
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import LineText, spell
from tools.ear import augmentation, people, speaking, texts
from tools.ear.fitting import logistic
from tools.ear.joining import Joined, rows
from tools.ear.speaking import LabelledSpeech

T = TypeVar("T")

_SENTENCES = 300
#: Rows of people's phrases of each language.
_ROWS, _LANGUAGES = 22, ("ru", "fr", "es", "ca", "ro", "be", "it", "da", "nl")
#: A sentence of four has a wrong word, one of six an extra or a missing one.
_WRONG, _MORE, _LESS = 0.3, 0.15, 0.15
#: An edge that is further off than this is wrong (seconds).
_FAR_S = 0.08
#: Sometimes nobody listened: the reading must know how sure to be without.
_UNLISTENED = 0.25


@dataclass(frozen=True)
class Case:
    """Speech, the text that is typed for it, its language, and for each typed word whether it is what is said."""

    samples: NDArray[np.float32]
    text: str
    language: str
    heard: LabelledSpeech | None = None
    row: Joined | None = None
    #: For a row: the number of the phrase of each typed word, None where it is not said.
    phrases: tuple[int | None, ...] = ()


def synthesised(pick: np.random.Generator) -> Iterator[Case]:
    """Speech of learnt voices, augmented, with a text that is not always what is said."""
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
            heard = augmentation.faster(heard, 2 ** (pick.uniform(-6, 7) / 12))
        elif roll < 0.6:
            ratio = 2 ** (pick.uniform(-7, 7) / 12)
            window = int(pick.choice([320, 640, 1024]))
            heard = LabelledSpeech(augmentation.shifted(heard.samples, ratio, window), heard.segments)
        if pick.random() < 0.6:
            heard = LabelledSpeech(augmentation.augmented(heard.samples, pick, [heard.samples]), heard.segments)
        typed = _mistaken(text.split(), pick, texts.english(pick).split()[0])
        yield Case(heard.samples, " ".join(typed), language, heard)


def spoken_by_people(pick: np.random.Generator) -> Iterator[Case]:
    """Rows of learnt recordings, with a text that is not always what is said."""
    for language in _LANGUAGES:
        own = [r for r in people.recordings() if r.language == language and not r.is_kept and r.source != "letters"]
        short = [r for r in own if len(r.text.split()) <= 3]
        some = [short[at] for at in pick.permutation(len(short))[: 8 * _ROWS]]
        for row in rows(people.decoded(some), language, pick)[:_ROWS]:
            numbered: list[tuple[str, int | None]] = [
                (word, at) for at, phrase in enumerate(row.phrases) for word in phrase.text.split()
            ]
            other = str(pick.choice([r.text.split()[-1] for r in short]))
            typed = _mistaken(numbered, pick, (other, None))
            samples = augmentation.augmented(row.samples, pick, [row.samples]) if pick.random() < 0.5 else row.samples
            # Numbers of phrases by written word, as the text is parted into words.
            phrases = [at for word, at in typed for _ in split_words(word, language)]
            yield Case(samples, " ".join(w for w, _ in typed), language, row=row, phrases=tuple(phrases))


def _mistaken(words: list[T], pick: np.random.Generator, other: T) -> list[T]:
    at = int(pick.integers(len(words)))
    roll = pick.random()
    if roll < _WRONG:
        words[at] = other
    elif roll < _WRONG + _MORE:
        words.insert(at, other)
    elif roll < _WRONG + _MORE + _LESS and len(words) > 3:
        del words[at]
    return words


@dataclass(frozen=True)
class Timed:
    """The words of a case as the application times them before it judges.

    Sounds, whether the listener heard them, and the number of the written word of each.
    """

    sounds: list[tuple[TimedSound, ...]]
    agreed: list[bool | None]
    written: list[int]


def timed(case: Case, is_listened: bool) -> Timed | None:
    """A case through the first stages; None where its words find no place."""
    lines = [LineText(case.text, "", case.language)]
    typed = spell(lines).spoken
    heard = hear(case.samples)
    said = WordsStage(lines, words_heard if is_listened else None).what_is_said(heard, typed)
    if said is None:
        return None
    sounds, agreed = weighed(align(heard, said))
    kept = [at for at, word in enumerate(said.words) if word.typed is not None and sounds[at]]
    written = [typed[number].written for at in kept if (number := said.words[at].typed) is not None]
    return Timed([sounds[at] for at in kept], [agreed[at] for at in kept], written)


def _phonemes(segments: Iterable[tuple[str, float, float]]) -> list[Phoneme]:
    spans = ((ipa, max(0, round(a * 1e6)), round(b * 1e6)) for ipa, a, b in segments)
    return [Phoneme(ipa, a, max(a + 1, b)) for ipa, a, b in spans]


def calibrate(seed: int = 77) -> dict[str, NDArray[np.float32]]:
    """Train the weights of the confidence models."""
    pick = np.random.default_rng(seed)
    rows_of: dict[str, list[NDArray[np.float64]]] = {"sound": [], "word": []}
    right: dict[str, list[float]] = {"sound": [], "word": []}
    for case in (*synthesised(pick), *spoken_by_people(pick)):
        found = timed(case, is_listened=pick.random() >= _UNLISTENED)
        if found is None or not found.sounds:
            continue
        rows_of["word"].append(word_features(found.sounds, found.agreed))
        if case.heard:
            rows_of["sound"].append(sound_features(found.sounds, found.agreed))
            by_sound, by_word = _right(found, case.heard)
            right["sound"] += by_sound
            right["word"] += by_word
        else:
            right["word"] += _right_in_row(found, case)
    out = {}
    for kind in ("sound", "word"):
        x, y = np.concatenate(rows_of[kind]), np.array(right[kind])
        out[f"sure_{kind}"] = logistic(x, y).astype(np.float32)
        print(f"{kind}s: {len(y):,}, right {y.mean():.1%}", flush=True)
    return out


def _right(found: Timed, heard: LabelledSpeech) -> tuple[list[float], list[float]]:
    truth = _phonemes(heard.segments)
    by_sound, by_word = [], []
    for word in found.sounds:
        sounds = _phonemes((s.ipa, s.start_s, s.end_s) for s in word)
        shares = shares_right(sounds, truth)
        by_sound += [float(share > SOUND_RIGHT) for share in shares]
        by_word.append(float(word_share(sounds, shares) > WORD_RIGHT))
    return by_sound, by_word


def _right_in_row(found: Timed, case: Case) -> list[float]:
    """Of each spoken word whether it lies where its phrase is, and begins or ends where that does."""
    assert case.row
    out = []
    for sounds, written in zip(found.sounds, found.written, strict=True):
        number = case.phrases[written] if written < len(case.phrases) else None
        if number is None:
            out.append(0.0)
            continue
        phrase = case.row.phrases[number]
        start_s, end_s = sounds[0].start_s, sounds[-1].end_s
        is_inside = phrase.start_s - _FAR_S <= start_s and end_s <= phrase.end_s + _FAR_S
        same = [at for at, own in enumerate(case.phrases) if own == number]
        begins_well = written != same[0] or abs(start_s - phrase.start_s) <= _FAR_S
        # The end is placed by level afterwards: it need only lie in the phrase.
        out.append(float(is_inside and begins_well and end_s > phrase.start_s + _FAR_S))
    return out
