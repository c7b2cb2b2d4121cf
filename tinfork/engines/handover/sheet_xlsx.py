"""The exposure sheet of all characters as a spreadsheet (Office Open XML, by openpyxl)."""

from typing import IO

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Alignment, Border, Font, PatternFill, Side
from openpyxl.utils import get_column_letter

from tinfork.core.formats.grid_csv import HEAD
from tinfork.core.formats.sheet_csv import harmless
from tinfork.core.scene.choices import FIRST, RATE, SHOWN, as_chosen
from tinfork.core.scene.exporting import Exporter, Progress, Purpose, Values
from tinfork.core.scene.grid import grid_columns, grid_rows
from tinfork.core.scene.scene import Scene

_BOLD, _SECOND = Font(bold=True), Border(top=Side(style="medium", color="7B838B"))
_PAPER, _MIDDLE = PatternFill("solid", fgColor="EFE9DB"), Alignment(horizontal="center")
#: The number of frames between two reports of progress.
_EVERY = 500


def _value(value: object) -> str | int:
    """The value of a cell: numbers as numbers."""
    kept = str(harmless(value))
    return int(kept) if kept.isdecimal() and len(kept) < 10 else kept


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    scene = as_chosen(scene, values)
    columns = grid_columns(scene, values["drawings"], moves=True)
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Exposure sheet")
    sheet.freeze_panes = "D2"
    headings = [*HEAD, *(column.heading for column in columns)]
    for number, heading in enumerate(headings, start=1):
        wide = 26 if heading == "notes" else 13 if number == 2 or heading.endswith("words") else max(8, len(heading))
        sheet.column_dimensions[get_column_letter(number)].width = wide
    row = [WriteOnlyCell(sheet, str(harmless(heading))) for heading in headings]
    for cell in row:
        cell.font, cell.fill = _BOLD, _PAPER
    sheet.append(row)
    for head, on_frame in grid_rows(scene, columns):
        row = [WriteOnlyCell(sheet, _value(value)) for value in (*head, *on_frame)]
        frame = int(str(head[0])) - scene.first_frame
        for number, cell in enumerate(row):
            if number >= len(HEAD) and columns[number - len(HEAD)].column:
                cell.alignment = _MIDDLE
            if frame % scene.rate.nominal == 0:
                cell.border = _SECOND
        sheet.append(row)
        if frame % _EVERY == 0:
            progress(frame / scene.frames)
    book.save(out)


EXPORTER = Exporter(
    "sheet-xlsx",
    "Exposure sheet, all characters (spreadsheet)",
    Purpose.PRINT,
    ".xlsx",
    "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    _write,
    (SHOWN, FIRST, RATE),
    "one row per frame, one column per mouth and part. Edit it and import it again",
    takes_long=True,
)
