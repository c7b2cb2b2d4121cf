"""Faces and whole characters that people bring, made safe."""

import io
import tempfile
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PIL import Image

from tinfork.core.errors import FormatError
from tinfork.core.formats import character_zip
from tinfork.core.formats.character_zip import PackedCharacter, PackedDrawing
from tinfork.engines.drawings import Prepared, pixels_of, prepare, too_large
from tinfork.engines.limits import MAX_PICTURE_BYTES, MAX_PICTURE_PIXELS
from tinfork.engines.raster import png_from_svg
from tinfork.engines.svg import clean_svg


def prepare_face(data: bytes, name: str) -> tuple[bytes, str, float]:
    """A face picture made safe: its bytes, its suffix, and its width by its height."""
    if len(data) > MAX_PICTURE_BYTES:
        raise FormatError(f"“{name}” is larger than {MAX_PICTURE_BYTES // 2**20} MB. Save it smaller.")
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if b"<svg" in head or head.startswith((b"<?xml", b"<svg")):
        text, width, height = clean_svg(data, name)
        png_from_svg(text, 64)
        return text.encode(), ".svg", width / height
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=("PNG", "WEBP", "JPEG"))
        if image.width * image.height > MAX_PICTURE_PIXELS:
            raise FormatError(too_large(name, f"{image.width} x {image.height} pixels, "))
        pixels = Image.fromarray(pixels_of(image))
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError):
        raise FormatError(f"“{name}” is not a picture that can be read. Use PNG, JPEG, WebP or SVG.") from None
    # Larger than any frame it is shown in is waste.
    pixels.thumbnail((4096, 4096), Image.Resampling.LANCZOS, reducing_gap=2.0)
    out = io.BytesIO()
    if pixels.getchannel("A").getextrema()[0] == 255:
        pixels.convert("RGB").save(out, "JPEG", quality=92)
        return out.getvalue(), ".jpg", pixels.width / pixels.height
    pixels.save(out, "PNG", compress_level=3)
    return out.getvalue(), ".png", pixels.width / pixels.height


@dataclass(frozen=True)
class PreparedCharacter:
    """A character's archive with every picture made safe: the face's bytes, suffix and aspect, and each drawing."""

    packed: PackedCharacter
    face: tuple[bytes, str, float] | None
    drawings: dict[PackedDrawing, Prepared]


def prepare_character(path: Path, progress: Callable[[str, float], None]) -> PreparedCharacter:
    """Read an archive and prepare its pictures as if each had been brought alone; raises `FormatError`."""
    packed = character_zip.read(path.read_bytes())
    face = prepare_face(packed.face.data, f"face{packed.face.suffix}") if packed.face else None
    rows = [row for part in packed.parts for one in part.sets for row in one.drawings]
    out: dict[PackedDrawing, Prepared] = {}
    with tempfile.TemporaryDirectory() as folder:
        for done, row in enumerate(rows, start=1):
            name = f"{row.drawing.number} {row.drawing.name}{row.picture.suffix}"
            file = Path(folder) / "picture"
            file.write_bytes(row.picture.data)
            out[row] = prepare(file, name)[0]
            progress("prepare", done / len(rows))
    return PreparedCharacter(packed, face, out)
