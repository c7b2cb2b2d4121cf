"""Files by content hash, and static files under hashed names.

A file's key is the hash of what is in it. It is written beside, synced and renamed: under its key there is the whole
file or none. What is under a key already is believed only once its length and its hash were found right.

A stored file belongs to every row that names its key. Nothing deletes a file when a row goes: `upkeep.sweep` removes
what is old and what no row names. Who stores a file holds its key until the transaction ends, and makes the file young
again, so that no sweep comes between storing a file and naming it.
"""

import hashlib
import logging
import os
import re
import secrets
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any

from django.core.files.base import ContentFile, File
from django.core.files.storage import FileSystemStorage, storages
from django.db import connection
from django.db.models.fields.files import FieldFile
from whitenoise.storage import CompressedManifestStaticFilesStorage

from tinfork.apps.common.bundling import bundle

log = logging.getLogger("tinfork.storage")

#: What is stored and named by no row is removed after this many seconds.
SWEEP_AFTER_S = 3600
#: The suffix of a file that is still being written.
PART = ".part"
_KEY = re.compile(r"[0-9a-f]{2}/([0-9a-f]{64})\.\w+")


class StaticStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Each page's scripts in one file, everything under hashed names."""

    def post_process(self, paths: dict[str, Any], dry_run: bool = False, **options: Any) -> Iterator[Any]:
        """What is done once all files are collected; yields as Django's own does."""
        if not dry_run:
            removed = {f"js/{name}" for name in bundle(Path(self.path("js")))}
            # What is left of the scripts is read from where it was put together.
            scripts = {name: (self, name) for name in paths if name.startswith("js/")}
            paths = {name: way for name, way in {**paths, **scripts}.items() if name not in removed}
        yield from super().post_process(paths, dry_run, **options)


class HashedStorage(FileSystemStorage):
    """Files that are never reached by address, only through a view that asks who may."""

    def url(self, name: str | None) -> str:
        """There is none."""
        raise NotImplementedError("Files are served by views that check permission.")

    def put(self, key: str, content: "File[bytes]") -> None:
        """Write a file whole or not at all: beside, synced, renamed. Raises `OSError` when it cannot."""
        path = Path(self.path(key))
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_name(f"{path.name}.{secrets.token_hex(4)}{PART}")
        try:
            with part.open("xb") as target:
                shutil.copyfileobj(content, target, 1024 * 1024)
                target.flush()
                os.fsync(target.fileno())
                written = target.tell()
            if written != content.size:
                raise OSError(f"{written} of {content.size} bytes of {key} were written")
            part.replace(path)
            _sync_folder(path.parent)
        except BaseException:
            part.unlink(missing_ok=True)
            raise

    def touch(self, key: str) -> None:
        """Make a file young again."""
        os.utime(self.path(key))

    def age_s(self, key: str) -> float:
        """Seconds since a file was stored last."""
        return time.time() - Path(self.path(key)).stat().st_mtime

    def stored(self) -> Iterator[str]:
        """Everything that is stored, parts of files that were being written too."""
        root = Path(self.location)
        for folder, _, names in os.walk(root):
            for name in sorted(names):
                yield (Path(folder) / name).relative_to(root).as_posix()


def _sync_folder(folder: Path) -> None:
    """Have the name on disk as well as the content."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def the_storage() -> HashedStorage:
    """Where files are."""
    storage = storages["default"]
    assert isinstance(storage, HashedStorage)
    return storage


def digest_of(file: Any) -> str:
    """The SHA-256 of a file, from where it stands."""
    return hashlib.file_digest(file, "sha256").hexdigest()


def is_whole(key: str, size: int | None = None) -> bool:
    """Whether a stored file is there and is what its key says; `size` in bytes, where known, is looked at first."""
    storage = the_storage()
    found = _KEY.fullmatch(key)
    if found is None or not storage.exists(key) or (size is not None and storage.size(key) != size):
        return False
    with storage.open(key, "rb") as file:
        return digest_of(file) == found[1]


def _hold(key: str, *, alone: bool) -> bool:
    """Keep a key until the transaction ends, with others who keep it, or alone; whether it could be had alone.

    Storing shares it, so no two who store the same files in another order wait for each other.
    """
    name = int.from_bytes(hashlib.sha256(key.encode()).digest()[:8], "big", signed=True)
    how = "pg_try_advisory_xact_lock" if alone else "pg_advisory_xact_lock_shared"
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {how}(%s)", [name])
        row = cursor.fetchone()
    return bool(row and row[0])


def try_alone(key: str) -> bool:
    """Inside a transaction: whether nobody is storing a file under this key, and nobody will before it ends."""
    return _hold(key, alone=True)


def _keep(content: "File[bytes]", key: str) -> str:
    storage = the_storage()
    _hold(key, alone=False)
    if storage.exists(key):
        # Young again first: a sweep that is at it now looks at the age last of all.
        with suppress(FileNotFoundError):
            storage.touch(key)
        if is_whole(key, content.size):
            return key
        log.warning("the stored file %s was damaged and is written anew", key)
    storage.put(key, content)
    return key


def keep_bytes(data: bytes, suffix: str) -> str:
    """Store bytes under their hash; returns the key."""
    digest = hashlib.sha256(data).hexdigest()
    return _keep(ContentFile(data), f"{digest[:2]}/{digest}{suffix}")


def keep_file(path: Path, suffix: str) -> str:
    """Store a file under the hash of its content; returns the key."""
    with path.open("rb") as file:
        digest = digest_of(file)
        file.seek(0)
        return _keep(File(file), f"{digest[:2]}/{digest}{suffix}")


@dataclass(frozen=True, slots=True)
class StoredPicture:
    """A picture under its key; it is read when its bytes are asked for."""

    key: str

    @property
    def data(self) -> bytes:
        """Its bytes, as they are."""
        with storages["default"].open(self.key, "rb") as file:
            return bytes(file.read())

    @property
    def suffix(self) -> str:
        """Its suffix."""
        return PurePosixPath(self.key).suffix


@contextmanager
def local_copy(field: FieldFile) -> Iterator[Path]:
    """A stored file as a path on this machine: storage need not be a disk."""
    with local_copy_of(field.name or "") as path:
        yield path


@contextmanager
def local_copy_of(key: str) -> Iterator[Path]:
    """The same for a key."""
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "copy"
        with storages["default"].open(key, "rb") as source, path.open("wb") as target:
            shutil.copyfileobj(source, target)
        yield path
