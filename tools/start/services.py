"""Database, web processes, workers and a proxy as one thing that starts and stops cleanly."""

import ctypes
import fcntl
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from io import TextIOWrapper
from pathlib import Path

from tools.start import postgres
from tools.start.errors import StartError

ROOT = Path(__file__).resolve().parents[2]
#: Addresses that only this machine reaches.
LOOPBACK = ("127.0.0.1", "localhost", "::1")
#: The queues of each worker: one never takes long work, so that short work never waits behind it.
WORKERS = {"worker": ("work", "upkeep"), "worker-long": ("long", "work")}


#: What ends is started again, later each time it does within so many seconds; what ends this often then is given up.
_LATELY_S, _MOST_ENDS, _LONGEST_REST_S = 120, 25, 5.0


def check_port(host: str, port: int) -> None:
    """Refuse a port that is taken or not ours to use."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except PermissionError:
            raise StartError(f"Port {port} may only be used by root. Choose another: --port 8000") from None
        except OSError:
            raise StartError(f"Port {port} is taken by another program. Choose another: --port {port + 1}") from None
        except OverflowError:
            raise StartError(f"{port} is no port; choose one from 1024 to 65535.") from None


def prepare_data(data: Path) -> None:
    """The data folder, ours to write in, on a disk with room."""
    try:
        data.mkdir(parents=True, exist_ok=True)
        for name in ("files", "uploads", "tmp"):
            (data / name).mkdir(exist_ok=True)
        probe = data / ".probe"
        probe.write_bytes(b"0" * 65536)
        probe.unlink()
    except OSError as error:
        reason = (error.strerror or "cannot be used").lower()
        raise StartError(f"The data folder {data} cannot be written: {reason}. Give another: --data DIR") from None
    free = os.statvfs(data)
    if free.f_bavail * free.f_frsize < 200 * 1024 * 1024:
        raise StartError(f"The disk of {data} has less than 200 MB free. Make room, or give another: --data DIR")


def hold(data: Path) -> TextIOWrapper:
    """Take the data folder for this start; the lock goes with the process."""
    lock = (data / "lock").open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        raise StartError(f"Tin Fork is already running on {data}. Stop it first, or give another: --data DIR") from None
    return lock


def end_leftovers(data: Path) -> None:
    """End what a start that was killed left running, and clear what it left lying. The caller holds the data folder."""
    for note in data.glob("*.pid"):
        with suppress(OSError, ValueError):
            pid = int(note.read_text())
            # Numbers of processes are given again: only one that names this folder is ours.
            if str(data).encode() in Path(f"/proc/{pid}/environ").read_bytes():
                _end(pid)
        note.unlink(missing_ok=True)
    for name in ("tmp", "uploads"):
        shutil.rmtree(data / name, ignore_errors=True)
        (data / name).mkdir(exist_ok=True)


def _end(pid: int) -> None:
    """Ask a process to end, then make it."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        with suppress(ProcessLookupError):
            os.killpg(pid, number)
        for _ in range(50):
            if not Path(f"/proc/{pid}").exists():
                return
            time.sleep(0.1)


def _die_with_parent() -> None:
    """In a child, before it becomes the program: a start that is killed leaves nothing running."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)


def _secret(data: Path) -> str:
    path = data / "secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50))
        path.chmod(0o600)
    return path.read_text()


@dataclass
class Services:
    """What runs; `environment` is what every Django process needs."""

    data: Path
    host: str
    port: int
    cluster: postgres.Cluster
    environment: dict[str, str]
    lock: TextIOWrapper
    running: "dict[str, subprocess.Popen[bytes]]" = field(default_factory=dict)
    commands: dict[str, list[str]] = field(default_factory=dict)
    ended: dict[str, list[float]] = field(default_factory=dict)
    stopping: bool = field(default=False)

    @property
    def url(self) -> str:
        """The address people open."""
        return f"http://{'localhost' if self.host in ('127.0.0.1', '0.0.0.0') else self.host}:{self.port}"

    def manage(self, *arguments: str, quiet: bool = True) -> str:
        """Run a command of Django's; what it said, where it is `quiet`."""
        done = subprocess.run(
            [sys.executable, "manage.py", *arguments], cwd=ROOT, env=self.environment, check=False,
            stdout=subprocess.PIPE if quiet else None, stderr=subprocess.STDOUT if quiet else None, text=True,
        )  # fmt: skip
        if done.returncode:
            log = self.data / "start.log"
            log.write_text(done.stdout or "")
            raise StartError(f"“{arguments[0]}” failed; what it said is in {log}")
        return done.stdout or ""

    def start_web(self, name: str = "web", host: str = "", port: int = 0) -> None:
        """Start a web process, on the site's own address unless another is said, and wait until it answers."""
        host, port = host or self.host, port or self.port
        self.spawn(name, [sys.executable, "-m", "tinfork.site.serve", "--listen", f"{host}:{port}"])
        self.wait_until_answering(name, host, port)

    def start_live(self, port: int = 0) -> None:
        """Start the live process: beside the web process on a port of its own, or on one that a proxy knows.

        Before web processes, which are told where it is.
        """
        self.environment["TINFORK_LIVE"] = "/live" if port else f":{(port := postgres.free_port())}/live"
        host = "127.0.0.1" if self.environment["TINFORK_LIVE"] == "/live" else self.host
        self.spawn("live", [sys.executable, "-m", "tinfork.site.live", "--listen", f"{host}:{port}"])
        self.wait_until_answering("live", host, port)

    def wait_until_answering(self, name: str, host: str, port: int) -> None:
        """Wait until something answers there, be it that all is not well yet."""
        near = "127.0.0.1" if host == "0.0.0.0" else host
        for _ in range(300):
            if self.running[name].poll() is not None:
                break
            try:
                with urllib.request.urlopen(f"http://{near}:{port}/healthy", timeout=2):
                    return
            except urllib.error.HTTPError as error:
                if error.code != 502:
                    return
                time.sleep(0.1)
            except (urllib.error.URLError, OSError):
                time.sleep(0.1)
        raise StartError(f"“{name}” did not start; its log is {self.data / f'{name}.log'}")

    def start_worker(self) -> None:
        """Start the workers: one for short work, with upkeep beside it, and one that takes long work too."""
        for name, queues in WORKERS.items():
            command = [sys.executable, "manage.py", "procrastinate", "worker", "--queues", ",".join(queues)]
            concurrency = "2" if "upkeep" in queues else "1"
            self.spawn(name, [*command, "--concurrency", concurrency, "--delete-jobs", "successful"])

    def kill_worker(self) -> None:
        """Kill the workers, as a crash would."""
        for name in WORKERS:
            self.running[name].kill()
            self.running[name].wait()

    def spawn(self, name: str, command: list[str]) -> None:
        """Start a process of ours under a name, with a log and a note of its number."""
        with (self.data / f"{name}.log").open("ab") as file:
            process = subprocess.Popen(
                command, cwd=ROOT, env=self.environment, stdout=file, stderr=file, stdin=subprocess.DEVNULL,
                start_new_session=True, preexec_fn=_die_with_parent,
            )  # fmt: skip
        (self.data / f"{name}.pid").write_text(str(process.pid))
        self.running[name], self.commands[name] = process, command

    def watch(self) -> None:
        """Until told to stop: what dies is started again; what dies again and again ends it."""
        while not self.stopping:
            # The database first: without it the others end again.
            if self.cluster.process and self.cluster.process.poll() is not None and self._is_due("postgres"):
                self.cluster.start_again()
            for name, process in list(self.running.items()):
                if process.poll() is not None and self._is_due(name):
                    self.spawn(name, self.commands[name])
            time.sleep(0.3)

    def _is_due(self, name: str) -> bool:
        """Whether what has ended is to be started again now."""
        now = time.monotonic()
        lately = [at for at in self.ended.get(name, ()) if now - at < _LATELY_S]
        if len(lately) >= _MOST_ENDS:
            raise StartError(f"“{name}” ended again and again; its log is {self.data / f'{name}.log'}")
        rest_s = min(_LONGEST_REST_S, 0.1 * 2 ** len(lately))
        is_due = not self.stopping and (not lately or now - lately[-1] >= rest_s)
        self.ended[name] = [*lately, now] if is_due else lately
        return is_due

    def stop(self) -> None:
        """Stop everything, the database last."""
        self.stopping = True
        for process in self.running.values():
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGTERM)
        for name, process in self.running.items():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()
            (self.data / f"{name}.pid").unlink(missing_ok=True)
        self.cluster.stop()


def demo_login() -> dict[str, str]:
    """Email and password of the demo's user."""
    login: dict[str, str] = json.loads((ROOT / "demo" / "film.json").read_text("utf-8"))["login"]
    return login


@contextmanager
def throwaway(data: Path | None = None, *, quick: bool = True) -> Iterator[Services]:
    """Everything running with the demo film on a free port, in a folder that goes afterwards or in one given.

    `quick` where nobody pulls the plug.
    """
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        folder_of_ours = data or Path(folder)
        folder_of_ours.chmod(0o755)
        services = bring_up(folder_of_ours, host="127.0.0.1", port=postgres.free_port(), quick=quick)
        try:
            services.manage("load_demo")
            services.start_live()
            services.start_web()
            services.start_worker()
            yield services
        finally:
            services.stop()


def bring_up(data: Path, *, host: str, port: int, database: str = "tinfork", quick: bool = False) -> Services:
    """Data folder, database, migrations and static files; web processes and workers are not started yet."""
    prepare_data(data)
    lock = hold(data)
    end_leftovers(data)
    check_port(host, port)
    cluster = postgres.start(data, quick=quick)
    try:
        cluster.create_database(database)
        environment = _environment(data, cluster, host, database)
        if quick:
            environment.setdefault("TINFORK_STALLED_AFTER_S", "20")
        services = Services(data, host, port, cluster, environment, lock)
        services.manage("migrate", "--no-input")
        services.manage("createcachetable")
        services.manage("collectstatic", "--no-input", "--clear")
    except BaseException:
        cluster.stop()
        raise
    return services


@contextmanager
def database_of(data: Path) -> Iterator[dict[str, str]]:
    """The environment of Django's commands on a data folder; its database is started where the site does not run."""
    running = postgres.running(data)
    try:
        lock = None if running else hold(data)
        cluster = running or postgres.start(data)
        yield _environment(data, cluster, "localhost", "tinfork")
    finally:
        if not running:
            cluster.stop()
            if lock:
                lock.close()


def _environment(data: Path, cluster: postgres.Cluster, host: str, database: str) -> dict[str, str]:
    """What every Django process needs."""
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "tinfork.site.settings",
        "DATABASE_URL": cluster.url(database),
        "TINFORK_DATA": str(data),
        "TINFORK_SECRET_KEY": _secret(data),
        "TINFORK_HOSTS": os.environ.get("TINFORK_HOSTS") or _hosts(host),
        # Copies that jobs work on lie on the disk that was looked at for room, and are swept there.
        "TMPDIR": str(data / "tmp"),
        "TINFORK_OWN_TEMPORARY": "on",
        "PYTHONUNBUFFERED": "1",
        # One thread a process: two processes at work beside each other are faster.
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
    }


def _hosts(host: str) -> str:
    """The names that a site on this address answers to."""
    return "*" if host == "0.0.0.0" else ",".join({"localhost", "127.0.0.1", host})
