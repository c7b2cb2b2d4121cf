"""Text on PDF pages in any alphabet: pieces by font, shaped, right-to-left where the script runs so."""

from functools import cache
from pathlib import Path

from bidi import get_display
from reportlab import rl_config
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from tinfork.engines.fonts import runs

# Pictures and pages are written as bytes, not as text: smaller, and sooner.
rl_config.useA85 = 0

#: Scripts whose letters change with their neighbours, or stand in another order than they are written.
_SHAPED = frozenset(
    ["Arabic", "Devanagari", "Bengali", "Tamil", "Telugu", "Kannada", "Malayalam", "Gujarati", "Gurmukhi", "Oriya"]
) | frozenset(["Sinhala", "Thai", "Lao", "Khmer", "Myanmar"])


@cache
def _name(path: Path) -> str:
    """The font's name in the document; it is registered once in a process."""
    pdfmetrics.registerFont(TTFont(path.stem, str(path), shapable=True))
    return path.stem


def _is_shaped(path: Path) -> bool:
    return path.stem.removeprefix("NotoSans").removesuffix("-Regular") in _SHAPED


def width_of(text: str, size: float, *, bold: bool = False) -> float:
    """How wide a text is, in points."""
    return sum(pdfmetrics.stringWidth(piece, _name(path), size) for path, piece in runs(text, bold=bold))


def fitted(text: str, width: float, size: float, *, bold: bool = False) -> str:
    """As much of a text as fits, with an ellipsis where something is left out."""
    if width_of(text, size, bold=bold) <= width:
        return text
    while text and width_of(f"{text}…", size, bold=bold) > width:
        text = text[:-1]
    return f"{text.rstrip()}…" if text else ""


def write_text(
    canvas: Canvas, x: float, y: float, text: str, size: float, *, bold: bool = False, anchor: str = "start"
) -> None:
    """A text with its baseline at `y` points, from `x`, about it ("middle") or up to it ("end")."""
    if not text:
        return
    # Arabic takes its forms from its letters in the order they are written: only then is the order turned.
    shown = text if text.isascii() or _has_shaped(text) else str(get_display(text))
    x -= width_of(shown, size, bold=bold) * {"start": 0, "middle": 0.5, "end": 1}[anchor]
    for path, piece in runs(shown, bold=bold):
        name = _name(path)
        canvas.setFont(name, size)
        canvas.drawString(x, y, piece, shaping=_is_shaped(path), direction="RTL" if "Arabic" in name else None)
        x += pdfmetrics.stringWidth(piece, name, size)


def _has_shaped(text: str) -> bool:
    return any(_is_shaped(path) for path, _ in runs(text))
