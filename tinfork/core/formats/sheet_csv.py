"""The sheet as CSV (RFC 4180, UTF-8).

A row per frame: frame, timecode, drawing, set, viseme, word, phoneme (`set` is empty for the
character's first set of mouths). Or a row per hold, with `frames`, its length, after the
timecode. Where there are notes, or other parts of the face, they have columns behind: note,
then the drawing of each part under its name. Text that a spreadsheet would run as a formula
is written with an apostrophe before it.
"""

import csv
import io
from collections.abc import Callable

from tinfork.core.scene.choices import CHARACTER, FIRST, RATE, ROWS, SHOWN, as_chosen, shown_as
from tinfork.core.scene.exporting import Exporter, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Scene
from tinfork.core.sheet import Sheet, SheetRow
from tinfork.core.solver.problem import NO_MOUTH, Hold

FRAME_COLUMNS = ("frame", "timecode", "drawing", "set", "viseme", "word", "phoneme")
HOLD_COLUMNS = ("frame", "timecode", "frames", "drawing", "set", "viseme", "word", "phoneme")


def write(sheet: Sheet, *, per_hold: bool = False, called: Callable[[Hold], str | int] | None = None) -> bytes:
    """The sheet, a row per frame or per hold; drawings by number, or as they are `called`."""
    columns: tuple[str, ...] = HOLD_COLUMNS if per_hold else FRAME_COLUMNS
    rows = sheet.hold_rows() if per_hold else sheet.frame_rows()
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    if sheet.notes:
        columns = (*columns, "note")
    writer.writerow([*columns, *map(harmless, sheet.others)])
    for row in rows:
        values = [_drawing(row, called) if name == "drawing" else getattr(row, name) for name in columns]
        writer.writerow([harmless(value) for value in (*values, *row.others)])
    return out.getvalue().encode()


def _drawing(row: SheetRow, called: Callable[[Hold], str | int] | None) -> str | int:
    return called(Hold(0, 1, row.drawing, row.viseme, row.set)) if called else row.drawing


def harmless(value: object) -> object:
    """What a cell holds: nothing for no mouth, and no text that a spreadsheet would run as a formula."""
    if value == NO_MOUTH:
        return ""
    if isinstance(value, str) and value.startswith(("=", "+", "-", "@", "\t", "\r")):
        return "'" + value
    return value


def _of_scene(scene: Scene, values: Values) -> bytes:
    scene = as_chosen(scene, values)
    figure = scene.figure(values["character"])
    called = shown_as(figure.mouth, values["drawings"])
    return write(scene.sheet(figure), per_hold=values["rows"] == "holds", called=called)


EXPORTER = Exporter(
    "csv",
    "Exposure sheet as a table (CSV)",
    Purpose.ANIMATE,
    ".csv",
    "text/csv; charset=utf-8",
    of_bytes(_of_scene),
    (CHARACTER, ROWS, SHOWN, FIRST, RATE),
    "frame, timecode, drawing, set, viseme, word and sound, for any spreadsheet",
)
