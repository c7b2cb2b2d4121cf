"""Maintenance of stored files: removing unreferenced ones, and finding damaged ones."""

import shutil
import tempfile
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.db import models, transaction

from tinfork.apps.common.storage import SWEEP_AFTER_S, is_whole, the_storage, try_alone

#: The number of files that are swept in one transaction.
_BATCH = 200
#: Temporary files older than this were left by killed processes: no job or upload takes so long.
_LEFT_AFTER_S = 24 * 3600


def named_by() -> Iterator[tuple[str, models.Model]]:
    """All keys of stored files, each with the row that references it.

    From the file fields of all models, and from a model's `more_keys`.
    """
    for model in apps.get_models():
        fields = [f.name for f in model._meta.get_fields() if isinstance(f, models.FileField)]
        for field in fields:
            for row in model._default_manager.exclude(**{field: ""}).only(field).iterator():
                yield getattr(row, field).name, row
        if hasattr(model, "more_keys"):
            yield from model.more_keys()


def references() -> set[str]:
    """All referenced keys."""
    return {key for key, _ in named_by()}


def sweep(after_s: float = SWEEP_AFTER_S) -> int:
    """Remove unreferenced files that were stored longer than `after_s` ago; returns how many."""
    storage = the_storage()
    named = references()
    old = [key for key in storage.stored() if key not in named and _age(key) >= after_s]
    gone = 0
    for at in range(0, len(old), _BATCH):
        with transaction.atomic():
            free = [key for key in old[at : at + _BATCH] if try_alone(key)]
            named = references() if free else set()
            for key in free:
                # It may have been stored again since it was listed: then it is recent, or referenced.
                if key not in named and _age(key) >= after_s:
                    storage.delete(key)
                    gone += 1
    return gone


def remove_now(keys: Iterable[str]) -> None:
    """Remove unreferenced files at once, for data that somebody wants deleted."""
    wanted = {key for key in keys if key}
    with transaction.atomic():
        free = [key for key in wanted if try_alone(key)]
        named = references() if free else set()
        for key in free:
            if key not in named:
                the_storage().delete(key)


def _age(key: str) -> float:
    """Seconds since a file was stored; 0 for a file that was removed meanwhile."""
    try:
        return the_storage().age_s(key)
    except FileNotFoundError:
        return -1.0


def sweep_temporary(after_s: float = _LEFT_AFTER_S) -> int:
    """Remove temporary files left by killed processes and broken uploads."""
    gone = 0
    since = time.time() - after_s
    for folder in {Path(settings.FILE_UPLOAD_TEMP_DIR or ""), *_own_temporary()}:
        if not folder.is_dir():
            continue
        for left in folder.iterdir():
            if left.lstat().st_mtime < since:
                _remove(left)
                gone += 1
    return gone


def _own_temporary() -> list[Path]:
    """The folder for temporary files, if it is only ours, as set by the start command."""
    return [Path(tempfile.gettempdir())] if settings.TEMPORARY_IS_OURS else []


def _remove(left: Path) -> None:
    if left.is_dir() and not left.is_symlink():
        shutil.rmtree(left, ignore_errors=True)
    else:
        left.unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class Damage:
    """A missing or damaged stored file, and the row that references it."""

    key: str
    is_missing: bool
    named_by: tuple[str, ...]

    def __str__(self) -> str:
        state = "missing" if self.is_missing else "damaged"
        return f"{state}: {', '.join(self.named_by)} ({self.key})"


def check_files() -> Iterator[Damage]:
    """Read every referenced file; returns those that are missing or damaged."""
    rows: dict[str, list[models.Model]] = {}
    for key, row in named_by():
        rows.setdefault(key, []).append(row)
    storage = the_storage()
    for key in sorted(rows):
        if not is_whole(key):
            names = (f"{row._meta.verbose_name} {row.pk} “{row}”"[:120] for row in rows[key])
            yield Damage(key, not storage.exists(key), tuple(names))
