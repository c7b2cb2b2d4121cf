"""A full disk: the application runs on a small disk, which is filled while people edit and upload."""

import os
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from http.client import HTTPException
from pathlib import Path

from tools.attack.hostile.sounds import tone, wav
from tools.attack.site import DEMO_SHOT, Row, Site, attacked
from tools.attack.visitor import Answer, Visitor

_SIZE_MB = 900
#: How long jobs may take once there is space again.
_SETTLE_S = 120
#: The free space of a nearly full disk: less than the reserve.
_NEARLY_MB = 120


@contextmanager
def small_disk() -> Iterator[Path | None]:
    """A disk in memory; None if this machine does not allow one."""
    with tempfile.TemporaryDirectory(prefix="tinfork-disk-") as folder:
        command = ["mount", "-t", "tmpfs", "-o", f"size={_SIZE_MB}m", "tmpfs", folder]
        if os.geteuid() != 0 or subprocess.run(command, check=False, capture_output=True).returncode:
            yield None
            return
        try:
            yield Path(folder)
        finally:
            subprocess.run(["umount", "-l", folder], check=False)


def attack() -> Row:
    """Attack with a nearly full disk, a full one, and one with space again."""
    with small_disk() as folder:
        if folder is None:
            return Row("full disk", 0, "not tried: only root may have a small disk of its own")
        data = folder / "data"
        data.mkdir()
        with attacked(data) as site:
            return _fill(site, folder)


class _Filler:
    """Fills the disk."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / "filler"

    def leave(self, free_mb: float) -> None:
        """Fill the disk except for some free space."""
        with self._path.open("ab") as file, suppress(OSError):
            while True:
                told = os.statvfs(self._path.parent)
                left = told.f_bavail * told.f_frsize - int(free_mb * 2**20)
                if left <= 0:
                    return
                file.write(b"\0" * min(left, 8 * 2**20))
                file.flush()

    def go(self) -> None:
        """Free the space."""
        self._path.unlink(missing_ok=True)


def _fill(site: Site, folder: Path) -> Row:
    ((shot, production),) = site.sql("SELECT id, production_id FROM produce_shot WHERE name = %s", DEMO_SHOT)
    filler, fell, person = _Filler(folder), [], site.other
    bring = f"/productions/{production}/takes/upload"
    sound = wav(tone(60.0))

    def expect(what: str, answer: Answer | None, *statuses: int) -> None:
        got = answer.status if answer else 0
        if got not in statuses:
            fell.append(f"{what}: {got or 'nobody answered'}")

    # Nearly full: uploads are refused in words, everything else goes on.
    filler.leave(_NEARLY_MB)
    refused = _try(person, bring, sound, "refused.wav")
    expect("an upload on a nearly full disk", refused, 503)
    if refused and "disk is full" not in refused.text:
        fell.append("the refused upload does not say that the disk is full")
    expect("health on a nearly full disk", person.get("/healthy"), 503)
    expect("an edit on a nearly full disk", site.edit(shot, "note", {"frame": 1, "text": "nearly"}, "d1", person), 200)

    # An upload that was taken while there was room, and no room left to open it.
    filler.go()
    site.services.kill_worker()
    taken = _try(person, bring, sound, "taken.wav")
    expect("an upload with room", taken, 200)
    filler.leave(0)
    answers = [_edit(site, shot, person, at) for at in range(10)]
    acknowledged = [at for at, status in enumerate(answers) if status == 200]
    fell += [f"an edit on a full disk: {status}" for status in answers if status not in (200, 503, 0)]
    _let_the_worker_try(site)
    filler.go()
    _wait_until_well(site)
    if not site.wait_for_jobs(_SETTLE_S):
        fell.append(f"{site.open_jobs()} jobs are still open {_SETTLE_S} s later")

    # With room again: what was taken is there, and is opened when it is asked for once more.
    rows = site.sql("SELECT listening, trouble FROM sound_take WHERE name = 'taken.wav'")
    if not rows:
        fell.append("the upload that was taken is lost")
    elif not rows[0][0]:
        if not rows[0][1]:
            fell.append("the take that could not be opened does not say why")
        for (job,) in site.sql("SELECT id FROM jobs_job WHERE can_retry AND kind = 'take'"):
            expect("opening it again", person.post(f"/jobs/{job}/again", {}), 302)
        site.wait_for_jobs(60)
        if not site.sql("SELECT 1 FROM sound_take WHERE name = 'taken.wav' AND listening <> ''"):
            fell.append("the take is not opened when it is asked for again")
    ((kept,),) = site.sql("SELECT annotations::text FROM reading_soundtrack WHERE shot_id = %s", shot)
    fell += [f"the acknowledged edit {at} is lost" for at in acknowledged if f"full {at}." not in kept]
    fell += site.damaged()
    fell += [f"500: {what}" for what in site.ledger.broken]
    told = f"of 10 edits on a disk with no byte left {len(acknowledged)} were kept, the others told to wait"
    return Row("full disk", site.ledger.asked, told, tuple(fell))


def _try(person: Visitor, address: str, sound: bytes, name: str) -> Answer | None:
    try:
        return person.post(address, {}, [("sound", name, sound)], Accept="application/json")
    except (OSError, HTTPException):
        return None


def _edit(site: Site, shot: int, person: Visitor, at: int) -> int:
    try:
        return site.edit(shot, "note", {"frame": 10 + at, "text": f"full {at}."}, f"full{at}", person).status
    except (OSError, HTTPException, ValueError):
        return 0


def _let_the_worker_try(site: Site) -> None:
    """Wait for the workers, which the watchdog restarts.

    They take the job and fail on the full disk, if they can start.
    """
    until = time.monotonic() + 25
    while time.monotonic() < until:
        with suppress(Exception):
            if site.sql("SELECT 1 FROM jobs_job WHERE kind = 'take' AND state = 'failed'"):
                return
        time.sleep(0.5)


def _wait_until_well(site: Site) -> None:
    until = time.monotonic() + 60
    while time.monotonic() < until:
        with suppress(OSError, HTTPException):
            if site.other.get("/healthy").status == 200:
                return
        time.sleep(0.5)
