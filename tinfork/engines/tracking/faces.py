"""The landmarks of a face in pictures: found once, then followed from its place in the picture before."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import EngineError
from tinfork.core.motion.faces import EYES, FaceMeasures
from tinfork.engines.tracking.models import MISSING, models_folder

Pixels = NDArray[np.uint8]
Points = NDArray[np.float64]

#: The least score of a face, of 1.
_SURE = 0.5
#: The side of each model's input in pixels.
_FINDER_SIDE, _MESH_SIDE, _IRIS_SIDE = 128, 192, 64
#: If a face is further from the middle of the crop than this (in sides of the crop), or turned further (radians), it is
#: cropped again: the model works best on an upright face in the middle.
_MOVED, _TURNED = 0.08, math.radians(7)
#: The size of the crop relative to the face, and to the eye.
_AROUND_FACE, _AROUND_EYE = 1.5, 2.3
#: The finder's values for each anchor: a box, then six points, the two eyes first. Two boxes that overlap this much are
#: the same face.
_SAME = 0.3


@dataclass(frozen=True, slots=True)
class _Frame:
    """A square crop of a picture: its middle, its side in pixels, its turn in radians, clockwise."""

    x: float
    y: float
    side: float
    turn: float

    def to_picture(self, side: int, flip: bool = False) -> NDArray[np.float64]:
        """The affine map (2, 3) from a crop of a number of pixels a side to the picture."""
        scale = self.side / side
        a, b = math.cos(self.turn) * scale, math.sin(self.turn) * scale
        across = -1 if flip else 1
        half = side / 2
        map_ = np.array([[a * across, -b, 0.0], [b * across, a, 0.0]])
        map_[:, 2] = np.array([self.x, self.y]) - map_[:, :2] @ np.array([half, half])
        return map_


@dataclass(frozen=True, slots=True)
class Mesh:
    """A face: its landmarks (468, 3) in pixels, and its score, of 1."""

    points: Points
    confidence: float


def _seen(picture: Pixels, map_: NDArray[np.float64], side: int) -> Pixels:
    """Crop a square of a picture, scaled to a number of pixels a side; black outside."""
    # A large square is cropped larger and averaged down, so that all pixels count and small things do not flicker.
    finer = max(1, round(math.hypot(map_[0, 0], map_[1, 0])))
    scaled = map_ @ np.array([[1 / finer, 0, 0.5 / finer - 0.5], [0, 1 / finer, 0.5 / finer - 0.5], [0, 0, 1]])
    large = cv2.warpAffine(picture, scaled, (side * finer, side * finer), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    return np.asarray(cv2.resize(large, (side, side), interpolation=cv2.INTER_AREA) if finer > 1 else large, np.uint8)


class FaceTracker:
    """Follows one face through pictures in order. Raises `EngineError` if the models are missing."""

    def __init__(self, folder: Path | None = None) -> None:
        folder = folder or models_folder()
        self._finder = _net(folder / "face_detection_short_range.tflite")
        self._mesh = _net(folder / "face_landmark.tflite")
        self._last: _Frame | None = None
        #: Whether the last picture was searched for faces, and how many faces the last search found.
        self.looked_for, self.faces = False, 0

    @cached_property
    def _anchors(self) -> NDArray[np.float64]:
        """The centres of the finder's anchors, shape (896, 2), 0 to 1.

        Two for each of 16 x 16 cells, and six for each of 8 x 8.
        """
        out = []
        for count, times in ((16, 2), (8, 6)):
            at = (np.arange(count) + 0.5) / count
            grid = np.stack(np.meshgrid(at, at), axis=-1).reshape(-1, 2)
            out.append(np.repeat(grid, times, axis=0))
        return np.concatenate(out)

    def see(self, picture: Pixels) -> Mesh | None:
        """The mesh of the face in the next picture, RGB, shape (height, width, 3); None if there is no face."""
        self.looked_for = False
        face = self._closely(picture, self._last) if self._last else None
        if face is None:
            self.looked_for = True
            found = self._find(picture)
            face = self._closely(picture, found) if found else None
        self._last = _around(face.points) if face else None
        return face

    def _closely(self, picture: Pixels, where: _Frame) -> Mesh | None:
        """The mesh of a face near a crop; cropped once more if the face turns out to be elsewhere."""
        face = self._landmarks(picture, where)
        if face is None:
            return None
        there = _around(face.points)
        moved = math.hypot(there.x - where.x, there.y - where.y) / where.side
        turned = abs(math.remainder(there.turn - where.turn, math.tau))
        if moved < _MOVED and turned < _TURNED:
            return face
        return self._landmarks(picture, there) or face

    def _find(self, picture: Pixels) -> _Frame | None:
        """Find the largest face."""
        height, width = picture.shape[:2]
        whole = _Frame(width / 2, height / 2, max(width, height), 0.0)
        to_picture = whole.to_picture(_FINDER_SIDE)
        seen = _seen(picture, to_picture, _FINDER_SIDE) / 127.5 - 1
        scored, placed = _told(self._finder, seen, "classificators", "regressors")
        scores, told = _sigmoid(scored.reshape(-1)), placed.reshape(-1, 16)
        sure = np.flatnonzero(scores > _SURE)
        boxes = np.concatenate([told[sure, :2] / _FINDER_SIDE + self._anchors[sure], told[sure, 2:4] / _FINDER_SIDE], 1)
        kept: list[int] = []
        for n in np.argsort(-scores[sure]):
            if all(_common(boxes[n], boxes[other]) < _SAME for other in kept):
                kept.append(int(n))
        self.faces = len(kept)
        if not kept:
            return None
        best = max(kept, key=lambda n: boxes[n, 2] * boxes[n, 3])
        eyes = told[sure[best], 4:8].reshape(2, 2) / _FINDER_SIDE + self._anchors[sure[best]]
        (x, y) = to_picture @ np.array([*(boxes[best, :2] * _FINDER_SIDE), 1.0])
        side = float(boxes[best, 2:].max()) * whole.side * _AROUND_FACE
        (dx, dy) = eyes[1] - eyes[0]
        return _Frame(float(x), float(y), side, math.atan2(dy, dx))

    def _landmarks(self, picture: Pixels, where: _Frame) -> Mesh | None:
        to_picture = where.to_picture(_MESH_SIDE)
        mesh, is_face = _told(self._mesh, _seen(picture, to_picture, _MESH_SIDE) / 255, "conv2d_21", "conv2d_31")
        points, sure = mesh.reshape(-1, 3), float(_sigmoid(is_face.reshape(-1))[0])
        if sure < _SURE:
            return None
        flat = np.concatenate([points[:, :2], np.ones((len(points), 1))], axis=1) @ to_picture.T
        out = np.concatenate([flat, points[:, 2:] * where.side / _MESH_SIDE], axis=1).astype(np.float64)
        return Mesh(out, sure)


class EyeTracker:
    """Finds the irises and lids of a face with a known mesh. Raises `EngineError` if the model is missing."""

    def __init__(self, folder: Path | None = None) -> None:
        self._iris = _net((folder or models_folder()) / "iris_landmark.tflite")

    def face(self, picture: Pixels, mesh: Mesh) -> FaceMeasures:
        """The whole face, with irises and rims of the eyes."""
        eyes = [self._eye(picture, mesh.points, n) for n in (0, 1)]
        irises, rims = (np.array([eye[n] for eye in eyes]) for n in (0, 1))
        return FaceMeasures(mesh.points, irises, rims, mesh.confidence)

    def _eye(self, picture: Pixels, points: Points, n: int) -> tuple[Points, Points]:
        """The middle of an iris, and the rim of the eye."""
        outer, inner = points[EYES[n][0], :2], points[EYES[n][1], :2]
        middle, (dx, dy) = (outer + inner) / 2, (inner - outer) * (1 if n == 0 else -1)
        where = _Frame(float(middle[0]), float(middle[1]), _AROUND_EYE * math.hypot(dx, dy), math.atan2(dy, dx))
        # The model knows only one eye: the other is mirrored.
        to_picture = where.to_picture(_IRIS_SIDE, flip=n == 1)
        seen = _seen(picture, to_picture, _IRIS_SIDE) / 255
        rim, iris = _told(self._iris, seen, "output_eyes_contours_and_brows", "output_iris")
        both = np.concatenate([iris.reshape(-1, 3)[:1, :2], rim.reshape(-1, 3)[:16, :2]])
        flat = np.concatenate([both, np.ones((len(both), 1))], axis=1) @ to_picture.T
        return flat[0], flat[1:]


def _net(path: Path) -> "cv2.dnn.Net":
    if not path.is_file():
        raise EngineError(MISSING)
    try:
        # The library's newer engine returns only one output of a model.
        return cv2.dnn.readNetFromTFLite(str(path), cv2.dnn.ENGINE_CLASSIC)
    except cv2.error as error:
        raise EngineError("face.model_damaged", name=path.name) from error


def _told(net: "cv2.dnn.Net", picture: NDArray[np.float64], *outputs: str) -> Sequence[NDArray[np.float32]]:
    """Run a model on pixels, shape (height, width, 3)."""
    net.setInput(np.ascontiguousarray(picture.transpose(2, 0, 1)[None], dtype=np.float32))
    # All outputs in one call: each call runs the model again.
    return [np.asarray(one, np.float32) for one in net.forward(outputs)]


def _sigmoid(values: NDArray[np.float32]) -> NDArray[np.float64]:
    return 1 / (1 + np.exp(-np.clip(values.astype(np.float64), -60, 60)))


def _common(a: Points, b: Points) -> float:
    """The intersection over union of two boxes (middle, size)."""
    low = np.maximum(a[:2] - a[2:] / 2, b[:2] - b[2:] / 2)
    high = np.minimum(a[:2] + a[2:] / 2, b[:2] + b[2:] / 2)
    both = float(np.prod(np.maximum(0, high - low)))
    return both / max(1e-9, float(a[2] * a[3] + b[2] * b[3]) - both)


def _around(points: Points) -> _Frame:
    """The crop for the next picture, around the face."""
    (left, _), (right, _) = EYES[0], EYES[1]
    dx, dy = points[right, :2] - points[left, :2]
    turn = math.atan2(dy, dx)
    c, s = math.cos(turn), math.sin(turn)
    upright = points[:, :2] @ np.array([[c, -s], [s, c]])
    low, high = upright.min(axis=0), upright.max(axis=0)
    x, y = np.array([[c, -s], [s, c]]) @ ((low + high) / 2)
    return _Frame(float(x), float(y), float((high - low).max()) * _AROUND_FACE, turn)
