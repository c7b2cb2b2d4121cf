"""Lottie: each drawing is an image layer, visible on its frames (specification 1.0 of the Lottie community)."""

import base64
import json
import math
from typing import Any

from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.scene.choices import RATE, as_chosen
from tinfork.core.scene.drawing import ShownPicture, shown
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.layout import Affine
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.archive_files import png
from tinfork.engines.handover.flattening import flattened
from tinfork.engines.handover.picture_options import GROUND, PARTS, WIDTH, has_ground, size_of, what_of
from tinfork.engines.handover.rasters import raster
from tinfork.engines.handover.rendering import ground_picture


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    size = size_of(scene, values)
    pictures = flattened(shown(scene, size, what_of(values)))
    assets: list[dict[str, Any]] = []
    layers: list[dict[str, Any]] = []
    # A moving picture is one layer.
    known: dict[tuple[tuple[str, str, str, int], AnyPicture], dict[str, Any]] = {}
    for one in pictures:
        key = one.placed.key, one.placed.picture
        if key not in known:
            wide, high = (max(1, math.ceil(side)) for side in one.placed.size)
            known[key] = _asset(len(assets), png(raster(one.placed.picture, (wide, high))), wide, high)
            assets.append(known[key])
        asset = known[key]
        # A layer for each stretch on which it is visible.
        for start, end in one.spans:
            layers.append(_layer(one, asset["id"], (start, end), (asset["w"], asset["h"])))
    if has_ground(values):
        assets.append(_asset(len(assets), png(ground_picture(scene.ground, size)), *size))
        still = {"o": _value(100), "p": _value([0, 0]), "a": _value([0, 0]), "s": _value([100, 100]), "r": _value(0)}
        back = {"ty": 2, "nm": "background", "refId": assets[-1]["id"], "ks": still, "ip": 0, "op": scene.frames}
        layers.insert(0, back | {"st": 0})
    for number, layer in enumerate(reversed(layers), start=1):
        layer["ind"] = number
    document = {
        "v": "5.7.0",
        "ver": 10000,
        "nm": f"{scene.production} {scene.name}".strip() or "shot",
        "fr": float(scene.rate.value),
        "ip": 0,
        "op": scene.frames,
        "w": size[0],
        "h": size[1],
        "assets": assets,
        "layers": layers[::-1],
    }
    return (json.dumps(document, ensure_ascii=False) + "\n").encode()


def _asset(number: int, data: bytes, wide: int, high: int) -> dict[str, Any]:
    uri = "data:image/png;base64," + base64.b64encode(data).decode()
    return {"id": f"picture_{number}", "w": wide, "h": high, "u": "", "p": uri, "e": 1}


def _value(value: float | list[float]) -> dict[str, Any]:
    return {"a": 0, "k": value}


def _layer(one: ShownPicture, asset: str, span: tuple[int, int], pixels: tuple[int, int]) -> dict[str, Any]:
    p = one.placed
    turn, skew, across, down = taken_apart(p.matrix @ Affine.scaled(p.size[0] / pixels[0], p.size[1] / pixels[1]))
    transform = {
        "o": _value(100),
        "a": _value([0, 0]),
        "p": _value([round(p.matrix.e, 4), round(p.matrix.f, 4)]),
        "s": _value([round(100 * across, 4), round(100 * down, 4)]),
        "r": _value(round(turn, 4)),
        **({"sk": _value(round(skew, 4)), "sa": _value(0)} if abs(skew) > 1e-4 else {}),
    }
    name = " ".join(str(part) for part in p.key if part)
    return {"ty": 2, "nm": name, "refId": asset, "ks": transform, "ip": span[0], "op": span[1], "st": 0}


def taken_apart(matrix: Affine) -> tuple[float, float, float, float]:
    """Decompose a map: first scaling across and down, then a lean, then a turn (degrees clockwise).

    A mirrored one has a negative scale across.
    """
    side = -1 if matrix.a * matrix.d - matrix.b * matrix.c < 0 else 1
    turn = math.atan2(side * matrix.b, side * matrix.a)
    cos, sin = math.cos(turn), math.sin(turn)
    over, down = cos * matrix.c + sin * matrix.d, cos * matrix.d - sin * matrix.c
    return math.degrees(turn), math.degrees(math.atan2(-over, down)), side * math.hypot(matrix.a, matrix.b), down


EXPORTER = Exporter(
    "lottie",
    "Lottie animation",
    Purpose.ANIMATE,
    ".lottie.json",
    "application/json",
    of_bytes(_of_scene),
    (WIDTH, PARTS, GROUND, RATE),
    "drawings as layers that take turns, without sound, for web pages and apps",
    takes_long=True,
)
