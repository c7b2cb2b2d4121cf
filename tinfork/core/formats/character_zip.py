"""A character as one archive: `character.json` and its pictures in a ZIP; open, and lossless for the cast.

    {"format": "tin-fork-character", "version": 1, "name": ..., "ink": 1-6, "face": {"file", "aspect"} or null,
     "parts": [{"kind", "name", "place": {"x", "y", "width", "angle"},
                "sets": [{"name", "face": {"file", "aspect", "places": {part: place or null}} (where it has its own),
                          "drawings": [{"number", "name", "key", "shows", "size", "hidden", "file",
                                        "canvas", "point": [x, y], "offset": [dx, dy]}]}]}]}

Places are shares of the face picture, points and offsets pixels of the drawing, `canvas` how many of them
the usual canvas is wide. Pictures are PNG or SVG.
"""

import io
import json
import re
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any, NoReturn, Protocol

from tinfork.core.errors import ChartError, FormatError
from tinfork.core.mouths.chart import MAX_DRAWINGS, MAX_PARTS, MAX_SETS, Drawing
from tinfork.core.mouths.placement import Placement

NAME = "tin-fork-character"
VERSION = 1
#: What an archive may unpack to.
MAX_BYTES = 256 * 1024 * 1024
MAX_ENTRIES = 4000
KINDS = ("mouth", "eyes", "brows", "other")
_MANIFEST = "character.json"
#: What a face picture may be.
_FACES = (".png", ".svg", ".jpg", ".webp")
_DATE = (2026, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture file: its bytes, as they are, and its suffix (".png" or ".svg", faces ".jpg" and ".webp" too)."""

    data: bytes
    suffix: str


class AnyPicture(Protocol):
    """A picture file that may be read only when its bytes are asked for."""

    @property
    def data(self) -> bytes:
        """Its bytes, as they are."""

    @property
    def suffix(self) -> str:
        """Its suffix."""


@dataclass(frozen=True, slots=True)
class PackedDrawing:
    """A drawing with everything a chart knows of it."""

    drawing: Drawing
    key: str
    hidden: bool
    canvas: float
    point: tuple[float, float]
    offset: tuple[float, float]
    picture: AnyPicture


@dataclass(frozen=True, slots=True)
class PackedFace:
    """The face picture that a set of mouths brings with it, its width by its height, and where parts, by name, are on
    it; None for one that is not seen.
    """

    picture: AnyPicture
    aspect: float
    places: Mapping[str, Placement | None]


@dataclass(frozen=True, slots=True)
class PackedSet:
    """A chart: one mood of a part, with a face of its own where it has one."""

    name: str
    drawings: tuple[PackedDrawing, ...]
    face: PackedFace | None = None


@dataclass(frozen=True, slots=True)
class PackedPart:
    """A part of the face with its place and its charts."""

    kind: str
    name: str
    place: Placement
    sets: tuple[PackedSet, ...]


@dataclass(frozen=True, slots=True)
class PackedCharacter:
    """A character outside any studio."""

    name: str
    ink: int
    face: AnyPicture | None
    aspect: float
    parts: tuple[PackedPart, ...]


def write(character: PackedCharacter) -> bytes:
    """The archive; the same character gives the same bytes."""
    out = io.BytesIO()
    write_to(out, character)
    return out.getvalue()


def write_to(out: IO[bytes], character: PackedCharacter) -> None:
    """Write the archive to a file, one picture in memory at a time."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        files: dict[str, AnyPicture] = {}
        manifest = _manifest(character, files)
        archive.writestr(zipfile.ZipInfo(_MANIFEST, _DATE), json.dumps(manifest, indent=1, ensure_ascii=False))
        for name, picture in files.items():
            # PNG and JPEG do not shrink further.
            how = zipfile.ZIP_DEFLATED if picture.suffix == ".svg" else zipfile.ZIP_STORED
            archive.writestr(zipfile.ZipInfo(name, _DATE), picture.data, how)


def _manifest(character: PackedCharacter, files: dict[str, AnyPicture]) -> dict[str, Any]:
    face = None
    if character.face:
        files[f"face{character.face.suffix}"] = character.face
        face = {"file": f"face{character.face.suffix}", "aspect": character.aspect}
    parts = []
    for p, part in enumerate(character.parts, start=1):
        sets = []
        for s, one in enumerate(part.sets, start=1):
            folder = f"{p:02d}-{_plain(part.name)}/{s:02d}-{_plain(one.name)}"
            row: dict[str, Any] = {"name": one.name, "drawings": _rows(one, folder, files)}
            if one.face:
                file = f"{folder}/face{one.face.picture.suffix}"
                files[file] = one.face.picture
                places = {name: place and place_to_dict(place) for name, place in one.face.places.items()}
                row["face"] = {"file": file, "aspect": one.face.aspect, "places": places}
            sets.append(row)
        parts.append({"kind": part.kind, "name": part.name, "place": place_to_dict(part.place), "sets": sets})
    return {
        "format": NAME,
        "version": VERSION,
        "name": character.name,
        "ink": character.ink,
        "face": face,
        "parts": parts,
    }


def place_to_dict(place: Placement) -> dict[str, float]:
    """A place as plain values."""
    return {"x": place.x, "y": place.y, "width": place.width, "angle": place.angle}


def place_from_dict(at: Mapping[str, Any], aspect: float) -> Placement:
    """A place on a face picture of an aspect. Raises `KeyError`, `TypeError`, `ValueError` for what is none,
    `ChartError` for one that is outside.
    """
    return Placement(float(at["x"]), float(at["y"]), float(at["width"]), aspect, float(at["angle"]))


def _rows(one: PackedSet, folder: str, files: dict[str, AnyPicture]) -> list[dict[str, Any]]:
    rows = []
    for packed in one.drawings:
        d = packed.drawing
        file = f"{folder}/{d.number:03d}-{_plain(d.name)}{packed.picture.suffix}"
        files[file] = packed.picture
        rows.append(
            {
                "number": d.number,
                "name": d.name,
                "key": packed.key,
                "shows": list(d.shows),
                "size": d.size,
                "hidden": packed.hidden,
                "file": file,
                "canvas": packed.canvas,
                "point": list(packed.point),
                "offset": list(packed.offset),
            }
        )
    return rows


def _plain(name: str) -> str:
    """A name as part of a file name, in any alphabet."""
    return re.sub(r"[^\w]+", "-", name).strip("-")[:40] or "drawing"


def read(source: bytes | Path) -> PackedCharacter:
    """What `write` wrote, as bytes or as a file, checked; raises `FormatError` for anything else. Pictures are not
    looked into here.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(source) if isinstance(source, bytes) else source) as archive:
            files = _unpack(archive)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError, zipfile.zlib.error):  # type: ignore[attr-defined]
        _fail("it is not a whole ZIP archive")
    if _MANIFEST not in files:
        _fail(f"it has no “{_MANIFEST}” in it")
    try:
        manifest = json.loads(files.pop(_MANIFEST).decode(), parse_constant=_no_number)
    except (ValueError, RecursionError):
        _fail(f"its “{_MANIFEST}” is not JSON")
    if not isinstance(manifest, dict) or manifest.get("format") != NAME:
        _fail("it is not a character")
    if manifest.get("version") != VERSION:
        _fail("it was written by a newer version")
    try:
        return _character(manifest, files)
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError):
        _fail("its description is damaged")
    except ChartError as error:
        _fail(str(error))


def _no_number(name: str) -> NoReturn:
    """NaN and the infinities are no JSON (RFC 8259)."""
    raise ValueError(name)


def _fail(why: str) -> NoReturn:
    raise FormatError(f"This archive cannot be imported: {why}. Export the character again.")


def _unpack(archive: zipfile.ZipFile) -> dict[str, bytes]:
    infos = archive.infolist()
    if len(infos) > MAX_ENTRIES or sum(info.file_size for info in infos) > MAX_BYTES:
        _fail(f"it is larger than {MAX_BYTES // 2**20} MB or has more than {MAX_ENTRIES} files")
    out: dict[str, bytes] = {}
    left = MAX_BYTES
    for info in infos:
        # A header may lie about its size: what is unpacked is counted.
        with archive.open(info) as file:
            content = file.read(left + 1)
        left -= len(content)
        if left < 0:
            _fail(f"it is larger than {MAX_BYTES // 2**20} MB")
        out[info.filename] = content
    return out


def _character(m: dict[str, Any], files: dict[str, bytes]) -> PackedCharacter:
    face, aspect = None, 16 / 9
    if m["face"]:
        face, aspect = _picture(m["face"]["file"], files, _FACES), float(m["face"]["aspect"])
    ink = int(m["ink"])
    if not 1 <= ink <= 6:
        raise ValueError(ink)
    parts = tuple(_part(p, aspect, files) for p in m["parts"])
    if sum(part.kind == "mouth" for part in parts) != 1:
        _fail("it does not have one mouth")
    if len(parts) > MAX_PARTS:
        _fail(f"it has {len(parts)} parts, and a character has {MAX_PARTS} at most")
    if len({part.name for part in parts}) < len(parts):
        raise ValueError("parts")
    return PackedCharacter(_text(m["name"]), ink, face, aspect, parts)


def _part(p: dict[str, Any], aspect: float, files: dict[str, bytes]) -> PackedPart:
    if p["kind"] not in KINDS:
        raise ValueError(p["kind"])
    place = place_from_dict(p["place"], aspect)
    if len(p["sets"]) > MAX_SETS:
        _fail(f"a part of it has {len(p['sets'])} sets, and a part has {MAX_SETS} at most")
    sets = tuple(_set(s, files) for s in p["sets"])
    if not sets or len({s.name for s in sets}) < len(sets):
        raise ValueError("sets")
    return PackedPart(p["kind"], _text(p["name"]), place, sets)


def _set(s: dict[str, Any], files: dict[str, bytes]) -> PackedSet:
    drawings = tuple(_drawing(d, files) for d in s["drawings"])
    if len(drawings) > MAX_DRAWINGS or len({d.drawing.number for d in drawings}) < len(drawings):
        raise ValueError("drawings")
    return PackedSet(_text(s["name"]), drawings, _set_face(s["face"], files) if s.get("face") else None)


def _set_face(f: dict[str, Any], files: dict[str, bytes]) -> PackedFace:
    aspect = float(f["aspect"])
    places = {_text(name): at and place_from_dict(at, aspect) for name, at in f["places"].items()}
    if len(places) > MAX_PARTS:
        raise ValueError("places")
    return PackedFace(_picture(f["file"], files, _FACES), aspect, places)


def _drawing(d: dict[str, Any], files: dict[str, bytes]) -> PackedDrawing:
    drawing = Drawing(int(d["number"]), _text(d["name"]), tuple(str(c) for c in d["shows"]), int(d["size"]))
    if drawing.number > 9999:
        raise ValueError(drawing.number)
    canvas = float(d["canvas"])
    if not 1 <= canvas <= 100_000:
        raise ValueError(canvas)
    return PackedDrawing(
        drawing,
        str(d["key"])[:1],
        bool(d["hidden"]),
        canvas,
        _pair(d["point"]),
        _pair(d["offset"]),
        _picture(d["file"], files, (".png", ".svg")),
    )


def _pair(values: list[Any]) -> tuple[float, float]:
    x, y = (float(v) for v in values)
    if not (abs(x) < 1e6 and abs(y) < 1e6):
        raise ValueError(values)
    return x, y


def _text(value: Any) -> str:
    text = "".join(c for c in value if c.isprintable()).strip()
    if not text or len(text) > 80:
        raise ValueError(value)
    return text


def _picture(name: str, files: dict[str, bytes], suffixes: tuple[str, ...]) -> Picture:
    suffix = "." + name.rpartition(".")[2].lower()
    if suffix not in suffixes:
        raise ValueError(name)
    if name not in files:
        _fail(f"“{name[:80]}” is missing in it")
    return Picture(files[name], suffix)
