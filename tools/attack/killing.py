"""Killing random processes while people edit, upload, read and export.

Everything acknowledged must be there afterwards.
"""

import os
import random
import signal
import threading
import time
from http.client import HTTPException
from pathlib import Path

from tools.attack.hostile.sounds import tone, wav
from tools.attack.site import DEMO_SHOT, Row, Site
from tools.attack.visitor import Visitor
from tools.attack.watch import below

#: The time limit for recovery after the last kill.
_SETTLE_S = 240


class _Visitors:
    """What one person does repeatedly, and what was acknowledged."""

    def __init__(self, site: Site, over: threading.Event) -> None:
        self.site, self.over = site, over
        self.notes: dict[int, str] = {}
        #: Notes sent to a frame after the last acknowledged one: they may have been stored without a response.
        self.unsure: dict[int, set[str]] = {}
        self.takes: list[str] = []
        self.troubles: list[str] = []
        self.tries = 0

    def visitor(self) -> Visitor:
        """The demo's user in a new session."""
        again = Visitor(self.site.services.port, self.site.ledger, timeout_s=15)
        again.cookies = dict(self.site.other.cookies)
        return again

    def edit(self, shot: int) -> None:
        """Write notes on one frame after another; unacknowledged ones are sent again, as pages do."""
        visitor, frame = self.visitor(), 0
        while not self.over.is_set():
            text, token = f"note {frame} {random.random():.6f}", f"{os.getpid()}-{time.monotonic_ns()}"
            self.unsure.setdefault(frame % 40, set()).add(text)
            while not self.over.is_set():
                self.tries += 1
                try:
                    answer = self.site.edit(shot, "note", {"frame": frame % 40, "text": text}, token, visitor)
                except (OSError, HTTPException, ValueError):
                    self.over.wait(0.2)
                    continue
                if answer.status == 200:
                    self.notes[frame % 40] = text
                    self.unsure[frame % 40] = set()
                    break
                if answer.status == 422:
                    self.troubles.append(f"an edit was refused: {answer.text[:120]}")
                    break
                # A conflict, or no answer: try again.
                self.over.wait(0.05)
            frame += 1

    def upload(self, production: int) -> None:
        """Upload sounds, each with its own name."""
        visitor, number = self.visitor(), 0
        while not self.over.is_set():
            name = f"killed-{number}.wav"
            self.tries += 1
            try:
                answer = visitor.post(
                    f"/productions/{production}/takes/upload", {}, [("sound", name, wav(tone(0.5 + number % 5)))]
                )
            except (OSError, HTTPException):
                self.over.wait(0.2)
                number += 1
                continue
            if answer.status == 200:
                self.takes.append(name)
            number += 1
            self.over.wait(0.3)

    def read_and_export(self, shot: int) -> None:
        """Re-read and export pictures: long jobs that get killed."""
        visitor = self.visitor()
        while not self.over.is_set():
            self.tries += 2
            try:
                visitor.post(f"/shots/{shot}/read/again", {"first": "1", "last": "40"})
                visitor.post(f"/shots/{shot}/handover/make", {"as": "pictures"})
            except (OSError, HTTPException):
                pass
            self.over.wait(1.5)


def attack(site: Site, *, seconds: float, seed: int = 5) -> Row:
    """Kill something every second or two for a while; then check the data."""
    ((shot, production),) = site.sql("SELECT id, production_id FROM produce_shot WHERE name = %s", DEMO_SHOT)
    over = threading.Event()
    work = _Visitors(site, over)
    threads = [
        threading.Thread(target=target, args=(number,), daemon=True)
        for target, number in ((work.edit, shot), (work.upload, production), (work.read_and_export, shot))
    ]
    for thread in threads:
        thread.start()
    killed = _kill_for(site, seconds, random.Random(seed))
    over.set()
    for thread in threads:
        thread.join(60)
    fell = list(work.troubles)
    _wait_for_the_site(site)
    if not site.wait_for_jobs(_SETTLE_S):
        fell.append(f"{site.open_jobs()} jobs are still open {_SETTLE_S} s later")
    fell += _missing(site, work, shot, production)
    fell += site.damaged()
    told = (
        f"{sum(killed.values())} kills ({', '.join(f'{name} {count}' for name, count in sorted(killed.items()))}); "
        f"{len(work.notes)} frames noted and {len(work.takes)} uploads acknowledged, none lost"
    )
    return Row("killed processes", work.tries, told, tuple(fell))


def _kill_for(site: Site, seconds: float, dice: random.Random) -> dict[str, int]:
    """Kill our processes, workers' children or database processes repeatedly; returns how many of each."""
    killed: dict[str, int] = {}
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        time.sleep(dice.uniform(0.8, 2.5))
        name = dice.choice(("web", "worker", "worker-long", "child", "child", "database connection", "database"))
        pids = _pids(site, name)
        if not pids:
            continue
        try:
            os.kill(dice.choice(pids), signal.SIGKILL)
        except ProcessLookupError:
            continue
        killed[name] = killed.get(name, 0) + 1
    return killed


def _pids(site: Site, name: str) -> list[int]:
    running = site.services.running
    if name in running:
        return [running[name].pid]
    if name == "child":
        return [pid for one in ("worker", "worker-long") for pid in below(running[one].pid)]
    database = site.services.cluster.process
    if database is None:
        return []
    if name == "database":
        return [database.pid]
    return [pid for pid in below(database.pid) if b"idle" in _title(pid) or b"SELECT" in _title(pid)]


def _title(pid: int) -> bytes:
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return b""


def _wait_for_the_site(site: Site) -> None:
    """Wait until the site answers again."""
    for _ in range(240):
        try:
            if site.other.get("/healthy").status == 200:
                return
        except (OSError, HTTPException):
            pass
        time.sleep(0.25)


def _missing(site: Site, work: _Visitors, shot: int, production: int) -> list[str]:
    """Acknowledged data that is missing."""
    fell: list[str] = []
    ((kept,),) = site.sql("SELECT annotations::text FROM reading_soundtrack WHERE shot_id = %s", shot)
    for frame, text in work.notes.items():
        if not any(one in kept for one in (text, *work.unsure.get(frame, ()))):
            fell.append(f"the note “{text}” on frame {frame} is lost")
    takes = {name: (listening, trouble) for name, listening, trouble in site.sql(
        "SELECT name, listening, trouble FROM sound_take WHERE production_id = %s", production)}  # fmt: skip
    for name in work.takes:
        if name not in takes:
            fell.append(f"the upload {name} is lost")
        elif not any(takes[name]):
            fell.append(f"the upload {name} was neither opened nor says why not")
    return fell
