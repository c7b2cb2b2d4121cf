"""The fonts for paper and burnt-in text: Debian's Noto, and one with East Asian characters."""

from functools import cache, lru_cache
from pathlib import Path

from reportlab.pdfbase.ttfonts import TTFontFile

from tinfork.core.errors import EngineError

_NOTO = Path("/usr/share/fonts/truetype/noto")
_EAST = Path("/usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf")
#: Scripts that Noto Sans itself lacks, as in the names of the font files.
_SCRIPTS = tuple(
    name
    for row in (
        "Arabic Hebrew Devanagari Bengali Tamil Telugu Kannada Malayalam Gujarati Gurmukhi Oriya Sinhala Thai Lao",
        "Khmer Myanmar Georgian Armenian Ethiopic Cherokee Symbols Symbols2 Math",
    )
    for name in row.split(" ")
)


def font_file(*, bold: bool = False) -> Path:
    """The file of Noto Sans, which has Latin, Greek, Cyrillic and phonetic characters.

    Raises
    ------
    EngineError
        Without it.
    """
    path = _NOTO / f"NotoSans-{'Bold' if bold else 'Regular'}.ttf"
    if not path.exists():
        raise EngineError("print.no_fonts")
    return path


@cache
def fallbacks() -> tuple[Path, ...]:
    """The installed fonts for scripts that Noto Sans lacks."""
    files = [_NOTO / f"NotoSans{script}-Regular.ttf" for script in _SCRIPTS]
    return tuple(path for path in (*files, _EAST) if path.exists())


@cache
def letters_of(path: Path) -> frozenset[int]:
    """The characters in a font."""
    return frozenset(TTFontFile(str(path)).charToGlyph)


@lru_cache(maxsize=20_000)
def runs(text: str, *, bold: bool = False) -> tuple[tuple[Path, str], ...]:
    """A text split into runs of one font each; characters in no font stay with the font before."""
    main = font_file(bold=bold)
    if text.isascii():
        return ((main, text),)
    out: list[tuple[Path, str]] = []
    for letter in text:
        font = _font_for(letter, main, out[-1][0] if out else main)
        if out and out[-1][0] == font:
            out[-1] = (font, out[-1][1] + letter)
        else:
            out.append((font, letter))
    return tuple(out)


def _font_for(letter: str, main: Path, before: Path) -> Path:
    for path in (main, before, *fallbacks()):
        if ord(letter) in letters_of(path):
            return path
    return before
