"""A character as one archive: `character.json` and its pictures in a ZIP; open, and lossless for the cast.

    {"format": "tin-fork-character", "version": 1, "name": ..., "ink": 1-6,
     "face": {"file", "aspect", "tracings": [files] (where it has some)} or null,
     "parts": [{"kind", "name", "place": {"x", "y", "width", "angle"}, "sets": [...]}]}

Places are shares of the face picture; sets are as `set_zip` has them. Pictures are PNG or SVG.
"""

import io
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from tinfork.core.errors import ChartError, FormatError
from tinfork.core.formats import picture_zip
from tinfork.core.formats.picture_zip import FACES, AnyPicture, fail, picture_of, plain, text_of
from tinfork.core.formats.set_zip import (
    KINDS,
    PackedSet,
    set_from_dict,
    set_to_dict,
    tracings_from_dict,
    tracings_to_dict,
)
from tinfork.core.formats.versions import CHARACTER
from tinfork.core.messages import Message
from tinfork.core.mouths.chart import MAX_PARTS, MAX_SETS
from tinfork.core.mouths.placement import Placement

_MANIFEST = "character.json"


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
    face_tracings: tuple[AnyPicture, ...] = ()


def write(character: PackedCharacter) -> bytes:
    """The archive; the same character gives the same bytes."""
    out = io.BytesIO()
    write_to(out, character)
    return out.getvalue()


def write_to(out: IO[bytes], character: PackedCharacter) -> None:
    """Write the archive to a file, one picture in memory at a time."""
    files: dict[str, AnyPicture] = {}
    manifest = _manifest(character, files)
    picture_zip.write_to(out, _MANIFEST, manifest, files)


def _manifest(character: PackedCharacter, files: dict[str, AnyPicture]) -> dict[str, Any]:
    face = None
    if character.face:
        file = f"face{character.face.suffix}"
        files[file] = character.face
        traced = tracings_to_dict(character.face_tracings, file, files)
        face = {"file": file, "aspect": character.aspect, **traced}
    parts = []
    for p, part in enumerate(character.parts, start=1):
        folders = (f"{p:02d}-{plain(part.name)}/{s:02d}-{plain(one.name)}" for s, one in enumerate(part.sets, start=1))
        sets = [set_to_dict(one, folder, files) for one, folder in zip(part.sets, folders, strict=True)]
        parts.append({"kind": part.kind, "name": part.name, "place": part.place.to_dict(), "sets": sets})
    return {
        "format": CHARACTER.name,
        "version": CHARACTER.version,
        "name": character.name,
        "ink": character.ink,
        "face": face,
        "parts": parts,
    }


def read(source: bytes | Path) -> PackedCharacter:
    """Read and check what `write` wrote, from bytes or a file.

    Pictures are not decoded here.

    Raises
    ------
    FormatError
        For anything else.
    """
    manifest, files = picture_zip.read(source, _MANIFEST, CHARACTER, Message("archive.a_character"))
    try:
        return _character(manifest, files)
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError):
        fail(Message("archive.damaged"))
    except ChartError as error:
        raise FormatError("archive.contradiction", error=error.message) from error


def _character(m: Mapping[str, Any], files: Mapping[str, bytes]) -> PackedCharacter:
    face, aspect, tracings = None, 16 / 9, tuple[AnyPicture, ...]()
    if m["face"]:
        face, aspect = picture_of(m["face"]["file"], files, FACES), float(m["face"]["aspect"])
        tracings = tracings_from_dict(m["face"], files, FACES)
    ink = int(m["ink"])
    if not 1 <= ink <= 6:
        raise ValueError(ink)
    parts = tuple(_part(p, aspect, files) for p in m["parts"])
    if sum(part.kind == "mouth" for part in parts) != 1:
        fail(Message("archive.one_mouth"))
    if len(parts) > MAX_PARTS:
        fail(Message("archive.parts", count=len(parts), most=MAX_PARTS))
    if len({part.name for part in parts}) < len(parts):
        raise ValueError("parts")
    return PackedCharacter(text_of(m["name"]), ink, face, aspect, parts, tracings)


def _part(p: Mapping[str, Any], aspect: float, files: Mapping[str, bytes]) -> PackedPart:
    if p["kind"] not in KINDS:
        raise ValueError(p["kind"])
    place = Placement.from_dict(p["place"], aspect)
    if len(p["sets"]) > MAX_SETS:
        fail(Message("archive.sets", count=len(p["sets"]), most=MAX_SETS))
    sets = tuple(set_from_dict(s, files) for s in p["sets"])
    if not sets or len({s.name for s in sets}) < len(sets):
        raise ValueError("sets")
    return PackedPart(p["kind"], text_of(p["name"]), place, sets)
