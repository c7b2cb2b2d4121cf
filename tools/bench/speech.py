"""Speech for measuring: made-up sentences, and conversations of several voices whose turns are known exactly."""

from dataclasses import dataclass

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.engines.limits import READING_HZ
from tinfork.engines.synthesiser import speak

_WHO = (
    "the baker",
    "a badger",
    "the last driver",
    "my oven",
    "a tired toad",
    "the whole town",
    "nobody here",
    "his sister",
)
_DOES = ("carries", "forgets", "remembers", "opens", "watches", "borrows", "hides", "repairs", "counts", "polishes")
_WHAT = (
    "the morning bread",
    "seven small loaves",
    "a broken lantern",
    "the ticket machine",
    "every window",
    "that old map",
    "the sugar",
    "an empty drawer",
)
_HOW = (
    "before midnight",
    "with great care",
    "behind the depot",
    "when it rains",
    "for no reason",
    "under the bridge",
    "again and again",
    "near the counter",
)
_MORE = (
    "and laughs about it",
    "because the tram is late",
    "while the kettle sings",
    "but nobody minds",
    "so we can sleep",
    "",
)


def sentences(count: int, seed: int) -> list[str]:
    """So many sentences, hardly ever the same twice."""
    pick = np.random.default_rng(seed)
    out = []
    for _ in range(count):
        words = [pick.choice(part) for part in (_WHO, _DOES, _WHAT, _HOW, _MORE)]
        text = " ".join(str(w) for w in words if w)
        out.append(text[0].upper() + text[1:] + ".")
    return out


@dataclass(frozen=True, slots=True)
class SpokenSentence:
    """One sentence of a conversation: who (a number), the text, and when, in seconds."""

    who: int
    text: str
    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True)
class Conversation:
    """Mono samples at the reader's rate, and what is said in them."""

    samples: NDArray[np.float32]
    said: tuple[SpokenSentence, ...]


def converse(voices: tuple[tuple[str, int], ...], seconds: float, seed: int) -> Conversation:
    """Voices (name, pitch) taking turns of one to three sentences, with pauses of 0.15 to 0.9 s, for about so long."""
    pick = np.random.default_rng(seed)
    parts: list[NDArray[np.float32]] = [np.zeros(READING_HZ // 2, dtype=np.float32)]
    said: list[SpokenSentence] = []
    at, who = 0.5, 0
    texts = iter(sentences(int(seconds), seed + 1))
    while at < seconds:
        for _ in range(int(pick.integers(1, 4))):
            text = next(texts)
            voice, pitch = voices[who]
            spoken = speak(text, voice, pitch=pitch, words_per_minute=int(pick.integers(150, 185)))
            sound = soxr.resample(spoken.samples, spoken.rate_hz, READING_HZ).astype(np.float32)
            first, last = spoken.phonemes[0].start_us / 1e6, spoken.phonemes[-1].end_us / 1e6
            said.append(SpokenSentence(who, text, at + first, at + last))
            pause = np.zeros(round(pick.uniform(0.15, 0.9) * READING_HZ), dtype=np.float32)
            parts += [sound, pause]
            at += (len(sound) + len(pause)) / READING_HZ
        who = int((who + pick.integers(1, len(voices))) % len(voices))
    samples = np.concatenate(parts)
    # A room is never silent.
    room = pick.normal(scale=0.0006, size=len(samples)).astype(np.float32)
    return Conversation(np.clip(samples + room, -1, 1), tuple(said))
