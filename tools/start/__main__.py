"""The commands behind ./run."""

import argparse
import os
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NoReturn

from tools.start.errors import StartError
from tools.start.production import start_production
from tools.start.services import LOOPBACK, ROOT, Services, bring_up, database_of, demo_login, prepare_data


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(2, f"run {self.prog}: {message}\n")


def _call(*command: str, env: dict[str, str] | None = None) -> int:
    return subprocess.run(command, cwd=ROOT, check=False, env=env).returncode


def _tool(name: str) -> str:
    """A program of the virtual environment."""
    return str(Path(sys.executable).parent / name)


def demo(arguments: list[str]) -> int:
    """Start everything with the demo film, until told to stop."""
    parser = _site_parser("demo")
    parser.add_argument("--empty", action="store_true", help="without the demo film")
    options = parser.parse_args(arguments)

    def start(services: Services) -> str:
        # What stands in the source is no secret: beyond this machine the demo has a password of its own.
        password = demo_login()["password"] if options.host in LOOPBACK else secrets.token_urlsafe(9)
        if not options.empty:
            services.manage("load_demo", "--password", password)
        services.start_live()
        services.start_web()
        return "" if options.empty else f"Sign in as {demo_login()['email']} with the password {password}"

    return _run_until_stopped(options, start)


def serve(arguments: list[str]) -> int:
    """Start everything for a studio at work, until told to stop."""
    parser = _site_parser("serve")
    parser.add_argument("--workers", type=int, default=max(2, os.cpu_count() or 2), help="web processes")
    options = parser.parse_args(arguments)
    if not 1 <= options.workers <= 64:
        raise StartError("From 1 to 64 web processes can be started.")
    os.environ.setdefault("TINFORK_SIGN_UP", "invitation")
    os.environ.setdefault("TINFORK_LOG", "json")

    def start(services: Services) -> str:
        start_production(services, options.workers)
        return "Accounts are made by invitation: ./run invite" if os.environ["TINFORK_SIGN_UP"] == "invitation" else ""

    return _run_until_stopped(options, start)


def _site_parser(name: str) -> _Parser:
    """What every start of the site is told."""
    parser = _Parser(prog=name)
    parser.add_argument("--port", type=int, default=8321, help="port of the site (default 8321)")
    parser.add_argument("--host", default="127.0.0.1", help="address to answer on (default: this machine only)")
    parser.add_argument("--data", type=Path, default=ROOT / "data", help="folder for database and files")
    parser.add_argument("--reset", action="store_true", help="throw the data folder away first")
    return parser


def _run_until_stopped(options: argparse.Namespace, start: Callable[[Services], str]) -> int:
    """Database, then what `start` starts, then the workers; says what `start` gives back."""
    data = options.data.resolve()
    if options.reset:
        _throw_away(data)
    for name in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(name, _stop)
    services: Services | None = None
    try:
        print("Starting the database", flush=True)
        services = bring_up(data, host=options.host, port=options.port)
        said = start(services)
        services.start_worker()
        print(f"\n  Tin Fork is at {services.url}", flush=True)
        if said:
            print(f"  {said}", flush=True)
        print("  Ctrl-C stops everything\n", flush=True)
        services.watch()
    except KeyboardInterrupt:
        pass
    finally:
        for name in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(name, signal.SIG_IGN)
        if services:
            services.stop()
            print("Stopped.", flush=True)
    return 0


def check_files(arguments: list[str]) -> int:
    """Name the stored files of a data folder that are missing or damaged."""
    return _manage("check-files", "check_files", arguments)


def invite(arguments: list[str]) -> int:
    """Print a link with which somebody makes an account."""
    return _manage("invite", "invite", arguments)


def back_up(arguments: list[str]) -> int:
    """Write a production with everything in it into one file."""
    return _manage("back-up", "back_up", arguments)


def restore(arguments: list[str]) -> int:
    """Add the production of a backup to a studio."""
    return _manage("restore", "restore", arguments)


def _manage(prog: str, command: str, arguments: list[str]) -> int:
    """A command of Django's on a data folder, whether the site runs on it now or not."""
    parser = _Parser(prog=prog)
    parser.add_argument("--data", type=Path, default=ROOT / "data", help="folder for database and files")
    options, rest = parser.parse_known_args(arguments)
    data = options.data.resolve()
    if not (data / "secret-key").exists():
        raise StartError(f"{data} is no data folder of Tin Fork. Say which: --data DIR")
    with database_of(data) as environment:
        return _call(sys.executable, "manage.py", command, *rest, env=environment)


def _stop(number: int, frame: object) -> NoReturn:
    raise KeyboardInterrupt


def _throw_away(data: Path) -> None:
    """Remove a data folder that is one of ours; never a folder of other things."""
    from tools.start.postgres import home_for
    from tools.start.services import hold

    if not data.exists():
        return
    if any(data.iterdir()) and not (data / "secret-key").exists():
        raise StartError(f"{data} is not a data folder of Tin Fork; it is left as it is.")
    prepare_data(data)
    cluster, lock = home_for(data), hold(data)
    shutil.rmtree(data)
    if not cluster.is_relative_to(data):
        shutil.rmtree(cluster.parent, ignore_errors=True)
    lock.close()


#: Phonetic signs: the font they are cut out of, the font they get, their numbers in Unicode. tokens.css says the same.
PHONETIC_FONTS = [
    (
        "noto-sans-latin-ext",
        "noto-sans-ipa",
        "U+0250-02BA,U+02BD-02C5,U+02C7-02CC,U+02CE-02D9,U+02DE-02FF,U+0300-036F,U+1D4A,U+1D7B",
    ),
    ("noto-sans-greek", "noto-sans-ipa-greek", "U+03B2,U+03B8,U+03C7"),
]

#: What a person does in the browser, what needs no browser, and what needs the machine's clock to itself.
_BROWSER = ["tests/browser", "-m", "not alone"]
_CORE = ["-n", "2", "tests/core", "-p", "no:django", "-p", "tests.without_django"]
_REST = ["-n", "2", "--ignore=tests/browser", "--ignore=tests/core"]
_ALONE = ["tests/browser", "-m", "alone"]


def _all(environment: dict[str, str]) -> int:
    """The tests in the browser beside those that need none.

    Then those alone, and three minutes of attacks beside those of the core.

    A browser test mostly waits for the browser: two beside each other take longer than one after the other.
    """
    pytest = [sys.executable, "-m", "pytest"]
    status = _run_beside([*pytest, *_BROWSER], "rest", environment)
    status = max(status, _call(*pytest, *_ALONE, env=environment))
    return max(status, _run_beside([sys.executable, "-m", "tools.attack", "--short"], "core", dict(os.environ)))


def _run_beside(command: Sequence[str], part: str, environment: dict[str, str]) -> int:
    """A command, and beside it a part of the tests without a browser, which say what they have to say afterwards."""
    with tempfile.TemporaryFile("w+") as said:
        # In a process of its own, so that it can be stopped with all it has begun.
        rest = subprocess.Popen(
            [sys.executable, "-m", "tools.start", "rest", part], cwd=ROOT, env=environment, stdout=said,
            stderr=subprocess.STDOUT, start_new_session=True,
        )  # fmt: skip
        try:
            status = _call(*command, env=environment)
            status = max(status, rest.wait())
        finally:
            if rest.poll() is None:
                os.killpg(rest.pid, signal.SIGKILL)
        said.seek(0)
        print(said.read(), flush=True)
    return status


def without_browser(arguments: list[str]) -> int:
    """All tests that need no browser, on the database that is named, or a part of them.

    The parts: "core", those of core without Django; "rest", the others. Their random examples are of a seed that is
    said.
    """
    seed = secrets.randbelow(10**9)
    print(f"· tests without a browser; random examples of --hypothesis-seed={seed}", flush=True)
    pytest = [sys.executable, "-m", "pytest", f"--hypothesis-seed={seed}"]
    environment = dict(os.environ)
    parts = {"core": _CORE, "rest": _REST}
    chosen = [parts[name] for name in arguments] or [_CORE, _REST]
    return max(_call(*pytest, *part, env=environment) for part in chosen)


def test(arguments: list[str]) -> int:
    """The checks of style and layers, then every test, on a database of their own."""
    fast = "--fast" in arguments
    rest = [a for a in arguments if a != "--fast"]
    if status := _node_modules() if arguments else check([]):
        return status
    from tools.start import postgres

    with tempfile.TemporaryDirectory(prefix="tinfork-test-") as folder:
        Path(folder).chmod(0o755)
        cluster = postgres.start(Path(folder), quick=True)
        try:
            environment = {
                **os.environ,
                "DATABASE_URL": cluster.url("tinfork"),
                "TINFORK_DATA": folder,
                "TINFORK_SECRET_KEY": "only-for-tests",
                "OMP_NUM_THREADS": "1",
                "OPENBLAS_NUM_THREADS": "1",
            }
            (Path(folder) / "static").mkdir()
            cluster.create_database("tinfork")
            if rest:
                leave_out = ["--ignore=tests/browser"] if fast else []
                return _call(sys.executable, "-m", "pytest", *leave_out, *rest, env=environment)
            if fast:
                return _call(sys.executable, "-m", "tools.start", "rest", env=environment)
            return _all(environment)
        finally:
            cluster.stop()


def soak(arguments: list[str]) -> int:
    """Two people edit one shot in two browsers, for so many minutes, while processes are killed."""
    parser = _Parser("soak")
    parser.add_argument("minutes", type=float, nargs="?", default=10.0)
    os.environ["TINFORK_SOAK_S"] = str(60 * parser.parse_args(arguments).minutes)
    return test(["tests/browser/test_soak.py"])


#: Style and mistakes of the scripts.
_BIOME = "node_modules/@biomejs/biome/bin/biome"


def check(arguments: list[str]) -> int:
    """Style, types, layers, templates, scripts; the first failure ends it."""
    environment = {**os.environ, "DATABASE_URL": "postgres://none", "TINFORK_SECRET_KEY": "none"}
    if status := _node_modules():
        return status
    for command in (
        [_tool("ruff"), "check", "."],
        [_tool("ruff"), "format", "--check", "."],
        [_tool("mypy")],
        [_tool("lint-imports")],
        [sys.executable, "-m", "tools.check.unused"],
        [_tool("djlint"), "tinfork/apps", "--lint", "--quiet"],
        [_tool("node"), _BIOME, "ci", "."],
        [_tool("node"), "node_modules/typescript/bin/tsc", "-p", "."],
        [sys.executable, "-m", "tools.check.audit"],
    ):
        print(f"· {Path(command[0]).name} {' '.join(command[1:])}", flush=True)
        if status := _call(*command, env=environment):
            return status
    return 0


def format_(arguments: list[str]) -> int:
    """Put code into its style."""
    return (
        _node_modules()
        or _call(_tool("ruff"), "check", "--fix", ".")
        or _call(_tool("ruff"), "format", ".")
        or _call(_tool("node"), _BIOME, "check", "--write", ".")
    )


def _node_modules() -> int:
    """The npm packages as locked: the type checker, a validator, and what ./run vendor copies."""
    lock = ROOT / "package-lock.json"
    stamp = ROOT / "node_modules" / ".stamp"
    if stamp.exists() and stamp.read_text() == lock.read_text():
        return 0
    status = _call(_tool("npm"), "ci", "--ignore-scripts", "--no-audit", "--no-fund", "--silent")
    if not status:
        stamp.write_text(lock.read_text())
    return status


def vendor(arguments: list[str]) -> int:
    """Copy what ships with the application from its npm packages.

    Phonetic signs get a font of their own, which every Desk needs, cut out of a large one.
    """
    if status := _node_modules() or _call(_tool("node"), "tools/setup/vendor.mjs"):
        return status
    fonts = "tinfork/static/vendor/fonts"
    for large, small, signs in PHONETIC_FONTS:
        cut = [f"--unicodes={signs}", "--flavor=woff2", f"--output-file={fonts}/{small}.woff2"]
        if status := _call(_tool("pyftsubset"), f"{fonts}/{large}.woff2", *cut):
            return status
    return 0


def shots(arguments: list[str]) -> int:
    """Make docs/screenshots/ from the demo."""
    from tools.start.shots import make_shots

    make_shots(ROOT / "docs" / "screenshots")
    return 0


def main() -> int:
    """Run the command named first."""
    commands = {
        "demo": demo,
        "serve": serve,
        "check-files": check_files,
        "invite": invite,
        "back-up": back_up,
        "restore": restore,
        "test": test,
        "check": check,
        "rest": without_browser,
        "soak": soak,
        "format": format_,
        "vendor": vendor,
        "shots": shots,
    }
    try:
        return commands[sys.argv[1]](sys.argv[2:])
    except StartError as error:
        print(f"run: {error}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
