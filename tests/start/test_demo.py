"""The start command itself, as a person runs it."""

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from tools.start.postgres import free_port

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def demo(tmp_path_factory):
    """Start a demo on a data folder; gives the process and its port."""
    import tempfile

    running = []
    with tempfile.TemporaryDirectory(prefix="tinfork-demo-") as folder:
        Path(folder).chmod(0o755)

        def start(port=None):
            port = port or free_port()
            command = [sys.executable, "-m", "tools.start", "demo", "--empty", "--port", str(port), "--data", folder]
            process = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
            running.append(process)
            for line in process.stdout:
                if "Ctrl-C" in line:
                    return process, port
            raise AssertionError("The demo did not start.")

        yield start, Path(folder)
        for process in running:
            if process.poll() is None:
                process.terminate()
            process.communicate(timeout=30)


def belonging_to(folder):
    """Processes that name the data folder in their command or environment."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdecimal() or int(entry.name) == os.getpid():
            continue
        try:
            told = (entry / "cmdline").read_bytes() + (entry / "environ").read_bytes()
            state = (entry / "stat").read_text().rsplit(")", 1)[1].split()[0]
        except OSError:
            continue
        if str(folder).encode() in told and state != "Z":
            found.append(entry.name)
    return found


def wait_until_gone(folder):
    for _ in range(100):
        if not belonging_to(folder):
            return
        time.sleep(0.1)
    raise AssertionError(belonging_to(folder))


def answers(port):
    """Whether all is well before long: a worker says so a moment after it was started."""
    for _ in range(100):
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/healthy", timeout=5) as answer:
                return answer.read() == b"ok"
        except urllib.error.HTTPError as error:
            assert error.read() == b"no worker is running"
            time.sleep(0.2)
    return False


def test_it_starts_answers_refuses_a_second_start_and_leaves_nothing_running_on_term(demo):
    start, folder = demo
    process, port = start()
    assert answers(port)
    command = [sys.executable, "-m", "tools.start", "demo", "--port", str(free_port()), "--data", str(folder)]
    second = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=60)
    assert second.returncode == 1
    assert "is already running" in second.stderr
    process.send_signal(signal.SIGTERM)
    process.communicate(timeout=30)
    assert process.returncode == 0
    wait_until_gone(folder)


def test_a_start_that_was_killed_does_not_stand_in_the_next_ones_way(demo):
    """On the same port and the same folder, at once."""
    start, folder = demo
    process, port = start()
    (folder / "tmp" / "left-by-a-job").write_text("x")
    process.kill()
    process.communicate(timeout=30)
    start(port)
    assert answers(port)
    assert not (folder / "tmp" / "left-by-a-job").exists()
