"""A set of drawings as one archive: `set.json` and its pictures in a ZIP.

    {"format": "tin-fork-set", "version": 1, "kind": "mouth", "eyes" ..., "name": ...,
     "face": {"file", "aspect", "places": {part: place or null}, "tracings"} (where it has its own),
     "drawings": [{"number", "name", "key", "shows", "size", "hidden", "file",
                   "canvas", "point": [x, y], "offset": [dx, dy], "tracings": [files] (where it has some)}]}

Places are shares of the face picture, points and offsets pixels of the drawing, `canvas` how many of them
the usual canvas is wide. Pictures are PNG or SVG. A character's archive has its sets in the same words.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from tinfork.core.errors import ChartError, FormatError
from tinfork.core.formats import picture_zip
from tinfork.core.formats.picture_zip import FACES, AnyPicture, fail, picture_of, plain, text_of
from tinfork.core.formats.versions import SET
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_DRAWINGS, MAX_PARTS, MAX_TRACINGS, Drawing
from tinfork.core.mouths.placement import Placement

KINDS = ("mouth", "eyes", "pupils", "brows", "other")
_MANIFEST = "set.json"


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
    tracings: tuple[AnyPicture, ...] = ()


@dataclass(frozen=True, slots=True)
class PackedFace:
    """The face picture that a set of mouths brings with it.

    Also its width by its height, and where parts, by name, are on it; None for one that is not seen.
    """

    picture: AnyPicture
    aspect: float
    places: Mapping[str, Placement | None]
    tracings: tuple[AnyPicture, ...] = ()


@dataclass(frozen=True, slots=True)
class PackedSet:
    """A chart: one mood of a part, with a face of its own where it has one."""

    name: str
    drawings: tuple[PackedDrawing, ...]
    face: PackedFace | None = None


def write_to(out: IO[bytes], one: PackedSet, kind: str) -> None:
    """Write the archive of a set of a kind of part to a file."""
    files: dict[str, AnyPicture] = {}
    manifest = {"format": SET.name, "version": SET.version, "kind": kind, **set_to_dict(one, "drawings", files)}
    picture_zip.write_to(out, _MANIFEST, manifest, files)


def read(source: bytes | Path) -> tuple[PackedSet, str]:
    """Read and check what `write_to` wrote, from bytes or a file; the set, and the kind of part it is of.

    Pictures are not decoded here.

    Raises
    ------
    FormatError
        For anything else.
    ValueError
        For a kind of part that there is not.
    """
    manifest, files = picture_zip.read(source, _MANIFEST, SET, Message("archive.a_set"))
    try:
        if manifest["kind"] not in KINDS:
            raise ValueError(manifest["kind"])
        return set_from_dict(manifest, files), manifest["kind"]
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError):
        fail(Message("archive.damaged"))
    except ChartError as error:
        raise FormatError("archive.contradiction", error=error.message) from error


def set_to_dict(one: PackedSet, folder: str, files: dict[str, AnyPicture]) -> dict[str, Any]:
    """A set as plain values; its pictures are added to `files` under a folder."""
    row: dict[str, Any] = {"name": one.name, "drawings": _rows(one, folder, files)}
    if one.face:
        file = f"{folder}/face{one.face.picture.suffix}"
        files[file] = one.face.picture
        places = {name: place and place.to_dict() for name, place in one.face.places.items()}
        traced = tracings_to_dict(one.face.tracings, file, files)
        row["face"] = {"file": file, "aspect": one.face.aspect, "places": places, **traced}
    return row


def _rows(one: PackedSet, folder: str, files: dict[str, AnyPicture]) -> list[dict[str, Any]]:
    rows = []
    for packed in one.drawings:
        d = packed.drawing
        file = f"{folder}/{d.number:03d}-{plain(d.name)}{packed.picture.suffix}"
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
                **tracings_to_dict(packed.tracings, file, files),
            }
        )
    return rows


def tracings_to_dict(tracings: Sequence[AnyPicture], file: str, files: dict[str, AnyPicture]) -> dict[str, list[str]]:
    """The file names of a picture's tracings, made from the name of its file."""
    stem = file.rpartition(".")[0]
    names = [f"{stem}-traced-{n}{tracing.suffix}" for n, tracing in enumerate(tracings, start=1)]
    files.update(zip(names, tracings, strict=True))
    return {"tracings": names} if names else {}


def tracings_from_dict(
    row: Mapping[str, Any], files: Mapping[str, bytes], suffixes: tuple[str, ...]
) -> tuple[AnyPicture, ...]:
    """The tracings of a picture, from the list of their file names.

    Raises
    ------
    ValueError
        For too many.
    """
    if len(row.get("tracings", ())) > MAX_TRACINGS:
        raise ValueError("tracings")
    return tuple(picture_of(str(name), files, suffixes) for name in row.get("tracings", ()))


def set_from_dict(s: Mapping[str, Any], files: Mapping[str, bytes]) -> PackedSet:
    """A set from plain values.

    Raises
    ------
    KeyError
        For what is none.
    TypeError
        For what is none.
    ValueError
        For what is none.
    ChartError
        For sounds and places that there are not.
    FormatError
        For a picture that is missing.
    """
    drawings = tuple(_drawing(d, files) for d in s["drawings"])
    if len(drawings) > MAX_DRAWINGS or len({d.drawing.number for d in drawings}) < len(drawings):
        raise ValueError("drawings")
    return PackedSet(text_of(s["name"]), drawings, _set_face(s["face"], files) if s.get("face") else None)


def _set_face(f: dict[str, Any], files: Mapping[str, bytes]) -> PackedFace:
    aspect = float(f["aspect"])
    places = {text_of(name): at and Placement.from_dict(at, aspect) for name, at in f["places"].items()}
    if len(places) > MAX_PARTS:
        raise ValueError("places")
    return PackedFace(picture_of(f["file"], files, FACES), aspect, places, tracings_from_dict(f, files, FACES))


def _drawing(d: dict[str, Any], files: Mapping[str, bytes]) -> PackedDrawing:
    drawing = Drawing(int(d["number"]), text_of(d["name"]), tuple(str(c) for c in d["shows"]), int(d["size"]))
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
        picture_of(d["file"], files, (".png", ".svg")),
        tracings_from_dict(d, files, (".png", ".svg")),
    )


def _pair(values: list[Any]) -> tuple[float, float]:
    x, y = (float(v) for v in values)
    if not (abs(x) < 1e6 and abs(y) < 1e6):
        raise ValueError(values)
    return x, y
