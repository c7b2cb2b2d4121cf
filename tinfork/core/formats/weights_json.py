"""Weights of rigged faces as JSON: how much of each viseme class on each frame.

Version 1:

    {"version": 1, "rate": "24/1", "first_frame": 1, "visemes": ["rest", "bilabial", ...],
     "characters": [{"character", "weights": [[0.1, 0.9, ...], ...]}]}

A row per frame from the first, a column per class; each row sums to 1 to within rounding to four decimals.
"""

import json
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.formats.versions import WEIGHTS
from tinfork.core.scene.choices import FIRST, RATE, as_chosen
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.visemes import VISEMES


def write(tracks: Mapping[str, NDArray[np.float64]], rate: FrameRate, first_frame: int) -> bytes:
    """The whole document; `tracks` are the weights of each character, shape (frames, 15)."""
    document = {
        "version": WEIGHTS.version,
        "rate": str(rate),
        "first_frame": first_frame,
        "visemes": list(VISEMES),
        "characters": [
            {"character": name, "weights": np.round(weights, 4).tolist()} for name, weights in tracks.items()
        ],
    }
    return (json.dumps(document, ensure_ascii=False) + "\n").encode()


def read(data: bytes) -> dict[str, NDArray[np.float64]]:
    """The weights of each character in a document.

    Raises
    ------
    FormatError
        Whatever the bytes.
    """
    try:
        document = json.loads(data)
        if not WEIGHTS.knows(document["version"]) or document["visemes"] != list(VISEMES):
            raise FormatError("weights.other_version")
        document = WEIGHTS.upgraded(document)
        tracks = {str(t["character"]): np.array(t["weights"], dtype=np.float64) for t in document["characters"]}
    except FormatError:
        raise
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise FormatError("weights.not_weights") from error
    if any(w.ndim != 2 or w.shape[1:] != (len(VISEMES),) for w in tracks.values() if w.size):
        raise FormatError("weights.row_incomplete")
    return tracks


def weights_of(scene: Scene) -> dict[str, NDArray[np.float64]]:
    """The weights of each character that has some, shape (frames, 15)."""
    return {figure.name: figure.weights() for figure in scene.figures if figure.weights}


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    return write(weights_of(scene), scene.rate, scene.first_frame)


EXPORTER = Exporter(
    "weights",
    "Weights for a rigged face (JSON)",
    Purpose.RIG,
    ".weights.json",
    "application/json",
    of_bytes(_of_scene),
    (FIRST, RATE),
    "how much of each viseme class on each frame; a row sums to 1, closed lips have all of it",
)
