"""The ear with the weights that the application ships (made by `tools/ear`)."""

from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.edges import EdgeNetwork
from tinfork.core.ear.network import Network
from tinfork.core.speech.lexicon import base_language

WEIGHTS = Path(__file__).with_name("ear.npz")


@cache
def _weights() -> dict[str, NDArray[np.float32]]:
    with np.load(WEIGHTS) as weights:
        return {name: weights[name] for name in weights.files}


def _part(mark: str) -> dict[str, NDArray[np.float32]]:
    """The weights whose names begin with a mark, without it."""
    return {name.removeprefix(mark): part for name, part in _weights().items() if name.startswith(mark)}


@cache
def network() -> Network:
    """The ear's network. Weights are loaded once a process."""
    return Network(_part("net_"))


@cache
def edge_network() -> EdgeNetwork:
    """What moves edges to where sounds change."""
    return EdgeNetwork(_part("edge_"))


@cache
def transitions(language: str = "") -> NDArray[np.float32]:
    """How often each sound follows each other sound in a language, or in all languages.

    Log probabilities, shape (sounds, sounds).
    """
    weights = _weights()
    return weights.get(f"follows_{base_language(language)}", weights["follows"]).astype(np.float32)


@cache
def confidence_weights() -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """The weights of the confidence models: for a sound, a word, and a word that nobody typed."""
    sound, word, heard = (_weights()[f"sure_{kind}"].astype(np.float64) for kind in ("sound", "word", "heard"))
    return sound, word, heard
