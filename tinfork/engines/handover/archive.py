"""A shot as one file: a ZIP with its reading, characters, background and sound, which can be imported again.

archive.json   {"format": "tin-fork-shot", "version": 1, "reading", "sound", "background", "colour",
"characters": [{"name", "file"}]}
reading.json   see core/formats/reading_json.py
characters/    an archive for each character, see core/formats/character_zip.py
"""

import json
import zipfile
from collections.abc import Mapping
from typing import IO

from tinfork.core.formats import character_zip, reading_json
from tinfork.core.formats.character_zip import PackedCharacter, PackedPart
from tinfork.core.formats.set_zip import PackedDrawing, PackedFace, PackedSet
from tinfork.core.formats.versions import SHOT
from tinfork.core.scene.choices import plain
from tinfork.core.scene.exporting import Exporter, Progress, Purpose, Values
from tinfork.core.scene.scene import Column, Face, Figure, Scene
from tinfork.engines.handover.archive_files import add_bytes, add_file

MANIFEST, READING = "archive.json", "reading.json"
#: The format name of a production's archive, which the application writes.
PRODUCTION_MANIFEST = "production.json"


def packed(figure: Figure) -> PackedCharacter:
    """A character as in its own archive."""
    face = figure.face.picture if figure.has_face else None
    parts = tuple(_part(column, figure.faces if column.is_mouth else {}) for column in figure.columns)
    traced = figure.face.tracings if figure.has_face else ()
    return PackedCharacter(figure.name, figure.ink, face, figure.face.aspect, parts, traced)


def _part(column: Column, faces: Mapping[str, Face]) -> PackedPart:
    sets: dict[str, list[PackedDrawing]] = {"": []}
    for (set_name, _), sprite in column.sprites.items():
        at = sprite.registration
        sets.setdefault(set_name, []).append(
            PackedDrawing(
                sprite.drawing,
                sprite.key,
                sprite.is_hidden,
                at.canvas_width,
                (at.x, at.y),
                (at.dx, at.dy),
                sprite.picture,
                sprite.tracings,
            )
        )
    named = tuple(
        PackedSet(name or column.first_set, tuple(drawings), _face(column, faces.get(name)))
        for name, drawings in sets.items()
    )
    return PackedPart(column.kind, column.name, column.place, named)


def _face(mouth: Column, face: Face | None) -> PackedFace | None:
    if face is None:
        return None
    return PackedFace(face.picture, face.aspect, {mouth.name: face.mouth, **face.parts}, face.tracings)


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        add_bytes(archive, READING, reading_json.of_scene(scene))
        rows = []
        for number, figure in enumerate(scene.figures, start=1):
            file = f"characters/{number:02d}-{plain(figure.name)}.zip"
            add_bytes(archive, file, character_zip.write(packed(figure)), packed=False)
            rows.append({"name": figure.name, "file": file})
            progress(number / (len(scene.figures) + 1))
        manifest: dict[str, object] = {
            "format": SHOT.name,
            "version": SHOT.version,
            "reading": READING,
            "colour": scene.ground.colour,
            "characters": rows,
        }
        if scene.ground.picture:
            manifest["background"] = f"background{scene.ground.picture.suffix}"
            add_bytes(archive, str(manifest["background"]), scene.ground.picture.data)
        if scene.sound:
            manifest["sound"] = "sound.wav"
            add_file(archive, "sound.wav", scene.sound)
        add_bytes(archive, MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1).encode())


EXPORTER = Exporter(
    "archive",
    "The whole shot as one file",
    Purpose.ARCHIVE,
    ".shot.zip",
    "application/zip",
    _write,
    (),
    "reading, characters, background and sound, to restore in Tin Fork",
    takes_long=True,
)
