"""The shot's weights as blend shapes in USD."""

from tinfork.core.formats.morph_targets import TARGETS, morph_curves
from tinfork.core.scene.choices import CHARACTER, FIRST, RATE
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene


def _of_scene(scene: Scene, values: Values) -> bytes:
    # The library takes 80 MB of memory: import it only when needed.
    from tinfork.engines.handover.usd_stage import as_usd

    return as_usd(*morph_curves(scene, values))


EXPORTER = Exporter(
    "usd",
    "Blend shapes (USD)",
    Purpose.RIG,
    ".usda",
    "model/vnd.usda",
    of_bytes(_of_scene),
    (CHARACTER, TARGETS, RATE, FIRST),
    "the weights as a curve on named blend shapes",
)
