"""Exporting without a database: a reading as JSON, or the archive of a shot or a production, and one exporter."""

import json
import shutil
import tempfile
import zipfile
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import IO

from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.formats.reading_json import Document
from tinfork.core.formats.soundtrack_json import soundtrack_from_dict
from tinfork.core.formats.versions import PRODUCTION, SHOT
from tinfork.core.scene.layout import side_by_side
from tinfork.core.scene.scene import Figure, Ground, Scene
from tinfork.engines.characters import PreparedCharacter, open_face, prepare_character
from tinfork.engines.decode import open_sound
from tinfork.engines.handover import archive
from tinfork.engines.handover.figures import packed_figure, starter_figure
from tinfork.engines.handover.table import EXPORTERS, exporter_of
from tinfork.engines.isolated import unheard
from tinfork.engines.mixing import write_mix
from tinfork.engines.probing import probe

#: The most bytes that an archive may unpack to.
_MOST_BYTES = 4 * 1024**3


def listing() -> str:
    """All exporters and their options, as text."""
    rows = []
    for exporter in EXPORTERS:
        rows.append(f"{exporter.kind:<12} {exporter.name}: {exporter.hint}")
        for option in exporter.options:
            can = ", ".join(key for key, _ in option.choices) or {"flag": "yes, no"}.get(option.kind, "")
            if not can and option.kind == "number":
                can = f"{option.low:g} to {option.high:g}"
            usual = "" if option.default in (None, "") else f" (default {option.default})"
            rows.append(f"    {option.name}={can}{usual}  {option.label}{f'; {option.hint}' if option.hint else ''}")
    return "\n".join(rows) + "\n"


def pairs(options: Sequence[str]) -> dict[str, object]:
    """Parse options typed as name=value.

    Raises
    ------
    FormatError
    """
    out: dict[str, object] = {}
    for option in options:
        name, equals, value = option.partition("=")
        if not equals:
            raise FormatError("command.not_an_option", option=option)
        out[name.strip()] = value
    return out


def hand_over(
    reading: Path,
    kind: str,
    options: Mapping[str, object],
    out: IO[bytes],
    *,
    characters: Sequence[Path] = (),
    sound: Path | None = None,
    background: Path | None = None,
    shot: str = "",
) -> None:
    """Export to `out`, which must be seekable; `shot` names one in a production's archive, else the first.

    Raises
    ------
    FormatError
    SoundError
    EngineError
    """
    exporter = exporter_of(kind)
    values = exporter.chosen(options)
    with open_scene(reading, characters, sound, background, shot) as scene:
        if not scene.frames:
            raise FormatError("command.empty_reading", name=reading.name)
        exporter.write(scene, values, out, lambda done: None)


@contextmanager
def open_scene(
    path: Path,
    characters: Sequence[Path] = (),
    sound: Path | None = None,
    background: Path | None = None,
    shot: str = "",
) -> Iterator[Scene]:
    """Open the shot in a reading or an archive; in a production's archive, the one named `shot`.

    Its files exist while it is open.
    """
    with tempfile.TemporaryDirectory(prefix="tinfork-") as name:
        folder = Path(name)
        files = _Files(path, folder, shot)
        document = reading_json.read_document(files.reading)
        sound = sound or files.sound
        if sound:
            probe(sound)
        packed = [prepare_character(file, unheard) for file in characters] or files.characters
        if background:
            data, suffix, _ = open_face(background, background.name)
            ground = Ground(picture=Picture(data, suffix))
        else:
            ground = files.ground
        yield _scene(document, packed, ground, sound, path.stem)


class _Files:
    """The files of a shot's archive, of one shot in a production's, or of a reading alone."""

    def __init__(self, path: Path, folder: Path, shot: str) -> None:
        self.sound: Path | None = None
        self.ground = Ground()
        self.characters: list[PreparedCharacter] = []
        if not zipfile.is_zipfile(path):
            self.reading = path.read_bytes()
            return
        try:
            with zipfile.ZipFile(path) as opened:
                if archive.PRODUCTION_MANIFEST in opened.namelist():
                    self._open_production(opened, folder, shot)
                else:
                    self._open(opened, folder)
        except (zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError, EOFError, NotImplementedError):
            raise FormatError("archive.not_whole", name=path.name) from None

    def _open_production(self, opened: zipfile.ZipFile, folder: Path, name: str) -> None:
        _check_size(opened)
        manifest = json.loads(opened.read(archive.PRODUCTION_MANIFEST))
        if manifest["format"] != PRODUCTION.name or not PRODUCTION.knows(manifest["version"]):
            raise FormatError("archive.not_a_production")
        manifest = PRODUCTION.upgraded(manifest)
        read = {str(row["name"]): row for row in manifest["shots"] if row.get("reading")}
        if not read or (name and name not in read):
            raise FormatError("command.no_such_shot", names=", ".join(read) or "none")
        row = read[name] if name else next(iter(read.values()))
        self.reading = opened.read(row["reading"])
        cast = [one["character"] for one in row["cast"]]
        files = {one["id"]: one["file"] for one in manifest["characters"]}
        self._people(opened, folder, [files[number] for number in cast])
        self.ground = Ground(_colour(row["ground"]), _picture(opened, row["background"], folder))
        st = soundtrack_from_dict(row["soundtrack"]["document"])
        used = {clip.take for clip in st.clips}
        paths: dict[int, Path] = {}
        for take in manifest["takes"]:
            if take["id"] in used:
                source = folder / f"take{take['id']}{Path(take['file']).suffix}"
                with opened.open(take["file"]) as packed, source.open("wb") as target:
                    shutil.copyfileobj(packed, target, 1024 * 1024)
                paths[take["id"]] = folder / f"opened{take['id']}.flac"
                open_sound(source, paths[take["id"]], str(take["name"]))
        if used and used <= paths.keys():
            document = reading_json.read_document(self.reading)
            frames = document.rate.frames_in(document.reading.duration_us)
            self.sound = folder / "sound.wav"
            write_mix(replace(st, length_us=document.rate.first_us(frames)), paths, self.sound)

    def _people(self, opened: zipfile.ZipFile, folder: Path, files: Sequence[str]) -> None:
        for number, name in enumerate(files):
            file = folder / f"{number}.zip"
            file.write_bytes(opened.read(name))
            self.characters.append(prepare_character(file, unheard))

    def _open(self, opened: zipfile.ZipFile, folder: Path) -> None:
        _check_size(opened)
        manifest = json.loads(opened.read(archive.MANIFEST))
        if manifest["format"] != SHOT.name or not SHOT.knows(manifest["version"]):
            raise FormatError("archive.not_a_shot")
        manifest = SHOT.upgraded(manifest)
        self.reading = opened.read(manifest["reading"])
        if manifest.get("sound"):
            self.sound = folder / "sound.wav"
            with opened.open(manifest["sound"]) as source, self.sound.open("wb") as target:
                shutil.copyfileobj(source, target, 1024 * 1024)
        self.ground = Ground(_colour(manifest["colour"]), _picture(opened, manifest.get("background", ""), folder))
        self._people(opened, folder, [row["file"] for row in manifest["characters"]])


def _check_size(opened: zipfile.ZipFile) -> None:
    if sum(info.file_size for info in opened.infolist()) > _MOST_BYTES:
        raise FormatError("archive.unpacks_too_large")


def _picture(opened: zipfile.ZipFile, name: str, folder: Path) -> Picture | None:
    """The background in an archive, made safe; None if there is none."""
    if not name:
        return None
    file = folder / f"background{Path(name).suffix}"
    file.write_bytes(opened.read(name))
    data, suffix, _ = open_face(file, name)
    return Picture(data, suffix)


def _colour(text: object) -> str:
    digits = str(text).removeprefix("#")
    if len(digits) != 6 or not all(digit in "0123456789abcdefABCDEF" for digit in digits):
        raise FormatError("style.write_colour")
    return f"#{digits}"


def _scene(document: Document, packed: list[PreparedCharacter], ground: Ground, sound: Path | None, name: str) -> Scene:
    reading, rate = document.reading, document.rate
    who = list(dict.fromkeys([*(name for name, part in document.tracks if not part), *_speakers(document)]))
    who = who or [p.packed.name for p in packed] or ["Character"]
    by_name = {p.packed.name: p for p in packed}
    rest = [p for p in packed if p.packed.name not in who]
    figures: list[Figure] = []
    for number, speaker in enumerate(who):
        found = by_name.get(speaker) or (rest.pop(0) if rest else None)
        if found:
            figures.append(packed_figure(found, speaker, reading, rate, document.tracks))
        else:
            figures.append(starter_figure(speaker, number % 6 + 1, reading, rate, document.tracks))
    beside = side_by_side([figure.face.aspect for figure in figures], document.size[0] / document.size[1])
    placed = zip(figures, beside, strict=True)
    figures = [
        replace(figure, stand=document.stands.get(figure.name, stand)).with_motions(
            document.motions.get(figure.name, {})
        )
        for figure, stand in placed
    ]
    return Scene(
        document.production,
        document.name or name,
        rate,
        reading,
        tuple(figures),
        rate.frames_in(reading.duration_us),
        document.first_frame,
        document.size,
        ground,
        document.notes,
        sound,
        document.version,
        boil=document.boil,
    )


def _speakers(document: Document) -> list[str]:
    return [name for line in document.reading.lines for name in (line.speaker, *line.co_speakers) if name]
