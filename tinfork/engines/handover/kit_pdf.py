"""The list of replacement mouths on paper: which mouths, how many copies, and the effect of fewer."""

from typing import IO

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tinfork.core.scene.choices import WHO, figures_of
from tinfork.core.scene.exporting import Exporter, Progress, Purpose, Values
from tinfork.core.scene.scene import Figure, Scene, Sprite
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.kit import with_fewer
from tinfork.core.solver.numbers import Use, numbers_of
from tinfork.engines.handover.rasters import raster
from tinfork.engines.handover.typesetting import fitted, write_text

_COUNTS = (6, 8, 10, 12, 14, 16, 20)
_MARGIN, _ROW, _PICTURE = 16 * mm, 13 * mm, 240
_TIN, _INK = (0.42, 0.45, 0.48), (0.14, 0.16, 0.18)
_COLUMNS = ((0, "drawing"), (52, "name"), (118, "pieces"), (138, "holds"), (158, "frames"))


class _Writer:
    """Writes rows from the top of a page to its foot, then on the next one."""

    def __init__(self, canvas: Canvas, title: str) -> None:
        self.canvas, self.title, self.y = canvas, title, 0.0
        self._new_page(is_first=True)

    def _new_page(self, *, is_first: bool = False) -> None:
        if not is_first:
            self.canvas.showPage()
        self.y = A4[1] - _MARGIN
        self.canvas.setFillColorRGB(*_INK)
        title = fitted(self.title, A4[0] - 2 * _MARGIN, 13, bold=True)
        write_text(self.canvas, _MARGIN, self.y - 4 * mm, title, 13, bold=True)
        self.y -= 12 * mm

    def row(self, height: float) -> float:
        """The baseline of the next row, on a new page if the page is full."""
        if self.y - height < _MARGIN:
            self._new_page()
        self.y -= height
        return self.y + height * 0.35

    def text(
        self, x_mm: float, y: float, text: str, size: float = 9, *, bold: bool = False, quiet: bool = False
    ) -> None:
        """Write a text at a distance in millimetres from the left margin."""
        self.canvas.setFillColorRGB(*(_TIN if quiet else _INK))
        write_text(self.canvas, _MARGIN + x_mm * mm, y, text, size, bold=bold)


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    canvas = Canvas(out, pagesize=A4, pageCompression=1, invariant=1)
    canvas.setTitle(f"Kit list {scene.name}")
    writer = _Writer(canvas, f"Kit list · {scene.production} · {scene.name}".replace("·  ·", "·"))
    figures = figures_of(scene, values)
    for at, figure in enumerate(figures):
        _figure(writer, scene, figure)
        progress((at + 1) / len(figures))
    canvas.showPage()
    canvas.save()


def _figure(writer: _Writer, scene: Scene, figure: Figure) -> None:
    numbers = numbers_of(HoldColumns.of(figure.mouth.holds), scene.rate)
    writer.text(0, writer.row(10 * mm), f"{figure.name}: {numbers.pieces} mouths to make", 12, bold=True)
    y = writer.row(6 * mm)
    for x, label in _COLUMNS:
        writer.text(x, y, label, 7.5, quiet=True)
    for use in numbers.uses:
        sprite = figure.mouth.sprites.get((use.set, use.drawing))
        if sprite:
            _use(writer, use, sprite)
    if figure.chart is None:
        return
    writer.text(0, writer.row(12 * mm), "With fewer mouths", 10, bold=True)
    speaks = scene.reading, figure.chart, scene.rate, figure.name, figure.dials
    rows = list(with_fewer(*speaks, [count for count in _COUNTS if count < len(figure.chart.speaking)]))
    for fewer in rows:
        kept = ", ".join(map(str, fewer.numbers))
        text = f"{len(fewer.numbers)} mouths: {fewer.share_off:.0%} of the frames show another shape. Keep {kept}."
        writer.text(0, writer.row(6 * mm), text, 9)
    if not rows:
        writer.text(0, writer.row(6 * mm), f"The chart has {len(figure.chart.speaking)} drawings that speak.", 9)


def _use(writer: _Writer, use: Use, sprite: Sprite) -> None:
    y = writer.row(_ROW)
    at = sprite.registration
    image = raster(sprite.picture, (_PICTURE, max(1, round(_PICTURE * at.height / at.width))))
    box = image.getchannel("A").getbbox()
    if box:
        image = image.crop(box)
        high = min(_ROW - 2 * mm, 30 * mm * image.height / image.width)
        wide = high * image.width / image.height
        writer.canvas.drawImage(ImageReader(image), _MARGIN + 14 * mm, writer.y + mm, wide, high, mask="auto")
    writer.text(0, y, str(use.drawing), 12, bold=True)
    writer.text(52, y, fitted(" ".join(filter(None, (use.set, sprite.name))), 62 * mm, 9))
    for x, count in ((118, use.pieces), (138, use.holds), (158, use.frames)):
        writer.text(x, y, str(count), 9)
    writer.canvas.setStrokeColorRGB(0.8, 0.78, 0.74)
    writer.canvas.line(_MARGIN, writer.y, A4[0] - _MARGIN, writer.y)


EXPORTER = Exporter(
    "kit-pdf",
    "Kit list of replacement mouths (PDF)",
    Purpose.SHOOT,
    ".kit.pdf",
    "application/pdf",
    _write,
    (WHO,),
    "which mouths, how many of each, and the cost of using fewer",
    takes_long=True,
)
