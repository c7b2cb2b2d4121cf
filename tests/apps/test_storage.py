"""Stored files: whole or not there, kept while a row names them, swept when none does."""

import errno
import io
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest
from django.db import connection, transaction

from tests.apps.conftest import upload
from tinfork.apps.common import storage
from tinfork.apps.common.storage import keep_bytes, keep_file, the_storage
from tinfork.apps.common.upkeep import check_files, references, sweep, sweep_temporary
from tinfork.apps.jobs.models import Job
from tinfork.apps.jobs.tasks import do_job
from tinfork.apps.sound.models import Reel, Take

pytestmark = pytest.mark.usefixtures("db")

LOAF = b"first loaf " * 10_000


def path_of(key):
    return Path(the_storage().path(key))


@pytest.mark.parametrize("damage", [LOAF[:50_000], LOAF[:-1] + b"?", b""], ids=["cut", "other-byte", "empty"])
def test_what_lies_damaged_under_a_key_is_not_believed_but_written_anew(damage):
    key = keep_bytes(LOAF, ".sound")
    path_of(key).write_bytes(damage)
    assert keep_bytes(LOAF, ".sound") == key
    assert path_of(key).read_bytes() == LOAF


class FullDisk(io.BytesIO):
    """A file that is read half, then the disk is full."""

    def read(self, size=-1):
        if self.tell() > 20_000:
            raise OSError(errno.ENOSPC, "No space left on device")
        return super().read(20_000)


def test_a_disk_that_fills_up_leaves_nothing_under_the_key_nor_beside_it():
    from django.core.files.base import File

    with pytest.raises(OSError, match="No space left"):
        storage._keep(File(FullDisk(LOAF), "x"), "ab/" + "0" * 64 + ".sound")
    assert list(the_storage().stored()) == []


def test_a_process_killed_while_it_stores_leaves_no_file_under_the_key(tmp_path):
    """The process is stopped for good between two blocks of its copy; only a part with another name is left."""
    script = tmp_path / "store.py"
    script.write_text(
        "import io, os, signal, sys\n"
        "sys.path.insert(0, os.getcwd())\n"
        "from django.conf import settings\n"
        "settings.configure()\n"
        "from django.core.files.base import File\n"
        "from tinfork.apps.common.storage import HashedStorage\n"
        "class Killed(io.BytesIO):\n"
        "    def read(self, size=-1):\n"
        "        if self.tell(): os.kill(os.getpid(), signal.SIGKILL)\n"
        "        return super().read(4096)\n"
        "content = File(Killed(b'x' * 9000), 'x'); content.size = 9000\n"
        "HashedStorage(location=sys.argv[1]).put('ab/' + '0' * 64 + '.sound', content)\n"
    )
    done = subprocess.run([sys.executable, str(script), str(tmp_path / "files")], cwd=Path.cwd(), check=False)
    assert done.returncode == -9
    left = [p.name for p in (tmp_path / "files").rglob("*") if p.is_file()]
    assert [name.endswith(storage.PART) for name in left] == [True]


def test_files_are_swept_once_they_are_old_and_no_row_names_them(production):
    kept, loose, young = (keep_bytes(data, ".webm") for data in (b"film", b"loose", b"young"))
    Reel.objects.create(production=production, name="reel", film=kept)
    for key in (kept, loose):
        os.utime(path_of(key), (time.time() - 7200,) * 2)
    loose_part = path_of(loose).with_name("x.part")
    loose_part.write_bytes(b"half")
    os.utime(loose_part, (time.time() - 7200,) * 2)
    assert sweep() == 2
    assert path_of(kept).exists()
    assert path_of(young).exists()
    assert not path_of(loose).exists()
    assert not loose_part.exists()


def test_what_is_stored_again_is_young_again():
    key = keep_bytes(LOAF, ".sound")
    os.utime(path_of(key), (1, 1))
    keep_bytes(LOAF, ".sound")
    assert sweep() == 0
    assert path_of(key).exists()


def test_a_sweep_leaves_alone_what_another_upload_is_just_using(transactional_db, production):
    """One stores a file that is there and old, and has not named it yet; the sweep comes in between."""
    key = keep_bytes(LOAF, ".webm")
    stored, swept = threading.Event(), threading.Event()

    def store():
        try:
            with transaction.atomic():
                keep_bytes(LOAF, ".webm")
                # As if a slow disk had kept its time: only that it is held protects it.
                os.utime(path_of(key), (1, 1))
                stored.set()
                assert swept.wait(20)
                Reel.objects.create(production=production, name="reel", film=key)
        finally:
            connection.close()

    thread = threading.Thread(target=store)
    thread.start()
    assert stored.wait(20)
    assert sweep() == 0
    swept.set()
    thread.join()
    assert path_of(key).read_bytes() == LOAF
    assert sweep(0) == 0


def test_every_kind_of_row_that_names_a_file_counts(read_shot, client, chart, character):
    client.get(f"/shots/{read_shot.pk}/mix")
    client.post(f"/cast/charts/{chart.pk}/drawings", {"files": upload("5.png", b"no picture")})
    named = references()
    take = Take.objects.get()
    drawing = chart.drawings.first()
    waiting = Job.objects.get(kind="drawings").options["files"][0]["key"]
    for file in (take.original, take.listening, take.peaks, take.levels, drawing.picture, character.face):
        assert file.name in named
    assert waiting in named
    assert sweep(0) == 0
    do_job(str(Job.objects.get(kind="drawings").pk))
    assert waiting not in references()


def test_damaged_and_missing_files_are_found_and_named(read_shot):
    take = Take.objects.get()
    assert list(check_files()) == []
    path_of(take.original.name).write_bytes(b"stump")
    path_of(take.peaks.name).unlink()
    found = {damage.key: damage for damage in check_files()}
    assert set(found) == {take.original.name, take.peaks.name}
    assert not found[take.original.name].is_missing
    assert found[take.peaks.name].is_missing
    assert "take.wav" in found[take.original.name].named_by[0]


def test_a_file_that_is_missing_is_not_found_and_named_in_the_log(read_shot, client, caplog):
    take = Take.objects.get()
    path_of(take.listening.name).unlink()
    assert client.get(f"/takes/{take.pk}/sound").status_code == 404
    assert take.listening.name in caplog.text


def test_the_uploads_of_a_job_that_failed_are_kept_for_a_month_to_try_again(client, chart, monkeypatch):
    from datetime import timedelta

    from django.utils import timezone

    from tests.apps.test_failures import full

    client.post(f"/cast/charts/{chart.pk}/drawings", {"files": upload("5.png", b"any")})
    job = Job.objects.get(kind="drawings")
    monkeypatch.setattr("tinfork.apps.cast.work.prepare_files", full)
    do_job(str(job.pk))
    key = job.options["files"][0]["key"]
    assert key in references()
    Job.objects.update(ended_at=timezone.now() - timedelta(days=31))
    assert key not in references()
    assert client.post(f"/jobs/{job.pk}/again").status_code == 422


def test_the_command_names_what_is_damaged_and_ends_with_an_error(read_shot, capsys):
    from django.core.management import CommandError, call_command

    call_command("check_files")
    assert "All" in capsys.readouterr().out
    path_of(Take.objects.get().listening.name).write_bytes(b"stump")
    with pytest.raises(CommandError, match="1 of"):
        call_command("check_files")
    assert "take.wav" in capsys.readouterr().out


def test_what_killed_processes_left_is_swept(settings, tmp_path):
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    old, young, folder = tmp_path / "old.upload", tmp_path / "young.upload", tmp_path / "tinfork-job"
    old.write_bytes(b"x")
    young.write_bytes(b"x")
    folder.mkdir()
    (folder / "copy").write_bytes(b"x")
    for left in (old, folder):
        os.utime(left, (1, 1))
    assert sweep_temporary() == 2
    assert [p.name for p in tmp_path.iterdir()] == ["young.upload"]


def test_a_file_as_large_as_it_was_is_stored_from_a_path(tmp_path):
    uploaded = tmp_path / "take.wav"
    uploaded.write_bytes(LOAF)
    key = keep_file(uploaded, ".sound")
    assert path_of(key).read_bytes() == LOAF
    assert uploaded.exists()
