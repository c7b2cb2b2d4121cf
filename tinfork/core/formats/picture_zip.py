"""A ZIP of pictures with a manifest: what archives of characters and of sets have in common."""

import io
import json
import re
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any, NoReturn, Protocol

from tinfork.core.errors import FormatError
from tinfork.core.formats.versions import Format
from tinfork.core.messages import Message

#: What an archive may unpack to.
MAX_BYTES = 256 * 1024 * 1024
MAX_ENTRIES = 4000
#: What a face picture may be.
FACES = (".png", ".svg", ".jpg", ".webp")
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


def write_to(out: IO[bytes], name: str, manifest: Mapping[str, Any], files: Mapping[str, AnyPicture]) -> None:
    """Write the manifest under its name, and the pictures under theirs, one of them in memory at a time.

    The same content gives the same bytes.
    """
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo(name, _DATE), json.dumps(manifest, indent=1, ensure_ascii=False))
        for file, picture in files.items():
            # PNG and JPEG do not shrink further.
            how = zipfile.ZIP_DEFLATED if picture.suffix == ".svg" else zipfile.ZIP_STORED
            archive.writestr(zipfile.ZipInfo(file, _DATE), picture.data, how)


def plain(name: str) -> str:
    """A name as part of a file name, in any alphabet."""
    return re.sub(r"[^\w]+", "-", name).strip("-")[:40] or "drawing"


def read(source: bytes | Path, name: str, is_meant: Format, what: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """The manifest `name` of an archive in the format `is_meant`, and the files beside it.

    Raises
    ------
    FormatError
        For anything else; `what` it should be is said in words.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(source) if isinstance(source, bytes) else source) as archive:
            files = _unpack(archive)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError, zipfile.zlib.error):  # type: ignore[attr-defined]
        fail(Message("archive.not_zip"))
    if name not in files:
        fail(Message("archive.no_manifest", name=name, what=what))
    try:
        manifest = json.loads(files.pop(name).decode(), parse_constant=_no_number)
    except (ValueError, RecursionError):
        fail(Message("archive.not_json", name=name))
    if not isinstance(manifest, dict) or manifest.get("format") != is_meant.name:
        fail(Message("archive.not_what", what=what))
    if not is_meant.knows(manifest.get("version")):
        fail(Message("archive.newer"))
    return is_meant.upgraded(manifest), files


def _no_number(name: str) -> NoReturn:
    """NaN and the infinities are no JSON (RFC 8259).

    Raises
    ------
    ValueError
        Always.
    """
    raise ValueError(name)


def fail(why: Message) -> NoReturn:
    """Say why an archive is refused.

    Raises
    ------
    FormatError
        Always.
    """
    raise FormatError("archive.unusable", why=why)


def _unpack(archive: zipfile.ZipFile) -> dict[str, bytes]:
    infos = archive.infolist()
    if len(infos) > MAX_ENTRIES or sum(info.file_size for info in infos) > MAX_BYTES:
        fail(Message("archive.too_large", size_mb=MAX_BYTES // 2**20, most=MAX_ENTRIES))
    out: dict[str, bytes] = {}
    left = MAX_BYTES
    for info in infos:
        # A header may lie about its size: what is unpacked is counted.
        with archive.open(info) as file:
            content = file.read(left + 1)
        left -= len(content)
        if left < 0:
            fail(Message("archive.too_large", size_mb=MAX_BYTES // 2**20, most=MAX_ENTRIES))
        out[info.filename] = content
    return out


def text_of(value: Any) -> str:
    """A name of up to 80 letters.

    Raises
    ------
    ValueError
        For what is none.
    """
    text = "".join(c for c in value if c.isprintable()).strip()
    if not text or len(text) > 80:
        raise ValueError(value)
    return text


def picture_of(name: str, files: Mapping[str, bytes], suffixes: tuple[str, ...]) -> Picture:
    """A picture that the manifest names.

    Raises
    ------
    ValueError
        For a suffix that it may not have.
    """
    suffix = "." + name.rpartition(".")[2].lower()
    if suffix not in suffixes:
        raise ValueError(name)
    if name not in files:
        fail(Message("archive.missing", name=name[:80]))
    return Picture(files[name], suffix)
