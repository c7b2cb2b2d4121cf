"""The site under attack: all of it running, an attacker with a studio of their own, and another person at work."""

import json
import os
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg

from tools.attack.hostile.sounds import tone, wav
from tools.attack.visitor import Answer, Ledger, Visitor
from tools.attack.watch import Watch
from tools.start.services import ROOT, Services, demo_login, throwaway

#: Where the other person is at work.
DEMO_SHOT = "020 The counter"


@dataclass(frozen=True)
class Row:
    """What one attack came to: how many tries, what was measured, and everything that fell."""

    name: str
    tries: int
    told: str
    fell: tuple[str, ...] = ()


@dataclass
class Site:
    """What is attacked."""

    services: Services
    ledger: Ledger
    attacker: Visitor
    other: Visitor
    production: int
    shot: int
    character: int
    chart: int

    def sql(self, query: str, *values: object) -> list[Any]:
        """Rows of the database: what pages say is not believed here."""
        with psycopg.connect(self.services.cluster.url("tinfork"), autocommit=True) as connection:
            return connection.execute(query.encode(), values).fetchall()

    def watch(self) -> Watch:
        """Look on from now on: another person walks through the demo."""
        ((shot,),) = self.sql("SELECT id FROM produce_shot WHERE name = %s", DEMO_SHOT)
        return Watch(
            self.services, ["/", "/cast/", f"/shots/{shot}/desk", f"/shots/{shot}/sound.json"], self.other
        ).start()

    def send(self, where: str, files: list[tuple[str, bytes]]) -> list[Answer]:
        """Files to where such files go, all at once where the page takes many."""
        fields: dict[str, str] = {}
        address, field = {
            "sound": (f"/productions/{self.production}/takes/upload", "sound"),
            "film": (f"/productions/{self.production}/reels", "film"),
            "drawings": (f"/cast/charts/{self.chart}/drawings", "files"),
            "page": (f"/cast/charts/{self.chart}/page", "page"),
            "face": (f"/cast/{self.character}/edit", "face"),
            "archive": ("/cast/import", "archive"),
            "script": (f"/productions/{self.production}/script/preview", "file"),
        }[where]
        if where == "face":
            fields = {"name": "Odalys", "ink": "1"}
        parts = [(field, name, data) for name, data in files]
        if where in ("sound", "drawings"):
            return [self.attacker.post(address, fields, parts)]
        return [self.attacker.post(address, fields, [part]) for part in parts]

    def open_jobs(self) -> int:
        """How many jobs wait or run."""
        ((count,),) = self.sql("SELECT count(*) FROM jobs_job WHERE state IN ('waiting', 'running')")
        return int(count)

    def wait_for_jobs(self, limit_s: float) -> bool:
        """Until nothing waits or runs; False where that takes longer."""
        over = threading.Event()
        for _ in range(int(limit_s * 4)):
            if not self.open_jobs():
                return True
            over.wait(0.25)
        return False

    def damaged(self) -> list[str]:
        """Stored files that are damaged or missing, as the command names them."""
        done = subprocess.run(
            [sys.executable, "manage.py", "check_files"], cwd=ROOT, env=self.services.environment,
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        return [row for row in done.stdout.splitlines() if row.startswith(("missing:", "damaged:"))] or (
            [] if done.returncode == 0 else [done.stderr.strip()[-300:]]
        )

    def edit(
        self, shot: int, name: str, parameters: dict[str, object], token: str, who: Visitor | None = None
    ) -> Answer:
        """One edit of a shot, as its Desk sends it, on the revision there is; if that is not told, the answer."""
        visitor = who or self.attacker
        told = visitor.get(f"/shots/{shot}/sound.json")
        if told.status != 200:
            return told
        revision = json.loads(told.body)["revision"]
        body = {"revision": revision, "shown": revision, "name": name, "parameters": parameters, "token": token}
        return visitor.post_json(f"/shots/{shot}/sound/edit", json.dumps(body).encode())


@contextmanager
def attacked(data: Path | None = None) -> Iterator[Site]:
    """Everything running, with what dies started again, and two people signed in."""
    os.environ.setdefault("TINFORK_STALLED_AFTER_S", "20")
    with throwaway(data, quick=False) as services:
        threading.Thread(target=_watched, args=(services,), daemon=True).start()
        ledger = Ledger()
        attacker, other = Visitor(services.port, ledger), Visitor(services.port, ledger)
        attacker.sign_up("Hostile Pictures")
        login = demo_login()
        other.sign_in(login["email"], login["password"])
        production, shot = attacker.start_production("Attack")
        site = Site(services, ledger, attacker, other, production, shot, 0, 0)
        site.character, site.chart = site.sql(
            "SELECT c.id, ch.id FROM cast_character c JOIN people_studio s ON s.id = c.studio_id JOIN cast_part p ON "
            "p.character_id = c.id JOIN cast_chart ch ON ch.part_id = p.id WHERE s.name = 'Hostile Pictures' AND "
            "c.name = 'Odalys' ORDER BY ch.id LIMIT 1"
        )[0]
        if not site.wait_for_jobs(180):
            raise AssertionError("The demo was not read in three minutes.")
        attacker.post(f"/shots/{shot}/sounds", {}, [("sound", "voice.wav", wav(tone(6.0)))])
        site.wait_for_jobs(60)
        yield site


def _watched(services: Services) -> None:
    services.watch()
