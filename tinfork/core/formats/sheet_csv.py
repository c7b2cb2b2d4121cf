"""The sheet as CSV (RFC 4180, UTF-8).

A row per frame: frame, timecode, drawing, set, viseme, word, phoneme (`set` is empty for the
character's first set of mouths). Or a row per hold, with `frames`, its length, after the
timecode. Where there are notes, or other parts of the face, they have columns behind: note,
then the drawing of each part under its name. Text that a spreadsheet would run as a formula
is written with an apostrophe before it.
"""

import csv
import io

from tinfork.core.sheet import Sheet
from tinfork.core.solver.problem import NO_MOUTH

FRAME_COLUMNS = ("frame", "timecode", "drawing", "set", "viseme", "word", "phoneme")
HOLD_COLUMNS = ("frame", "timecode", "frames", "drawing", "set", "viseme", "word", "phoneme")


def write(sheet: Sheet, *, per_hold: bool = False) -> bytes:
    """The sheet, a row per frame or per hold."""
    columns: tuple[str, ...] = HOLD_COLUMNS if per_hold else FRAME_COLUMNS
    rows = sheet.hold_rows() if per_hold else sheet.frame_rows()
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    if sheet.notes:
        columns = (*columns, "note")
    writer.writerow([*columns, *map(_safe, sheet.others)])
    for row in rows:
        writer.writerow([_safe(value) for value in (*(getattr(row, name) for name in columns), *row.others)])
    return out.getvalue().encode()


def _safe(value: object) -> object:
    if value == NO_MOUTH:
        return ""
    if isinstance(value, str) and value.startswith(("=", "+", "-", "@", "\t", "\r")):
        return "'" + value
    return value
