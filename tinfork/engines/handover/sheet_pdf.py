"""The exposure sheet on paper.

PDF pages with a row per frame, like sheets drawn by hand (by reportlab). A hold begins with its number and picture, and
a stem runs to its last frame. Lengths are in points.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO

import numpy as np
from numpy.typing import NDArray
from reportlab.lib.pagesizes import A3, A4, LETTER
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tinfork.core.clock import FRAMES_PER_FOOT, feet_and_frames, timecode
from tinfork.core.scene.choices import FIRST, RATE, SHOWN, as_chosen
from tinfork.core.scene.exporting import Exporter, Option, Progress, Purpose, Values
from tinfork.core.scene.grid import Cell, GridColumn, grid_columns
from tinfork.core.scene.scene import Column, Scene
from tinfork.core.solver.problem import NO_MOUTH
from tinfork.engines.decode import part_blocks
from tinfork.engines.handover.rasters import Rasters
from tinfork.engines.handover.rendering import plates
from tinfork.engines.handover.typesetting import fitted, width_of, write_text
from tinfork.engines.limits import LISTENING_HZ

_PAPERS = {"a4": A4, "a3": A3, "letter": LETTER}
_PAPER = Option("paper", "Paper", "a4", choices=(("a4", "A4"), ("a3", "A3"), ("letter", "Letter")))
_SECONDS = Option("seconds", "Seconds a page", 4, low=1, high=6)
_CODE = Option("code", "Count in", "timecode", choices=(("timecode", "timecode"), ("feet", "feet and frames")))
_PICTURES = Option("pictures", "Pictures of drawings", True)
_ANIMATOR = Option("animator", "Animator", "", high=60)
_MOVES = Option("moves", "Keys of motion", False)
_EMPTY = Option("empty", "Empty columns for hand work", 3, low=0, high=8)

_MARGIN, _HEAD, _HEADINGS = 10 * mm, 17 * mm, 7 * mm
_INK, _TIN, _RULE, _HEAVY = (0.14, 0.16, 0.18), (0.42, 0.45, 0.48), (0.80, 0.78, 0.74), (0.42, 0.40, 0.37)
#: The number of waveform bins in a frame.
_BINS = 2
#: The width of a drawing's picture in pixels.
_PICTURE = 240


@dataclass(frozen=True, slots=True)
class _Lane:
    """A column of the page from `left`, `width` wide."""

    kind: str
    heading: str
    left: float
    width: float
    grid: GridColumn | None = None


#: The usual widths of columns in millimetres; notes take the rest.
_WIDTHS = {
    "frame": 9,
    "code": 17,
    "sound": 13,
    "words": 19,
    "sounds": 12,
    "mouth": 17,
    "part": 11,
    "moves": 19,
    "empty": 10,
}
_LEAST_NOTES = 18


def _lanes(scene: Scene, values: Values, width: float) -> list[_Lane]:
    code = "timecode" if values["code"] == "timecode" else "feet"
    wanted: list[tuple[str, str, GridColumn | None]] = [("frame", "frame", None), ("code", code, None)]
    if scene.sound:
        wanted.append(("sound", "sound", None))
    columns = grid_columns(scene, values["drawings"], moves=values["moves"])
    for column in columns[:-1]:
        kind = next((kind for kind in ("words", "moves") if column.heading.endswith(kind)), "sounds")
        if column.column:
            kind = "mouth" if column.column.is_mouth else "part"
        wanted.append((kind, column.heading, column))
    wanted += [("empty", "", None)] * values["empty"]
    room = sum(_WIDTHS[kind] for kind, *_ in wanted) * mm
    scale = min(1.0, (width - _LEAST_NOTES * mm) / room)
    out, left = [], _MARGIN
    for kind, heading, grid in wanted:
        wide = _WIDTHS[kind] * mm * scale
        out.append(_Lane(kind, heading, left, wide, grid))
        left += wide
    return [*out, _Lane("notes", "notes", left, _MARGIN + width - left, columns[-1])]


class _Page:
    """The frames `[first, end)` on one page."""

    def __init__(self, sheet: "_Sheet", first: int, number: int) -> None:
        self.sheet, self.first, self.number = sheet, first, number
        self.end = first + sheet.rows
        self.top = sheet.height - _MARGIN - _HEAD - _HEADINGS

    def y(self, frame: int) -> float:
        """The upper edge of a frame's row."""
        return float(self.top - (frame - self.first) * self.sheet.row)

    def draw(self) -> None:
        self._head()
        self._rules()
        for lane in self.sheet.lanes:
            self._lane(lane)
        self.sheet.canvas.showPage()

    def _head(self) -> None:
        sheet, canvas, scene = self.sheet, self.sheet.canvas, self.sheet.scene
        top = sheet.height - _MARGIN
        canvas.setFillColorRGB(*_INK)
        write_text(canvas, _MARGIN, top - 5 * mm, fitted(scene.name, 78 * mm, 15, bold=True), 15, bold=True)
        write_text(canvas, _MARGIN, top - 10.5 * mm, fitted(scene.production, 78 * mm, 9), 9)
        last = scene.first_frame + scene.frames - 1
        frames = f"{scene.first_frame}–{last}"
        fields = [("page", f"{self.number} of {sheet.pages}"), ("frames", frames), ("rate", f"{scene.rate.label} fps")]
        fields += [("length", f"{feet_and_frames(scene.frames)} ft"), ("animator", sheet.values["animator"])]
        x = _MARGIN + 82 * mm
        room = sheet.width - _MARGIN - x
        for at, (label, value) in enumerate(fields):
            left = x + room * (at / len(fields))
            canvas.setFillColorRGB(*_TIN)
            write_text(canvas, left, top - 4 * mm, label, 6.5)
            canvas.setFillColorRGB(*_INK)
            write_text(canvas, left, top - 9 * mm, fitted(value, room / len(fields) - 3, 9, bold=True), 9, bold=True)
        canvas.setStrokeColorRGB(*_HEAVY)
        canvas.setLineWidth(0.8)
        canvas.line(_MARGIN, top - _HEAD + 3 * mm, sheet.width - _MARGIN, top - _HEAD + 3 * mm)

    def _rules(self) -> None:
        sheet, canvas = self.sheet, self.sheet.canvas
        last = min(self.end, sheet.scene.frames)
        right = sheet.width - _MARGIN
        for frame in range(self.first, last + 1):
            is_second = frame % sheet.scene.rate.nominal == 0
            is_foot = frame % FRAMES_PER_FOOT == 0
            canvas.setStrokeColorRGB(*(_HEAVY if is_second or is_foot else _RULE))
            canvas.setLineWidth(0.9 if is_second else 0.5 if is_foot else 0.25)
            canvas.line(_MARGIN, self.y(frame), right, self.y(frame))
        canvas.setStrokeColorRGB(*_RULE)
        canvas.setLineWidth(0.4)
        for lane in sheet.lanes[1:]:
            canvas.line(lane.left, self.top, lane.left, self.y(last))

    def _lane(self, lane: _Lane) -> None:
        canvas, size = self.sheet.canvas, self.sheet.text
        canvas.setFillColorRGB(*_TIN)
        words = lane.heading.rsplit(" ", 1) if width_of(lane.heading, 6.5) > lane.width - 2 else [lane.heading]
        for at, word in enumerate(reversed(words)):
            write_text(canvas, lane.left + 1.5, self.top + 2.5 + 7 * at, fitted(word, lane.width - 2, 6.5), 6.5)
        canvas.setFillColorRGB(*_INK)
        if lane.kind == "sound":
            self._wave(lane)
        elif lane.kind in ("frame", "code"):
            self._count(lane, size)
        elif lane.grid:
            for cell in lane.grid.cells:
                if cell.end > self.first and cell.start < self.end:
                    self._cell(lane, cell, size)

    def _count(self, lane: _Lane, size: float) -> None:
        scene, canvas = self.sheet.scene, self.sheet.canvas
        for frame in range(self.first, min(self.end, scene.frames)):
            if lane.kind == "frame":
                text = str(scene.first_frame + frame)
            elif self.sheet.values["code"] == "feet":
                text = feet_and_frames(frame)
            else:
                text = timecode(frame, scene.rate, drop=scene.drop)
            is_second = frame % scene.rate.nominal == 0
            canvas.setFillColorRGB(*(_INK if is_second or lane.kind == "frame" else _TIN))
            write_text(canvas, lane.left + lane.width - 2, self.base(frame), text, size, bold=is_second, anchor="end")

    def base(self, frame: int) -> float:
        """The baseline of a frame's text."""
        return float(self.y(frame) - self.sheet.row / 2 - self.sheet.text * 0.35)

    def _cell(self, lane: _Lane, cell: Cell, size: float) -> None:
        canvas = self.sheet.canvas
        start, end = max(cell.start, self.first), min(cell.end, self.end)
        if lane.kind == "notes":
            write_text(canvas, lane.left + 2, self.base(start), fitted(cell.text, lane.width - 4, size), size)
            return
        is_drawing = lane.kind in ("mouth", "part")
        left = lane.left + 2
        text = fitted(cell.text, lane.width * (0.5 if is_drawing else 1) - 3, size, bold=is_drawing)
        write_text(canvas, left, self.base(start), text, size, bold=is_drawing)
        canvas.setStrokeColorRGB(*_TIN)
        canvas.setLineWidth(0.7)
        x = left + min(2.5, size * 0.4)
        if end - start > 1:
            foot = self.y(end) + self.sheet.row * 0.18
            canvas.line(x, self.y(start + 1) + self.sheet.row * 0.1, x, foot)
            if cell.end <= self.end:
                canvas.line(x - 1.6, foot, x + 1.6, foot)
        if is_drawing and cell.hold and lane.grid and lane.grid.column:
            self._picture(lane, cell, start, end)

    def _picture(self, lane: _Lane, cell: Cell, start: int, end: int) -> None:
        assert lane.grid and lane.grid.column and cell.hold
        sprite = lane.grid.column.sprite(cell.hold)
        if sprite is None or cell.hold.drawing == NO_MOUTH:
            return
        picture = self.sheet.picture(lane.grid.column, (sprite.set, sprite.number))
        if picture is None:
            return
        image, aspect = picture
        high = min((end - start) * self.sheet.row - 0.8, 4 * self.sheet.row)
        wide = min(lane.width * 0.56, high * aspect)
        high = wide / aspect
        x = lane.left + lane.width - wide - 1
        self.sheet.canvas.drawImage(image, x, self.y(start) - 0.4 - high, wide, high, mask="auto")

    def _wave(self, lane: _Lane) -> None:
        levels = self.sheet.levels[self.first * _BINS : min(self.end, self.sheet.scene.frames) * _BINS]
        if not len(levels):
            return
        canvas, middle = self.sheet.canvas, lane.left + lane.width / 2
        half, step = (lane.width / 2 - 1.5), self.sheet.row / _BINS
        path = canvas.beginPath()
        path.moveTo(middle, self.top)
        for at, level in enumerate(levels):
            path.lineTo(middle + half * level, self.top - (at + 0.5) * step)
        path.lineTo(middle, self.top - len(levels) * step)
        for at in range(len(levels) - 1, -1, -1):
            path.lineTo(middle - half * levels[at], self.top - (at + 0.5) * step)
        path.close()
        canvas.setFillColorRGB(0.66, 0.69, 0.71)
        canvas.drawPath(path, stroke=0, fill=1)
        canvas.setFillColorRGB(*_INK)


class _Sheet:
    """The whole document on its paper."""

    def __init__(self, scene: Scene, values: Values, out: IO[bytes]) -> None:
        self.scene, self.values = scene, values
        self.width, self.height = _PAPERS[values["paper"]]
        self.canvas = Canvas(out, pagesize=(self.width, self.height), pageCompression=1, invariant=1)
        self.canvas.setTitle(f"{scene.production} {scene.name}".strip())
        self.rows = values["seconds"] * scene.rate.nominal
        self.pages = -(-scene.frames // self.rows)
        self.row = (self.height - 2 * _MARGIN - _HEAD - _HEADINGS) / self.rows
        self.text = max(3.2, min(7.5, self.row * 0.86))
        self.lanes = _lanes(scene, values, self.width - 2 * _MARGIN)
        self.levels = _levels(scene)
        self._pictures: dict[tuple[int, tuple[str, int]], tuple[ImageReader, float]] = {}
        self._rasters = Rasters()

    def pages_in_turn(self) -> Iterator[_Page]:
        for number in range(self.pages):
            yield _Page(self, number * self.rows, number + 1)

    def picture(self, column: Column, key: tuple[str, int]) -> tuple[ImageReader, float] | None:
        """A drawing's picture and its aspect ratio, cropped to the common box of its column; cached."""
        if not self.values["pictures"]:
            return None
        at = (id(column), key)
        if at not in self._pictures:
            for other, image in plates(column, _PICTURE, self._rasters).items():
                self._pictures[id(column), other] = ImageReader(image), image.width / image.height
        return self._pictures.get(at)


def _levels(scene: Scene) -> NDArray[np.float32]:
    """The loudness of each bin, 0 to 1, shape (frames * bins,); None without a sound."""
    if scene.sound is None:
        return np.zeros(0, np.float32)
    count = scene.frames * _BINS
    per_bin = scene.rate.first_us(scene.frames) * LISTENING_HZ / 1e6 / count
    peaks, at = np.zeros(count, np.float32), 0
    for block in part_blocks(scene.sound, 0, round(count * per_bin)):
        bins = np.minimum(((at + np.arange(len(block))) / per_bin).astype(np.int64), count - 1)
        np.maximum.at(peaks, bins, np.abs(block).max(axis=1))
        at += len(block)
    top = float(peaks.max(initial=0))
    return peaks / np.float32(top) if top else peaks


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    sheet = _Sheet(as_chosen(scene, values), values, out)
    for page in sheet.pages_in_turn():
        page.draw()
        progress(page.number / sheet.pages)
    sheet.canvas.save()


EXPORTER = Exporter(
    "sheet-pdf",
    "Exposure sheet on paper (PDF)",
    Purpose.PRINT,
    ".pdf",
    "application/pdf",
    _write,
    (_PAPER, _SECONDS, _CODE, SHOWN, _PICTURES, _MOVES, _EMPTY, _ANIMATOR, FIRST, RATE),
    "a row per frame: waveform, words, sounds, mouths with pictures and stems, notes, empty columns",
    takes_long=True,
)
