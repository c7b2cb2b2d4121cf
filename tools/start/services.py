"""Database, web process and worker as one thing that starts and stops cleanly."""

import ctypes
import fcntl
import json
import os
import secrets
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from io import TextIOWrapper
from pathlib import Path

from tools.start import postgres
from tools.start.errors import StartError

ROOT = Path(__file__).resolve().parents[2]


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
        (data / "files").mkdir(exist_ok=True)
        (data / "uploads").mkdir(exist_ok=True)
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
    web: "subprocess.Popen[bytes] | None" = None
    worker: "subprocess.Popen[bytes] | None" = None
    stopping: bool = field(default=False)

    @property
    def url(self) -> str:
        """The address people open."""
        return f"http://{'localhost' if self.host in ('127.0.0.1', '0.0.0.0') else self.host}:{self.port}"

    def manage(self, *arguments: str, quiet: bool = True) -> None:
        """Run a command of Django's."""
        done = subprocess.run(
            [sys.executable, "manage.py", *arguments], cwd=ROOT, env=self.environment, check=False,
            stdout=subprocess.PIPE if quiet else None, stderr=subprocess.STDOUT if quiet else None, text=True,
        )  # fmt: skip
        if done.returncode:
            log = self.data / "start.log"
            log.write_text(done.stdout or "")
            raise StartError(f"“{arguments[0]}” failed; what it said is in {log}")

    def start_web(self) -> None:
        """Start the web process and wait until it answers."""
        command = [
            sys.executable, "-m", "gunicorn", "tinfork.site.wsgi", "--bind", f"{self.host}:{self.port}",
            "--threads", "8", "--workers", "1", "--worker-tmp-dir", "/tmp", "--timeout", "120",
            "--log-level", "warning",
        ]  # fmt: skip
        self.web = self._spawn(command, "web.log")
        for _ in range(300):
            if self.web.poll() is not None:
                break
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/healthy", timeout=2):
                    return
            except (urllib.error.URLError, OSError):
                time.sleep(0.1)
        raise StartError(f"The web process did not start; its log is {self.data / 'web.log'}")

    def start_worker(self) -> None:
        """Start the worker: one job at a time, upkeep beside it."""
        command = [
            sys.executable,
            "manage.py",
            "procrastinate",
            "worker",
            "--concurrency",
            "2",
            "--delete-jobs",
            "successful",
        ]
        self.worker = self._spawn(command, "worker.log")

    def _spawn(self, command: list[str], log: str) -> "subprocess.Popen[bytes]":
        with (self.data / log).open("ab") as file:
            return subprocess.Popen(
                command, cwd=ROOT, env=self.environment, stdout=file, stderr=file, stdin=subprocess.DEVNULL,
                start_new_session=True, preexec_fn=_die_with_parent,
            )  # fmt: skip

    def watch(self) -> None:
        """Until told to stop: a worker that dies is started again, a web process that dies ends it."""
        while not self.stopping:
            if self.worker and self.worker.poll() is not None:
                self.start_worker()
            if self.web and self.web.poll() is not None:
                raise StartError(f"The web process ended; its log is {self.data / 'web.log'}")
            if self.cluster.process.poll() is not None:
                raise StartError(f"The database ended; its log is {self.data / 'postgres.log'}")
            time.sleep(0.3)

    def stop(self) -> None:
        """Stop everything, the database last."""
        self.stopping = True
        for process in (self.web, self.worker):
            if process and process.poll() is None:
                os.killpg(process.pid, signal.SIGTERM)
        for process in (self.web, self.worker):
            if process:
                try:
                    process.wait(10)
                except subprocess.TimeoutExpired:
                    os.killpg(process.pid, signal.SIGKILL)
                    process.wait()
        self.cluster.stop()


def demo_login() -> dict[str, str]:
    """E-mail and password of the demo's user."""
    login: dict[str, str] = json.loads((ROOT / "demo" / "film.json").read_text("utf-8"))["login"]
    return login


@contextmanager
def throwaway() -> Iterator[Services]:
    """Everything running with the demo film on a free port, in a folder that goes afterwards."""
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        Path(folder).chmod(0o755)
        services = bring_up(Path(folder), host="127.0.0.1", port=postgres.free_port(), quick=True)
        try:
            services.manage("load_demo")
            services.start_web()
            services.start_worker()
            yield services
        finally:
            services.stop()


def bring_up(data: Path, *, host: str, port: int, database: str = "tinfork", quick: bool = False) -> Services:
    """Data folder, database, migrations and static files; web and worker are not started yet."""
    prepare_data(data)
    lock = hold(data)
    cluster = postgres.start(data, quick=quick)
    try:
        cluster.create_database(database)
        environment = {
            **os.environ,
            "DJANGO_SETTINGS_MODULE": "tinfork.site.settings",
            "DATABASE_URL": cluster.url(database),
            "TINFORK_DATA": str(data),
            "TINFORK_SECRET_KEY": _secret(data),
            "TINFORK_HOSTS": ",".join({"localhost", "127.0.0.1", host} - {"0.0.0.0"}) if host != "0.0.0.0" else "*",
            "PYTHONUNBUFFERED": "1",
            # One thread a process: two processes at work beside each other are faster.
            "OMP_NUM_THREADS": "1",
            "OPENBLAS_NUM_THREADS": "1",
        }
        if quick:
            environment["TINFORK_STALLED_AFTER_S"] = "20"
        services = Services(data, host, port, cluster, environment, lock)
        services.manage("migrate", "--no-input")
        services.manage("collectstatic", "--no-input", "--clear")
    except BaseException:
        cluster.stop()
        raise
    return services
