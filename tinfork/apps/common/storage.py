"""Files by content hash, and static files with modules rewritten to their hashed names."""

import hashlib
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files.base import ContentFile, File
from django.core.files.storage import FileSystemStorage, storages
from django.db.models.fields.files import FieldFile
from whitenoise.storage import CompressedManifestStaticFilesStorage


class StaticStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Hashed names, imports inside ES modules rewritten too."""

    support_js_module_import_aggregation = True
    # A module's hash follows those of what it imports, types in comments included: the longest such row plus one.
    max_post_process_passes = 16


class HashedStorage(FileSystemStorage):
    """Files that are never reached by address, only through a view that asks who may."""

    def url(self, name: str | None) -> str:
        """There is none."""
        raise NotImplementedError("Files are served by views that check permission.")


def _keep(content: "File[bytes]", digest: str, suffix: str) -> str:
    return _keep_as(content, f"{digest[:2]}/{digest}{suffix}")


def _keep_as(content: "File[bytes]", name: str) -> str:
    storage = storages["default"]
    return name if storage.exists(name) else storage.save(name, content)


def keep_bytes(data: bytes, suffix: str) -> str:
    """Store bytes under their hash; returns the key."""
    return _keep(ContentFile(data), hashlib.sha256(data).hexdigest(), suffix)


def keep_file(path: Path, suffix: str) -> str:
    """Store a file under the hash of its content; returns the key."""
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        file.seek(0)
        return _keep(File(file), digest, suffix)


def keep_file_as(path: Path, key: str) -> str:
    """Store a file under a key that is a hash of what it was made from."""
    with path.open("rb") as file:
        return _keep_as(File(file), key)


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


def release(key: str) -> None:
    """Remove a stored file that nothing refers to any more."""
    storages["default"].delete(key)
