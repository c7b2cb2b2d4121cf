"""Files in a ZIP, all with the same date, so that the same shot gives the same bytes."""

import io
import shutil
import zipfile
from pathlib import Path
from typing import IO

from PIL import Image

from tinfork.core.scene.choices import plain
from tinfork.core.scene.scene import Scene

_DATE = (2026, 1, 1, 0, 0, 0)
#: Formats that are compressed already.
_PACKED = (".png", ".jpg", ".webp", ".mp4", ".webm", ".mov", ".gif", ".zip", ".ora")


def base_name(scene: Scene) -> str:
    """The base of the names of a shot's files."""
    return plain(scene.name)


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, _DATE)
    entry.compress_type = zipfile.ZIP_STORED if name.endswith(_PACKED) else zipfile.ZIP_DEFLATED
    return entry


def add_bytes(archive: zipfile.ZipFile, name: str, data: bytes, *, packed: bool = True) -> None:
    """Add a file to an archive; stored uncompressed unless `packed`."""
    archive.writestr(_entry(name), data, None if packed else zipfile.ZIP_STORED)


def add_file(archive: zipfile.ZipFile, name: str, source: Path) -> None:
    """Add a file from disk, of any size."""
    with archive.open(_entry(name), "w", force_zip64=True) as entry, source.open("rb") as file:
        shutil.copyfileobj(file, entry, 1024 * 1024)


def add_stream(archive: zipfile.ZipFile, name: str, source: IO[bytes]) -> None:
    """Add the content of an open file, from its start."""
    source.seek(0)
    with archive.open(_entry(name), "w", force_zip64=True) as entry:
        shutil.copyfileobj(source, entry, 1024 * 1024)


def png(image: Image.Image) -> bytes:
    """A picture as PNG with fast compression: a little larger, and many times faster."""
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=2)
    return out.getvalue()
