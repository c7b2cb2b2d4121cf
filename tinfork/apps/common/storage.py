"""Files stored by content hash, and static files with hashed names.

The key of a file is the hash of its content. Files are written to a temporary name, synced and renamed, so that a key
has the whole file or none. An existing file is reused only after its length and hash were verified. A stored file
belongs to all rows that reference its key. Deleting a row deletes no file: `upkeep.sweep` removes old files without
references. Storing a file locks its key until the transaction ends and renews the file's time, so that no sweep can
remove it between storing and referencing it.
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

#: Stored files without references are removed after this many seconds.
SWEEP_AFTER_S = 3600
#: The suffix of incomplete files.
PART = ".part"
_KEY = re.compile(r"[0-9a-f]{2}/([0-9a-f]{64})\.\w+")


class StaticStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Static files with bundled scripts and hashed names."""

    def post_process(self, paths: dict[str, Any], dry_run: bool = False, **options: Any) -> Iterator[Any]:
        """Post-process the collected files; yields like Django's own."""
        if not dry_run:
            removed = {f"js/{name}" for name in bundle(Path(self.path("js")))}
            # Read the bundled scripts from where they were written.
            scripts = {name: (self, name) for name in paths if name.startswith("js/")}
            paths = {name: way for name, way in {**paths, **scripts}.items() if name not in removed}
        yield from super().post_process(paths, dry_run, **options)


class HashedStorage(FileSystemStorage):
    """Storage of files without public URLs: they are only served by views that check permissions."""

    def url(self, name: str | None) -> str:
        """Files have no URL."""
        raise NotImplementedError("Files are served by views that check permission.")

    def put(self, key: str, content: "File[bytes]") -> None:
        """Write a file atomically: temporary name, sync, rename. Raises `OSError` if it fails."""
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
        """Renew a file's time."""
        os.utime(self.path(key))

    def age_s(self, key: str) -> float:
        """Seconds since a file was last stored."""
        return time.time() - Path(self.path(key)).stat().st_mtime

    def stored(self) -> Iterator[str]:
        """All stored files, including incomplete ones."""
        root = Path(self.location)
        for folder, _, names in os.walk(root):
            for name in sorted(names):
                yield (Path(folder) / name).relative_to(root).as_posix()


def _sync_folder(folder: Path) -> None:
    """Sync the directory entry, not only the content."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def the_storage() -> HashedStorage:
    """The storage of files."""
    storage = storages["default"]
    assert isinstance(storage, HashedStorage)
    return storage


def digest_of(file: Any) -> str:
    """The SHA-256 of a file from its current position."""
    return hashlib.file_digest(file, "sha256").hexdigest()


def is_whole(key: str, size: int | None = None) -> bool:
    """Whether a stored file exists and matches its key; the `size` in bytes, if known, is checked first."""
    storage = the_storage()
    found = _KEY.fullmatch(key)
    if found is None or not storage.exists(key) or (size is not None and storage.size(key) != size):
        return False
    with storage.open(key, "rb") as file:
        return digest_of(file) == found[1]


def _hold(key: str, *, alone: bool) -> bool:
    """Lock a key until the transaction ends, shared or exclusively; returns whether an exclusive lock was possible.

    Storing takes shared locks, so that two who store the same files in different order cannot deadlock.
    """
    name = int.from_bytes(hashlib.sha256(key.encode()).digest()[:8], "big", signed=True)
    how = "pg_try_advisory_xact_lock" if alone else "pg_advisory_xact_lock_shared"
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {how}(%s)", [name])
        row = cursor.fetchone()
    return bool(row and row[0])


def try_alone(key: str) -> bool:
    """In a transaction: lock a key exclusively, if nobody is storing its file; returns whether it succeeded."""
    return _hold(key, alone=True)


def _keep(content: "File[bytes]", key: str) -> str:
    storage = the_storage()
    _hold(key, alone=False)
    if storage.exists(key):
        # Renew the time first: a concurrent sweep checks the age last.
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
    """A stored picture, whose bytes are read when needed."""

    key: str

    @property
    def data(self) -> bytes:
        """Its bytes."""
        with storages["default"].open(self.key, "rb") as file:
            return bytes(file.read())

    @property
    def suffix(self) -> str:
        """Its suffix."""
        return PurePosixPath(self.key).suffix


@contextmanager
def local_copy(field: FieldFile) -> Iterator[Path]:
    """A stored file as a local path, since the storage need not be a local disk."""
    with local_copy_of(field.name or "") as path:
        yield path


@contextmanager
def local_copy_of(key: str) -> Iterator[Path]:
    """`local_copy` by key."""
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "copy"
        with storages["default"].open(key, "rb") as source, path.open("wb") as target:
            shutil.copyfileobj(source, target)
        yield path
