"""The exposure sheet of everyone as CSV (RFC 4180, UTF-8): frame, timecode, feet, then the columns of each character.

At the head of a hold stands its drawing, on its other frames "│".
"""

import csv
import io

from tinfork.core.formats.sheet_csv import harmless
from tinfork.core.scene.choices import FIRST, RATE, SHOWN, as_chosen
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.grid import grid_columns, grid_rows
from tinfork.core.scene.scene import Scene

HEAD = ("frame", "timecode", "feet")


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    columns = grid_columns(scene, values["drawings"], moves=True)
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([*HEAD, *(harmless(column.heading) for column in columns)])
    for head, row in grid_rows(scene, columns):
        writer.writerow([*head, *map(harmless, row)])
    return out.getvalue().encode()


EXPORTER = Exporter(
    "sheet-csv",
    "Exposure sheet, all characters (CSV)",
    Purpose.PRINT,
    ".sheet.csv",
    "text/csv; charset=utf-8",
    of_bytes(_of_scene),
    (SHOWN, FIRST, RATE),
    "the printed sheet as a table, with holds and stems",
)
