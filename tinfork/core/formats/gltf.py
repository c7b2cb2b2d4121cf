"""glTF 2.0: the shot's weights as an animation of morph targets.

The mesh is a small flat square whose targets do not move it: what matters are the names and the curve, which a program
lays on a face of its own. Names are those of the viseme classes, or of a table "rest = Neutral, open = JawOpen".
"""

import base64
import json
import struct

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import FormatError
from tinfork.core.formats.weights_json import weights_of
from tinfork.core.scene.choices import CHARACTER, RATE, as_chosen
from tinfork.core.scene.exporting import Exporter, Option, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.visemes import VISEMES

_NAMES = Option(
    "targets", "Names of targets", "", high=1000, hint="class = target, class = target; left out: the class's own name"
)
_FLOAT = 5126


def _names(table: str) -> dict[str, str]:
    """The target of each class; raises `FormatError` for a table that is none."""
    names = {viseme: viseme for viseme in VISEMES}
    for pair in filter(None, (part.strip() for part in table.split(","))):
        viseme, equals, target = (part.strip() for part in pair.partition("="))
        if not equals or viseme not in names or not target:
            raise FormatError(f"“{pair[:40]}” is no pair “class = target”. Classes are: {', '.join(VISEMES)}.")
        names[viseme] = target
    return names


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    figure = scene.figure(values["character"])
    names = _names(values["targets"])
    targets = list(dict.fromkeys(names.values()))
    weights = weights_of(scene)[figure.name]
    # Classes that share a target are added up.
    table = np.zeros((len(weights), len(targets)), dtype="<f4")
    for column, viseme in enumerate(VISEMES):
        table[:, targets.index(names[viseme])] += weights[:, column].astype("<f4")
    times = np.array([scene.rate.first_us(frame) / 1e6 for frame in range(len(weights))], dtype="<f4")
    return _document(figure.name, targets, times, table)


def _document(name: str, targets: list[str], times: NDArray[np.float32], table: NDArray[np.float32]) -> bytes:
    square = struct.pack("<12f", -0.5, -0.5, 0, 0.5, -0.5, 0, 0.5, 0.5, 0, -0.5, 0.5, 0)
    indices = struct.pack("<6H", 0, 1, 2, 0, 2, 3)
    still = bytes(4 * 3 * 4)
    pieces = [square, indices, still, times.tobytes(), np.clip(table, 0, 1).tobytes()]
    views, blob = [], b""
    for at, piece in enumerate(pieces):
        view = {"buffer": 0, "byteOffset": len(blob), "byteLength": len(piece)}
        views.append(view | ({"target": 34963 if at == 1 else 34962} if at < 3 else {}))
        blob += piece + bytes(-len(piece) % 4)
    bounds = {"min": [-0.5, -0.5, 0], "max": [0.5, 0.5, 0]}
    none = {"min": [0, 0, 0], "max": [0, 0, 0]}
    accessors = [
        {"bufferView": 0, "componentType": _FLOAT, "count": 4, "type": "VEC3", **bounds},
        {"bufferView": 1, "componentType": 5123, "count": 6, "type": "SCALAR"},
        {"bufferView": 2, "componentType": _FLOAT, "count": 4, "type": "VEC3", **none},
        {
            "bufferView": 3,
            "componentType": _FLOAT,
            "count": len(times),
            "type": "SCALAR",
            "min": [float(times[0])],
            "max": [float(times[-1])],
        },
        {"bufferView": 4, "componentType": _FLOAT, "count": table.size, "type": "SCALAR"},
    ]
    primitive = {"attributes": {"POSITION": 0}, "indices": 1, "targets": [{"POSITION": 2} for _ in targets]}
    mesh = {
        "name": name,
        "primitives": [primitive],
        "weights": [float(w) for w in table[0]],
        "extras": {"targetNames": targets},
    }
    channel = {"sampler": 0, "target": {"node": 0, "path": "weights"}}
    document = {
        "asset": {"version": "2.0", "generator": "Tin Fork"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"name": name, "mesh": 0}],
        "meshes": [mesh],
        "animations": [
            {
                "name": "speech",
                "samplers": [{"input": 3, "output": 4, "interpolation": "LINEAR"}],
                "channels": [channel],
            }
        ],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [
            {
                "byteLength": len(blob),
                "uri": "data:application/octet-stream;base64," + base64.b64encode(blob).decode(),
            }
        ],
    }
    return (json.dumps(document, ensure_ascii=False) + "\n").encode()


EXPORTER = Exporter(
    "gltf",
    "Morph-target animation (glTF 2.0)",
    Purpose.RIG,
    ".gltf",
    "model/gltf+json",
    of_bytes(_of_scene),
    (CHARACTER, _NAMES, RATE),
    "the weights as a curve on named morph targets",
)
