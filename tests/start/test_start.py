import socket
import subprocess
import sys
import tempfile
from pathlib import Path

import pytest

from tools.start import postgres
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


def made(folder, *versions):
    for version in versions:
        place = folder / version / "bin"
        place.mkdir(parents=True)
        (place / "initdb").touch()
    return folder


def test_the_server_that_fits_the_cluster_is_chosen_else_the_newest(tmp_path, monkeypatch):
    monkeypatch.setattr(postgres, "_INSTALLED", made(tmp_path / "pg", "9.6", "15", "16"))
    cluster = tmp_path / "cluster"
    cluster.mkdir()
    assert postgres.programs().parts[-2] == "16"
    assert postgres.programs(cluster).parts[-2] == "16"
    (cluster / "PG_VERSION").write_text("15\n")
    assert postgres.programs(cluster).parts[-2] == "15"
    (cluster / "PG_VERSION").write_text("14\n")
    with pytest.raises(StartError, match="PostgreSQL 14, which is not installed"):
        postgres.programs(cluster)


def test_why_a_database_could_not_be_made_is_said_not_only_what_was_said_last():
    told = (
        "creating directory x ... ok\nselecting default time zone ... Etc/UTC\n"
        'initdb: error: could not open file "/dev/null": Permission denied\n'
        "initdb: removing data directory\nchild process exited with exit code 1\n"
    )
    assert 'could not open file "/dev/null": Permission denied' in postgres._reason(told)
    assert postgres._reason("") == "no reason given"


def test_a_cluster_that_was_being_made_when_it_was_killed_is_made_anew():
    with tempfile.TemporaryDirectory(prefix="tinfork-start-") as folder:
        Path(folder).chmod(0o755)
        half = Path(folder) / "postgres.making"
        half.mkdir()
        (half / "PG_VERSION").write_text("15")
        cluster = postgres.start(Path(folder), quick=True)
        try:
            cluster.create_database("tinfork")
            assert not half.exists()
        finally:
            cluster.stop()


def test_beyond_this_machine_the_demo_has_no_password_that_stands_in_the_source(monkeypatch, capsys):
    """The start is followed up to where the demo is loaded."""
    from tools.start import __main__ as start

    given = {}

    class Services:
        url = "http://0.0.0.0"

        def manage(self, *arguments):
            given[arguments[0]] = arguments[1:]

        def start_web(self):
            pass

        start_worker = start_live = stop = start_web

        def watch(self):
            raise KeyboardInterrupt

    monkeypatch.setattr(start, "bring_up", lambda data, host, port: Services())
    monkeypatch.setattr(start.signal, "signal", lambda *more: None)
    for host, is_known in (("127.0.0.1", True), ("0.0.0.0", False), ("192.0.2.4", False)):
        start.demo(["--host", host])
        password = given["load_demo"][1]
        assert (password == start.demo_login()["password"]) is is_known
        assert len(password) >= 12
        assert password in capsys.readouterr().out


def test_only_the_proxy_that_is_named_says_who_people_are(tmp_path):
    from tools.start.production import _configuration

    alone = _configuration(tmp_path, "127.0.0.1", 8321, [1, 2], 3, "")
    assert "real_ip" not in alone
    assert "http_x_forwarded" not in alone
    # What stays open is passed on as it comes, by the process that is there for it.
    assert "proxy_pass http://127.0.0.1:3;" in alone.split("location /live/")[1].split("}")[0]
    behind = _configuration(tmp_path, "127.0.0.1", 8321, [1, 2], 3, "192.0.2.1")
    assert "set_real_ip_from 192.0.2.1;" in behind
    for wrong in ("all", "192.0.2.1; }"):
        with pytest.raises(StartError, match="must be the address"):
            _configuration(tmp_path, "127.0.0.1", 8321, [1, 2], 3, wrong)


def test_what_ends_is_started_again_later_each_time_and_given_up_in_the_end(monkeypatch):
    from tools.start import services as module

    now = [0.0]
    monkeypatch.setattr(module.time, "monotonic", lambda: now[0])
    running = module.Services(Path("/x"), "127.0.0.1", 1, None, {}, None)
    assert running._is_due("web")
    assert not running._is_due("web")
    starts = 1
    with pytest.raises(StartError, match="again and again"):
        for _ in range(10_000):
            now[0] += 0.1
            starts += running._is_due("web")
    assert starts == module._MOST_ENDS
    assert now[0] > 60
