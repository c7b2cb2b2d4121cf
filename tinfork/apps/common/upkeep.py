"""Looking after stored files: what no row names goes, what is damaged is found and named."""

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

#: So many files are swept in one transaction.
_BATCH = 200
#: No job and no upload lasts so long: what is older in the folders for temporary files was left by one that was killed.
_LEFT_AFTER_S = 24 * 3600


def named_by() -> Iterator[tuple[str, models.Model]]:
    """Every key of a stored file, with the row that names it.

    These are the file fields of all models, and what a model's `more_keys` finds in its rows.
    """
    for model in apps.get_models():
        fields = [f.name for f in model._meta.get_fields() if isinstance(f, models.FileField)]
        for field in fields:
            for row in model._default_manager.exclude(**{field: ""}).only(field).iterator():
                yield getattr(row, field).name, row
        if hasattr(model, "more_keys"):
            yield from model.more_keys()


def references() -> set[str]:
    """The keys that rows name."""
    return {key for key, _ in named_by()}


def sweep(after_s: float = SWEEP_AFTER_S) -> int:
    """Remove stored files that no row names and that were stored longer than `after_s` ago; how many went."""
    storage = the_storage()
    named = references()
    old = [key for key in storage.stored() if key not in named and _age(key) >= after_s]
    gone = 0
    for at in range(0, len(old), _BATCH):
        with transaction.atomic():
            free = [key for key in old[at : at + _BATCH] if try_alone(key)]
            named = references() if free else set()
            for key in free:
                # Somebody may have stored it again since it was listed: then it is young, or named.
                if key not in named and _age(key) >= after_s:
                    storage.delete(key)
                    gone += 1
    return gone


def remove_now(keys: Iterable[str]) -> None:
    """Remove stored files at once, where no row names them any more: what somebody wants gone is gone."""
    wanted = {key for key in keys if key}
    with transaction.atomic():
        free = [key for key in wanted if try_alone(key)]
        named = references() if free else set()
        for key in free:
            if key not in named:
                the_storage().delete(key)


def _age(key: str) -> float:
    """Seconds since a file was stored; a file that went meanwhile is young."""
    try:
        return the_storage().age_s(key)
    except FileNotFoundError:
        return -1.0


def sweep_temporary(after_s: float = _LEFT_AFTER_S) -> int:
    """Remove what killed processes and uploads that broke off left in our folders for temporary files."""
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
    """The folder for temporary files, where it is ours alone: the start command says so."""
    return [Path(tempfile.gettempdir())] if settings.TEMPORARY_IS_OURS else []


def _remove(left: Path) -> None:
    if left.is_dir() and not left.is_symlink():
        shutil.rmtree(left, ignore_errors=True)
    else:
        left.unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class Damage:
    """A stored file that is missing or is not what it should be, and what names it."""

    key: str
    is_missing: bool
    named_by: tuple[str, ...]

    def __str__(self) -> str:
        state = "missing" if self.is_missing else "damaged"
        return f"{state}: {', '.join(self.named_by)} ({self.key})"


def check_files() -> Iterator[Damage]:
    """Every file that a row names, read whole: those that are missing or damaged. Files no row names are left out."""
    rows: dict[str, list[models.Model]] = {}
    for key, row in named_by():
        rows.setdefault(key, []).append(row)
    storage = the_storage()
    for key in sorted(rows):
        if not is_whole(key):
            names = (f"{row._meta.verbose_name} {row.pk} “{row}”"[:120] for row in rows[key])
            yield Damage(key, not storage.exists(key), tuple(names))
