"""Weights of a rigged face as CSV: a row per frame, a column per viseme class; each row sums to 1 but for rounding."""

import csv
import io

from tinfork.core.formats.weights_json import weights_of
from tinfork.core.scene.choices import CHARACTER, FIRST, RATE, as_chosen
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.speech.visemes import VISEMES


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    weights = weights_of(scene)[scene.figure(values["character"]).name]
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["frame", "seconds", *VISEMES])
    for at, row in enumerate(weights):
        seconds = scene.rate.first_us(at) / 1e6
        writer.writerow([scene.first_frame + at, f"{seconds:.6f}", *(f"{share:.4f}" for share in row)])
    return out.getvalue().encode()


EXPORTER = Exporter(
    "weights-csv",
    "Weights for a rigged face (CSV)",
    Purpose.RIG,
    ".weights.csv",
    "text/csv; charset=utf-8",
    of_bytes(_of_scene),
    (CHARACTER, FIRST, RATE),
    "a row per frame, a column for each viseme class",
)
