"""glTF 2.0: the shot's weights as an animation of morph targets.

The mesh is a small flat square whose targets do not move it: what matters are the names and the curve, which a program
lays on a face of its own. Names are those of the viseme classes, or of a table "rest = Neutral, open = JawOpen".
"""

import base64
import json
import struct
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tinfork.core.formats.morph_targets import TARGETS, morph_curves
from tinfork.core.scene.choices import CHARACTER, RATE
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene

_FLOAT = 5126


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene, curves = morph_curves(scene, values)
    times = np.array([scene.rate.first_us(frame) / 1e6 for frame in range(len(curves.weights))], dtype="<f4")
    return _document(curves.name, curves.targets, times, curves.weights)


def _document(name: str, targets: Sequence[str], times: NDArray[np.float32], table: NDArray[np.float32]) -> bytes:
    square = struct.pack("<12f", -0.5, -0.5, 0, 0.5, -0.5, 0, 0.5, 0.5, 0, -0.5, 0.5, 0)
    indices = struct.pack("<6H", 0, 1, 2, 0, 2, 3)
    still = bytes(4 * 3 * 4)
    pieces = [square, indices, still, times.tobytes(), table.tobytes()]
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
    (CHARACTER, TARGETS, RATE),
    "the weights as a curve on named morph targets",
)
