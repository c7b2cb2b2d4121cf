"""`./run train-ear`: make the speech, train the network, learn how sure to be, write the weights. Under two hours on
two cores.

What was made before in the folder is used again; an empty folder starts from nothing.
"""

import argparse
import subprocess
import sys
from pathlib import Path
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.phones import HEARD
from tinfork.engines.ear import WEIGHTS
from tools.ear.make import make


def follows(files: list[Path]) -> NDArray[np.float16]:
    """How often each sound comes after each other in the speech made, as log probabilities."""
    counts = np.full((len(HEARD), len(HEARD)), 0.5)
    for file in files:
        heard = np.load(file)["heard"].astype(np.int64)
        at = np.flatnonzero(np.diff(heard))
        np.add.at(counts, (heard[at], heard[at + 1]), 1)
    return np.asarray(np.log(counts / counts.sum(axis=1, keepdims=True)), dtype=np.float16)


def write(weights: dict[str, NDArray[Any]]) -> None:
    """All of it, into the application."""
    np.savez_compressed(WEIGHTS, **cast(dict[str, Any], weights))


def main() -> None:
    """Make, train, calibrate, write."""
    parser = argparse.ArgumentParser(prog="./run train-ear", description=__doc__)
    parser.add_argument("--folder", type=Path, default=Path("data/ear"), help="where the speech is kept")
    parser.add_argument("--minutes", type=float, default=60.0, help="how long to train")
    parser.add_argument("--only", choices=("make", "train", "calibrate"), help="one step, no more")
    options = parser.parse_args()
    if options.only != "calibrate":
        files = make(options.folder)
    if options.only in (None, "train"):
        from tools.ear import train

        network = train.train(files, minutes=options.minutes)
        kept = train.weights(network) | {"follows": follows(files)}
        write(kept | {"sure_sound": np.zeros(9, np.float16), "sure_word": np.zeros(10, np.float16)})
    if options.only is None:
        # In a process of its own: the weights are read once.
        subprocess.run([sys.executable, "-m", "tools.ear", "--only", "calibrate"], check=True)
    if options.only == "calibrate":
        from tools.ear.calibrate import calibrate

        with np.load(WEIGHTS) as found:
            weights = {name: found[name] for name in found.files}
        write(weights | calibrate())
        print(f"{WEIGHTS}: {WEIGHTS.stat().st_size:,} bytes")


if __name__ == "__main__":
    main()
