"""Uploaded faces and whole characters, made safe."""

import hashlib
import io
import re
import tempfile
import warnings
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from PIL import Image

from tinfork.core.errors import FormatError
from tinfork.core.formats import character_zip, set_zip
from tinfork.core.formats.character_zip import PackedCharacter
from tinfork.core.formats.picture_zip import AnyPicture, Picture
from tinfork.core.formats.set_zip import PackedSet
from tinfork.engines.drawings import FORMATS, Prepared, Report, check_size, layers, pixels_of, prepare
from tinfork.engines.limits import MAX_FACE_BYTES
from tinfork.engines.raster import png_from_svg
from tinfork.engines.svg import clean_svg


def open_face(path: Path, name: str) -> tuple[bytes, str, float]:
    """`prepare_face` of a file.

    Raises
    ------
    FormatError
        For a file that is too large, or no picture.
    """
    if path.stat().st_size > MAX_FACE_BYTES:
        raise FormatError("face.too_large", name=name, max_face_bytes=MAX_FACE_BYTES // 2**20)
    return prepare_face(path.read_bytes(), name)


def prepare_face(data: bytes, name: str) -> tuple[bytes, str, float]:
    """Make a face picture safe, of any format that drawings may have: its bytes, its suffix, and its aspect ratio.

    Raises
    ------
    FormatError
        For what is no picture.
    """
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if b"<svg" in head or head.startswith((b"<?xml", b"<svg")):
        text, width, height = clean_svg(data, name)
        png_from_svg(text, 64)
        return text.encode(), ".svg", width / height
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = (
                _merged(data, name) if head.startswith(b"PK\x03\x04") else Image.open(io.BytesIO(data), formats=FORMATS)
            )
        check_size(image.width, image.height, name)
        pixels = Image.fromarray(pixels_of(image))
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError):
        raise FormatError("face.not_a_picture", name=name) from None
    if (kept := _as_we_write(data, image)) is not None:
        return data, kept, image.width / image.height
    # Never larger than any frame that shows it.
    pixels.thumbnail((_MOST_PIXELS, _MOST_PIXELS), Image.Resampling.LANCZOS, reducing_gap=2.0)
    out = io.BytesIO()
    if pixels.getchannel("A").getextrema()[0] == 255:
        pixels.convert("RGB").save(out, "JPEG", quality=92)
        return out.getvalue(), ".jpg", pixels.width / pixels.height
    pixels.save(out, "PNG", compress_level=3)
    return out.getvalue(), ".png", pixels.width / pixels.height


def _merged(data: bytes, name: str) -> Image.Image:
    """The layers of an OpenRaster archive, composited."""
    first, *others = (Image.fromarray(pixels) for _, pixels in layers(io.BytesIO(data), name))
    for layer in others:
        first.alpha_composite(layer)
    return first


#: The largest side of a face picture or a background.
_MOST_PIXELS = 4096
#: The only chunks of a PNG and segments of a JPEG in our pictures: nothing is hidden beside the pixels.
_PNG_PARTS = {b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND"}
_JPEG_PARTS = {0xDB, 0xC0, 0xC2, 0xC4, 0xDD, 0xE0}


def _as_we_write(data: bytes, image: Image.Image) -> str | None:
    """The suffix of a picture that this module has written, None for any other.

    Such a picture does not change by a byte, however often it is exported and imported.
    """
    if max(image.size) > _MOST_PIXELS or image.getexif():
        return None
    if image.format == "PNG" and image.mode == "RGBA" and _png_parts(data) <= _PNG_PARTS:
        opaque = image.getchannel("A").getextrema() == (255, 255)
        return None if opaque else ".png"
    if image.format == "JPEG" and image.mode == "RGB" and _is_plain_jpeg(data):
        return ".jpg"
    return None


def _png_parts(data: bytes) -> set[bytes]:
    """The types of chunks in a PNG; with b"" if data follows the last one."""
    found, at = set[bytes](), 8
    while at + 12 <= len(data):
        kind = data[at + 4 : at + 8]
        found.add(kind)
        at += 12 + int.from_bytes(data[at : at + 4], "big")
        if kind == b"IEND":
            break
    return found if at == len(data) else {*found, b""}


def _is_plain_jpeg(data: bytes) -> bool:
    """Whether a JPEG has only its tables and one scan, up to its last byte (ITU-T T.81, annex B)."""
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        if data[at + 1] == 0xDA:
            # In the scan 0xFF is followed by 0, or by a restart; the end comes last.
            mark = re.compile(rb"\xff[^\x00\xd0-\xd7]").search(data, at + 2)
            return mark is not None and mark.group() == b"\xff\xd9" and mark.end() == len(data)
        if data[at + 1] not in _JPEG_PARTS:
            return False
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return False


#: A face picture made safe: its bytes, its suffix, its aspect ratio.
PreparedFace = tuple[bytes, str, float]


@dataclass(frozen=True)
class PreparedSet:
    """A set with every picture made safe.

    Its drawings in order, the tracings of each, and the bytes, suffix and aspect of its own face, if any.

    `packed` has no original pictures; `kind` is that of its part.
    """

    packed: PackedSet
    kind: str
    face: PreparedFace | None
    drawings: list[Prepared]
    tracings: list[list[Prepared]]
    face_tracings: list[PreparedFace] = field(default_factory=list)


@dataclass(frozen=True)
class PreparedCharacter:
    """A character's archive with every picture made safe.

    The face's bytes, suffix and aspect, and its sets, part by part.

    `packed` has no original pictures.
    """

    packed: PackedCharacter
    face: PreparedFace | None
    sets: list[PreparedSet]
    face_tracings: list[PreparedFace] = field(default_factory=list)

    @property
    def drawings(self) -> list[Prepared]:
        """All drawings, set by set."""
        return [drawing for one in self.sets for drawing in one.drawings]


def prepare_character(path: Path, progress: Report) -> PreparedCharacter:
    """Read an archive and prepare its pictures as if each had been uploaded alone.

    Raises
    ------
    FormatError
    """
    packed = character_zip.read(path)
    face = _prepared_face(packed.face) if packed.face else None
    traced = [_prepared_face(tracing) for tracing in packed.face_tracings]
    sets = [(one, part.kind) for part in packed.parts for one in part.sets]
    parts = tuple(replace(part, sets=tuple(map(_without_pictures, part.sets))) for part in packed.parts)
    plain = replace(packed, face=None, face_tracings=(), parts=parts)
    return PreparedCharacter(plain, face, _prepare_sets(sets, progress), traced)


def prepare_set(path: Path, progress: Report) -> PreparedSet:
    """`prepare_character`, for the archive of a set alone."""
    return _prepare_sets([set_zip.read(path)], progress)[0]


def _prepare_sets(sets: Sequence[tuple[PackedSet, str]], progress: Report) -> list[PreparedSet]:
    # A picture used by many drawings is opened once.
    known: dict[str, Prepared] = {}
    done, count = 0, sum(len(one.drawings) for one, _ in sets)
    out = []
    with tempfile.TemporaryDirectory() as folder:

        def prepared(picture: AnyPicture, name: str) -> Prepared:
            digest = hashlib.sha256(picture.data).hexdigest()
            if digest not in known:
                file = Path(folder) / "picture"
                file.write_bytes(picture.data)
                known[digest] = prepare(file, f"{name}{picture.suffix}")[0]
            return known[digest]

        for one, kind in sets:
            face = _prepared_face(one.face.picture) if one.face else None
            traced_faces = [_prepared_face(tracing) for tracing in one.face.tracings] if one.face else []
            drawings, tracings = [], []
            for row in one.drawings:
                name = f"{row.drawing.number} {row.drawing.name}"
                drawings.append(prepared(row.picture, name))
                tracings.append([prepared(tracing, name) for tracing in row.tracings])
                done += 1
                progress("prepare", done / count)
            out.append(PreparedSet(_without_pictures(one), kind, face, drawings, tracings, traced_faces))
    return out


def _prepared_face(picture: AnyPicture) -> PreparedFace:
    return prepare_face(picture.data, f"face{picture.suffix}")


def _without_pictures(one: PackedSet) -> PackedSet:
    drawings = tuple(replace(d, picture=Picture(b"", d.picture.suffix), tracings=()) for d in one.drawings)
    face = one.face and replace(one.face, picture=Picture(b"", one.face.picture.suffix), tracings=())
    return replace(one, drawings=drawings, face=face)
