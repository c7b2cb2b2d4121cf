"""The ear with its weights, as the application ships them (made by `tools/ear`)."""

from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.network import Network
from tinfork.core.speech.lexicon import base_language

WEIGHTS = Path(__file__).with_name("ear.npz")


@cache
def _weights() -> dict[str, NDArray[np.float32]]:
    with np.load(WEIGHTS) as weights:
        return {name: weights[name] for name in weights.files}


@cache
def network() -> Network:
    """What listens to words: the first network. Weights are read once a process."""
    return Network(_each()[0])


@cache
def networks() -> Network:
    """What listens without words: all networks as one. With words they are no better than the first, and slower."""
    return Network(*_each())


def _each() -> list[dict[str, NDArray[np.float32]]]:
    out: dict[str, dict[str, NDArray[np.float32]]] = {}
    for name, values in _weights().items():
        if name.startswith("net"):
            net, _, part = name.partition("_")
            out.setdefault(net, {})[part] = values
    return list(out.values())


@cache
def follows(language: str = "") -> NDArray[np.float32]:
    """How often each sound comes after each other in a language, or in all of them: log probabilities, shape
    (sounds, sounds).
    """
    weights = _weights()
    return weights.get(f"follows_{base_language(language)}", weights["follows"]).astype(np.float32)


@cache
def sureness() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The weights that turn what is known of a sound, and of a word, into odds of being right."""
    weights = _weights()
    return weights["sure_sound"].astype(np.float64), weights["sure_word"].astype(np.float64)
