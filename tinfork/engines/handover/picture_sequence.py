"""Numbered pictures with matching sound: of the whole picture, each character, mouths alone, or each part."""

import csv
import io
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tinfork.core.errors import EngineError, FormatError
from tinfork.core.formats.sheet_csv import harmless
from tinfork.core.scene.choices import (
    END,
    FIRST,
    RATE,
    START,
    WHO,
    at_chosen_rate,
    figures_of,
    plain,
    renumbered,
    span_of,
)
from tinfork.core.scene.drawing import DrawnParts, Placed, segments
from tinfork.core.scene.exporting import Exporter, Option, Progress, Purpose, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.archive_files import add_bytes, add_file, base_name, png
from tinfork.engines.handover.picture_options import GROUND, WIDTH, ground_of, size_of
from tinfork.engines.handover.rendering import Renderer
from tinfork.engines.programs import program

_FORMAT = Option(
    "format",
    "Format",
    "png",
    choices=(("png", "PNG"), ("png16", "PNG, 16 bit"), ("tiff", "TIFF"), ("exr", "OpenEXR, linear light")),
)
_OF = Option(
    "of",
    "Pictures of",
    "picture",
    choices=(
        ("picture", "the whole picture"),
        ("characters", "each character"),
        ("mouths", "each mouth"),
        ("parts", "each part apart"),
    ),
)
_PADDING = Option("padding", "Figures in a number", 4, low=1, high=8)
_PATTERN = Option("pattern", "File names", "{name}.{frame}", high=80, hint="with {shot}, {name}, {frame}")
_ONLY_CHANGES = Option("only_changes", "One file per change, with a list of holds", False)
_CLEAR = Option(GROUND.name, GROUND.label, "clear", choices=GROUND.choices)
_SUFFIX = {"png": ".png", "png16": ".png", "tiff": ".tif", "exr": ".exr"}


class _Sequence:
    """One sequence of pictures: its name, and what is drawn on which frames."""

    def __init__(self, name: str, stretches: list[tuple[int, int, tuple[Placed, ...]]], *, has_ground: bool) -> None:
        self.name, self.stretches, self.has_ground = name, stretches, has_ground


def _sequences(scene: Scene, values: Values, size: tuple[int, int]) -> Iterator[_Sequence]:
    of = values["of"]
    if of == "picture":
        yield _Sequence(
            "", list(segments(scene, size, DrawnParts.ALL, values["character"], boils=True)), has_ground=True
        )
        return
    for figure in figures_of(scene, values):
        whole = list(
            segments(scene, size, DrawnParts.ALL if of == "characters" else DrawnParts.PARTS, figure.name, boils=True)
        )
        if of == "characters":
            yield _Sequence(figure.name, whole, has_ground=False)
            continue
        for column in figure.columns[:1] if of == "mouths" else figure.columns:
            only = [(a, b, tuple(p for p in drawn if p.key[1] == column.name)) for a, b, drawn in whole]
            yield _Sequence(f"{figure.name} {column.name}", _joined(only), has_ground=False)


def _apart(sequences: list[_Sequence]) -> list[_Sequence]:
    """A separate folder for each: two names may become equal as file names."""
    taken: set[str] = set()
    for sequence in sequences:
        name, number = sequence.name, 2
        while plain(sequence.name) in taken:
            sequence.name, number = f"{name} {number}", number + 1
        taken.add(plain(sequence.name))
    return sequences


def _joined(stretches: list[tuple[int, int, tuple[Placed, ...]]]) -> list[tuple[int, int, tuple[Placed, ...]]]:
    out: list[tuple[int, int, tuple[Placed, ...]]] = []
    for start, end, drawn in stretches:
        if out and out[-1][2] == drawn:
            out[-1] = (out[-1][0], end, drawn)
        else:
            out.append((start, end, drawn))
    return out


def name_of(scene: Scene, values: Values, sequence: str, number: int) -> str:
    """The file name of a picture without its suffix, by the pattern.

    Raises
    ------
    FormatError
        For one that names none.
    """
    pattern = str(values["pattern"])
    shot, who = plain(scene.name), plain(sequence) if sequence else plain(scene.name)
    try:
        name = pattern.format(shot=shot, name=who, frame=f"{number:0{values['padding']}d}")
    except (KeyError, ValueError, IndexError, AttributeError):
        raise FormatError("pictures.pattern_unknown") from None
    if "{frame}" not in pattern or any(part in ("", ".", "..") for part in name.split("/")) or "\\" in name:
        raise FormatError("pictures.pattern_without_frame")
    return name


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    scene = at_chosen_rate(scene, values)
    # The range is given in the shot's frame numbers, whatever numbers the pictures get.
    first, end = span_of(scene, values)
    scene = renumbered(scene, values)
    size = size_of(scene, values)
    name_of(scene, values, "", scene.first_frame)
    sequences = _apart(list(_sequences(scene, values, size)))
    rows: list[tuple[object, ...]] = [("sequence", "frame", "frames", "file")]
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
        for at, sequence in enumerate(sequences):
            ground = ground_of(scene, values) if sequence.has_ground else None
            renderer = Renderer(size, ground)
            known: dict[tuple[Placed, ...], bytes] = {}
            for start, stop, drawn in sequence.stretches:
                span = range(max(first, start), min(end, stop))
                progress((at + max(0, span.start - first) / (end - first)) / len(sequences))
                if not span:
                    continue
                if drawn not in known:
                    known[drawn] = _encoded(renderer.frame(drawn), values["format"])
                    # The most encoded pictures that are cached for reuse.
                    while len(known) > 400:
                        known.pop(next(iter(known)))
                number = scene.first_frame + span.start
                file = _file(scene, values, sequence, number, len(sequences))
                rows.append((sequence.name or scene.name, number, len(span), file))
                for frame in span if not values["only_changes"] else span[:1]:
                    name = _file(scene, values, sequence, scene.first_frame + frame, len(sequences))
                    add_bytes(archive, name, known[drawn], packed=False)
        if values["only_changes"]:
            table = io.StringIO(newline="")
            csv.writer(table).writerows([harmless(value) for value in row] for row in rows)
            add_bytes(archive, f"{base_name(scene)}.holds.csv", table.getvalue().encode())
        if scene.sound and (first, end) == (0, scene.frames):
            add_file(archive, f"{base_name(scene)}.wav", scene.sound)


def _file(scene: Scene, values: Values, sequence: _Sequence, number: int, count: int) -> str:
    name = name_of(scene, values, sequence.name, number) + _SUFFIX[values["format"]]
    return f"{plain(sequence.name)}/{name}" if count > 1 else name


def _encoded(image: Image.Image, kind: str) -> bytes:
    if kind == "png":
        return png(image)
    if kind == "tiff":
        out = io.BytesIO()
        image.save(out, "TIFF", compression="tiff_lzw")
        return out.getvalue()
    return _by_ffmpeg(np.asarray(image), kind)


def linear(
    pixels: NDArray[np.uint8],
) -> NDArray[np.float32]:
    """Convert sRGB pixels with straight alpha, shape (rows, columns, 4), to linear light with premultiplied alpha."""
    values = pixels.astype(np.float32) / 255
    colour, alpha = values[..., :3], values[..., 3:]
    light = np.where(colour <= 0.04045, colour / 12.92, ((colour + 0.055) / 1.055) ** 2.4)
    return np.concatenate([light * alpha, alpha], axis=2).astype(np.float32)


def _by_ffmpeg(pixels: NDArray[np.uint8], kind: str) -> bytes:
    """Encode a picture of 16 bits or floats with ffmpeg: Pillow writes neither with alpha.

    Raises
    ------
    EngineError
        Where it cannot be written.
    """
    if kind == "exr":
        # ffmpeg takes planes in the order green, blue, red, alpha.
        raw = np.ascontiguousarray(linear(pixels)[..., [1, 2, 0, 3]].transpose(2, 0, 1)).tobytes()
        layout, codec = "gbrapf32le", ["-c:v", "exr", "-compression", "zip16"]
    else:
        raw = (pixels.astype("<u2") * 257).tobytes()
        layout, codec = "rgba64le", ["-c:v", "png", "-pix_fmt", "rgba64be"]
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / f"picture{_SUFFIX[kind]}"
        size = f"{pixels.shape[1]}x{pixels.shape[0]}"
        source = ["-f", "rawvideo", "-pix_fmt", layout, "-s", size, "-i", "pipe:0"]
        command = [program("ffmpeg"), "-v", "error", "-y", *source, *codec, "-frames:v", "1", "-update", "1", str(path)]
        done = subprocess.run(command, input=raw, capture_output=True, check=False, timeout=120)
        if done.returncode or not path.exists():
            raise EngineError("pictures.not_written")
        return path.read_bytes()


EXPORTER = Exporter(
    "pictures",
    "Numbered pictures",
    Purpose.ANIMATE,
    ".pictures.zip",
    "application/zip",
    _write,
    (_FORMAT, _OF, WHO, WIDTH, _CLEAR, START, END, FIRST, _PADDING, _PATTERN, _ONLY_CHANGES, RATE),
    "one picture per frame in register, with the sound cut to match",
    takes_long=True,
)
