import socket
import subprocess
import sys
from pathlib import Path

import pytest

from tools.start.errors import StartError
from tools.start.services import check_port, hold, prepare_data

ROOT = Path(__file__).resolve().parents[2]


def run(*arguments):
    return subprocess.run(
        [sys.executable, "-m", "tools.start", *arguments],
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


def test_a_taken_port_gives_one_clear_line():
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        done = run("demo", "--port", str(port))
    assert done.returncode == 1
    assert done.stderr.strip() == f"run: Port {port} is taken by another program. Choose another: --port {port + 1}"


def test_a_port_that_is_none_is_refused():
    with pytest.raises(StartError, match="is no port"):
        check_port("127.0.0.1", 99_999)


def test_a_data_folder_that_cannot_be_written_gives_one_clear_line():
    done = run("demo", "--port", "0", "--data", "/proc/tin-fork")
    assert done.returncode == 1
    assert "/proc/tin-fork cannot be written" in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_a_folder_of_other_things_is_never_thrown_away(tmp_path):
    (tmp_path / "thesis.txt").write_text("years of work")
    done = run("demo", "--port", "0", "--reset", "--data", str(tmp_path))
    assert "is not a data folder of Tin Fork" in done.stderr
    assert (tmp_path / "thesis.txt").exists()


def test_a_data_folder_is_used_by_one_start_at_a_time(tmp_path):
    prepare_data(tmp_path)
    first = hold(tmp_path)
    with pytest.raises(StartError, match="already running"):
        hold(tmp_path)
    first.close()
    hold(tmp_path).close()


def test_wrong_arguments_give_one_line():
    done = run("demo", "--prot", "1")
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) == 1
