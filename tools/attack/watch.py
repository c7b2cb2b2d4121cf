"""Monitoring during an attack: the waiting time of another user, and the memory of each process."""

import statistics
import threading
import time
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path

from tools.attack.visitor import Visitor, timed
from tools.start.services import Services

_EVERY_S = 0.2
#: The limits during an attack: of waiting (seconds), or so many times the usual wait, on a slow machine.
MOST_WAIT_S, MOST_TIMES = 1.0, 10
MOST_WEB_BYTES, MOST_CHILD_BYTES = 400 * 2**20, 2**30


def memory_of(pid: int) -> int:
    """Resident bytes of a process; 0 if it has ended."""
    try:
        rows = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return 0
    return next((int(row.split()[1]) * 1024 for row in rows if row.startswith("VmRSS:")), 0)


def below(pid: int) -> list[int]:
    """All descendants of a process."""
    children: dict[int, list[int]] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdecimal():
            try:
                told = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            children.setdefault(int(told[1]), []).append(int(entry.name))
    out, new = [], [pid]
    while new:
        new = [child for one in new for child in children.get(one, ())]
        out += new
    return out


@dataclass
class Watched:
    """Measurements.

    The other user's usual wait and waiting times (seconds), the most bytes of the web process and of a worker's child.
    """

    usual_s: float = 0.0
    waits_s: list[float] = field(default_factory=list)
    health_s: list[float] = field(default_factory=list)
    unanswered: int = 0
    web_bytes: int = 0
    child_bytes: int = 0

    @property
    def p95_s(self) -> float:
        """The 95th percentile of the other user's waiting times."""
        return statistics.quantiles(self.waits_s, n=20)[-1] if len(self.waits_s) > 1 else 0.0

    @property
    def told(self) -> str:
        """The figures, in words."""
        return (
            f"others wait {self.p95_s:.2f} s (95 %), health {max(self.health_s, default=0):.2f} s at most, "
            f"web {self.web_bytes / 2**20:.0f} MB, child {self.child_bytes / 2**20:.0f} MB at most"
        )

    @property
    def fell(self) -> list[str]:
        """The exceeded limits."""
        health = max(self.health_s, default=0.0)
        most_s = max(MOST_WAIT_S, MOST_TIMES * self.usual_s)
        over = {
            f"others waited {self.p95_s:.2f} s": self.p95_s > most_s,
            f"health took {health:.2f} s": health > most_s,
            f"the web process took {self.web_bytes / 2**20:.0f} MB": self.web_bytes > MOST_WEB_BYTES,
            f"a child took {self.child_bytes / 2**20:.0f} MB": self.child_bytes > MOST_CHILD_BYTES,
            f"{self.unanswered} requests of others went wrong": self.unanswered > 0,
        }
        return [what for what, is_over in over.items() if is_over]


class Watch:
    """Monitors in its own threads, from `start` to `stop`."""

    def __init__(self, services: Services, pages: list[str], other: Visitor) -> None:
        self.seen = Watched()
        self._services, self._pages, self._other = services, pages, other
        self._health = Visitor(services.port, other.ledger, timeout_s=10)
        self._over = threading.Event()
        self._threads = [threading.Thread(target=work, daemon=True) for work in (self._ask, self._weigh, self._pulse)]

    def start(self) -> "Watch":
        """Measure the usual wait, then start monitoring."""
        self.seen.usual_s = statistics.median(timed(self._other, page) for page in self._pages * 2)
        for thread in self._threads:
            thread.start()
        return self

    def stop(self) -> Watched:
        """Stop monitoring; returns the measurements."""
        self._over.set()
        for thread in self._threads:
            thread.join()
        return self.seen

    def _ask(self) -> None:
        at = 0
        while not self._over.wait(_EVERY_S):
            try:
                self.seen.waits_s.append(timed(self._other, self._pages[at % len(self._pages)]))
            except (OSError, HTTPException, AssertionError):
                self.seen.unanswered += 1
            at += 1

    def _pulse(self) -> None:
        while not self._over.wait(_EVERY_S):
            start = time.monotonic()
            try:
                self._health.get("/healthy")
            except (OSError, HTTPException):
                continue
            self.seen.health_s.append(time.monotonic() - start)

    def _weigh(self) -> None:
        while not self._over.wait(_EVERY_S):
            running = dict(self._services.running)
            for name, process in running.items():
                if name.startswith("web"):
                    self.seen.web_bytes = max(self.seen.web_bytes, memory_of(process.pid))
                elif name.startswith("worker"):
                    weighed = [memory_of(child) for child in below(process.pid)]
                    self.seen.child_bytes = max([self.seen.child_bytes, *weighed])
