"""The animated SVG and its sound in a ZIP."""

import zipfile
from typing import IO

from tinfork.core.formats import svg_animation
from tinfork.core.scene.choices import RATE, as_chosen
from tinfork.core.scene.drawing import shown
from tinfork.core.scene.exporting import Exporter, Progress, Purpose, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.archive_files import add_bytes, add_file, base_name
from tinfork.engines.handover.flattening import flattened
from tinfork.engines.handover.picture_options import GROUND, PARTS, WIDTH, has_ground, size_of, what_of


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    scene = as_chosen(scene, values)
    name = base_name(scene)
    size = size_of(scene, values)
    pictures = flattened(shown(scene, size, what_of(values)))
    svg = svg_animation.write(scene, size, pictures, with_ground=has_ground(values))
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        add_bytes(archive, f"{name}.svg", svg)
        if scene.sound:
            add_file(archive, f"{name}.wav", scene.sound)


EXPORTER = Exporter(
    "svg",
    "Animated vector picture (SVG) with its sound",
    Purpose.ANIMATE,
    ".svg.zip",
    "application/zip",
    _write,
    (WIDTH, PARTS, GROUND, RATE),
    "each drawing shown on its frames; plays in a browser",
    takes_long=True,
)
