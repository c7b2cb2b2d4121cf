"""The shot's weights on named morph targets: what a rig calls each class of mouth is given in a small table."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import FormatError
from tinfork.core.formats.weights_json import weights_of
from tinfork.core.scene.choices import CHARACTER, as_chosen
from tinfork.core.scene.exporting import Option, Values
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.visemes import VISEMES

TARGETS = Option(
    "targets", "Names of targets", "", high=1000, hint="class = target, class = target; left out: the class's own name"
)


@dataclass(frozen=True, slots=True)
class MorphCurves:
    """A character's name, its targets, and their weights, 0 to 1: frames × targets."""

    name: str
    targets: tuple[str, ...]
    weights: NDArray[np.float32]


def morph_curves(scene: Scene, values: Values) -> tuple[Scene, MorphCurves]:
    """The shot as chosen, and the curves of the character chosen; classes that share a target are added up.

    Raises
    ------
    FormatError
        For a table that is none.
    """
    scene = as_chosen(scene, values)
    figure = scene.figure(values[CHARACTER.name])
    names = _names(values[TARGETS.name])
    targets = list(dict.fromkeys(names.values()))
    weights = weights_of(scene)[figure.name]
    table = np.zeros((len(weights), len(targets)), dtype="<f4")
    for column, viseme in enumerate(VISEMES):
        table[:, targets.index(names[viseme])] += weights[:, column].astype("<f4")
    return scene, MorphCurves(figure.name, tuple(targets), np.clip(table, 0, 1))


def _names(table: str) -> dict[str, str]:
    """The target of each class.

    Raises
    ------
    FormatError
        For a table that is none.
    """
    names = {viseme: viseme for viseme in VISEMES}
    for pair in filter(None, (part.strip() for part in table.split(","))):
        viseme, equals, target = (part.strip() for part in pair.partition("="))
        if not equals or viseme not in names or not target:
            raise FormatError("targets.not_a_pair", pair=pair[:40], visemes=", ".join(VISEMES))
        names[viseme] = target
    return names
