"""Files in a ZIP: with one date, so that the same shot gives the same bytes."""

import io
import shutil
import zipfile
from pathlib import Path
from typing import IO

from PIL import Image

from tinfork.core.scene.choices import plain
from tinfork.core.scene.scene import Scene

_DATE = (2026, 1, 1, 0, 0, 0)
#: What is packed already and does not shrink.
_PACKED = (".png", ".jpg", ".webp", ".mp4", ".webm", ".mov", ".gif", ".zip", ".ora")


def base_name(scene: Scene) -> str:
    """What the files of a shot are called."""
    return plain(scene.name)


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, _DATE)
    entry.compress_type = zipfile.ZIP_STORED if name.endswith(_PACKED) else zipfile.ZIP_DEFLATED
    return entry


def add_bytes(archive: zipfile.ZipFile, name: str, data: bytes, *, packed: bool = True) -> None:
    """One file of an archive; not `packed`: stored as it is."""
    archive.writestr(_entry(name), data, None if packed else zipfile.ZIP_STORED)


def add_file(archive: zipfile.ZipFile, name: str, source: Path) -> None:
    """A file of the disk, however large."""
    with archive.open(_entry(name), "w", force_zip64=True) as entry, source.open("rb") as file:
        shutil.copyfileobj(file, entry, 1024 * 1024)


def add_stream(archive: zipfile.ZipFile, name: str, source: IO[bytes]) -> None:
    """What stands in an open file, from its start."""
    source.seek(0)
    with archive.open(_entry(name), "w", force_zip64=True) as entry:
        shutil.copyfileobj(source, entry, 1024 * 1024)


def png(image: Image.Image) -> bytes:
    """A picture as PNG, packed fast: a little larger, many times sooner."""
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=2)
    return out.getvalue()
