"""The fonts that paper and burnt-in words are set in: Debian's Noto, and one with the letters of East Asia."""

from collections.abc import Iterator
from functools import cache
from pathlib import Path

from reportlab.pdfbase.ttfonts import TTFontFile

from tinfork.core.errors import EngineError

_NOTO = Path("/usr/share/fonts/truetype/noto")
_EAST = Path("/usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf")
#: Scripts that Noto Sans itself does not have, by the names of their files.
_SCRIPTS = tuple(
    name
    for row in (
        "Arabic Hebrew Devanagari Bengali Tamil Telugu Kannada Malayalam Gujarati Gurmukhi Oriya Sinhala Thai Lao",
        "Khmer Myanmar Georgian Armenian Ethiopic Cherokee Symbols Symbols2 Math",
    )
    for name in row.split(" ")
)


def font_file(*, bold: bool = False) -> Path:
    """Noto Sans, which has Latin, Greek, Cyrillic and the letters of phonetics; raises `EngineError` without it."""
    path = _NOTO / f"NotoSans-{'Bold' if bold else 'Regular'}.ttf"
    if not path.exists():
        raise EngineError("The fonts for print are missing; install Debian's package fonts-noto-core.")
    return path


@cache
def fallbacks() -> tuple[Path, ...]:
    """Fonts for what Noto Sans does not have, those that are installed."""
    files = [_NOTO / f"NotoSans{script}-Regular.ttf" for script in _SCRIPTS]
    return tuple(path for path in (*files, _EAST) if path.exists())


@cache
def letters_of(path: Path) -> frozenset[int]:
    """The letters that a font has."""
    return frozenset(TTFontFile(str(path)).charToGlyph)


def runs(text: str, *, bold: bool = False) -> Iterator[tuple[Path, str]]:
    """A text in pieces of one font each; what no font has stays with the font before."""
    main = font_file(bold=bold)
    font, piece = main, ""
    for letter in text:
        wanted = font
        if ord(letter) in letters_of(main):
            wanted = main
        elif ord(letter) not in letters_of(font):
            wanted = next((path for path in fallbacks() if ord(letter) in letters_of(path)), font)
        if wanted != font and piece:
            yield font, piece
            piece = ""
        font, piece = wanted, piece + letter
    if piece:
        yield font, piece
