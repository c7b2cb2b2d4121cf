"""Text on PDF pages in any script: split by font, shaped, and reordered for right-to-left scripts."""

from functools import cache
from pathlib import Path

from bidi import get_display
from reportlab import rl_config
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from tinfork.engines.fonts import runs

# Write binary streams instead of ASCII: smaller and faster.
rl_config.useA85 = 0

#: Scripts whose letters change with their neighbours, or are displayed in another order than stored.
_SHAPED = frozenset(
    ["Arabic", "Devanagari", "Bengali", "Tamil", "Telugu", "Kannada", "Malayalam", "Gujarati", "Gurmukhi", "Oriya"]
) | frozenset(["Sinhala", "Thai", "Lao", "Khmer", "Myanmar"])


@cache
def _name(path: Path) -> str:
    """The font's name in the document; fonts are registered once a process."""
    pdfmetrics.registerFont(TTFont(path.stem, str(path), shapable=True))
    return path.stem


def _is_shaped(path: Path) -> bool:
    return path.stem.removeprefix("NotoSans").removesuffix("-Regular") in _SHAPED


def width_of(text: str, size: float, *, bold: bool = False) -> float:
    """The width of a text in points."""
    return sum(pdfmetrics.stringWidth(piece, _name(path), size) for path, piece in runs(text, bold=bold))


def fitted(text: str, width: float, size: float, *, bold: bool = False) -> str:
    """As much of a text as fits, with an ellipsis if it is cut."""
    if width_of(text, size, bold=bold) <= width:
        return text
    while text and width_of(f"{text}…", size, bold=bold) > width:
        text = text[:-1]
    return f"{text.rstrip()}…" if text else ""


def write_text(
    canvas: Canvas, x: float, y: float, text: str, size: float, *, bold: bool = False, anchor: str = "start"
) -> None:
    """Draw a text with its baseline at `y` points: from `x` on, centred on it ("middle") or up to it ("end")."""
    if not text:
        return
    # Arabic is shaped in the stored order of its letters first, and reversed afterwards.
    shown = text if text.isascii() or _has_shaped(text) else str(get_display(text))
    x -= width_of(shown, size, bold=bold) * {"start": 0, "middle": 0.5, "end": 1}[anchor]
    for path, piece in runs(shown, bold=bold):
        name = _name(path)
        canvas.setFont(name, size)
        canvas.drawString(x, y, piece, shaping=_is_shaped(path), direction="RTL" if "Arabic" in name else None)
        x += pdfmetrics.stringWidth(piece, name, size)


def _has_shaped(text: str) -> bool:
    return any(_is_shaped(path) for path, _ in runs(text))
