"""`./run train-ear`: makes the speech, trains the networks, calibrates confidence, and writes the weights.

It takes less than two hours on two cores, apart from making the speech. Existing speech in the folder is reused.
Natural voices have no known times: they are aligned by the present ear, then by the one trained on that, and so on,
round by round.
"""

import argparse
import subprocess
import sys
from pathlib import Path
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.phones import HEARD
from tinfork.core.speech.lexicon import base_language
from tinfork.engines.ear import WEIGHTS
from tools.ear import voices
from tools.ear.make import forget_aligned, make

#: The prefixes of the weights of the network, and of the one for edges.
_MARK, _EDGE_MARK = "net_", "edge_"
#: The weight of the counts of all languages in each language, in sounds.
_LENT = 50.0


def transitions(files: list[Path]) -> dict[str, NDArray[np.float16]]:
    """How often each sound comes after each other in the speech made, in all and by language, as log probabilities.

    A language's counts are smoothed by those of all (a Dirichlet prior: MacKay and Peto 1995).
    """
    counts: dict[str, NDArray[np.float64]] = {}
    for file in files:
        heard = np.load(file)["heard"].astype(np.int64)
        at = np.flatnonzero(np.diff(heard))
        own = counts.setdefault(base_language(voices.language_of(file.stem)), np.zeros((len(HEARD), len(HEARD))))
        np.add.at(own, (heard[at], heard[at + 1]), 1)
    everyone = np.sum(list(counts.values()), axis=0) + 0.5
    usual = everyone / everyone.sum(axis=1, keepdims=True)
    out = {"follows": np.log(usual)}
    for language, own in counts.items():
        out[f"follows_{language}"] = np.log((own + _LENT * usual) / (own.sum(axis=1, keepdims=True) + _LENT))
    return {name: table.astype(np.float16) for name, table in out.items()}


def write(weights: dict[str, NDArray[Any]]) -> None:
    """Write all weights into the application."""
    np.savez_compressed(WEIGHTS, **cast(dict[str, Any], weights))


def put(some: dict[str, NDArray[Any]]) -> None:
    """Write some weights beside, or instead of, those that the application has."""
    with np.load(WEIGHTS) as found:
        weights = {name: found[name] for name in found.files}
    write(weights | some)
    print(f"{WEIGHTS}: {WEIGHTS.stat().st_size:,} bytes")


def train_once(files: list[Path], *, minutes: float, is_afresh: bool) -> None:
    """A network from the speech made, from the weights that ship on, or from nothing; written into the application."""
    from tools.ear import train

    with np.load(WEIGHTS) as found:
        shipped = {name: found[name] for name in found.files}
    kept = transitions(files) | {name: shipped[name] for name in shipped if name.startswith(("sure_", _EDGE_MARK))}
    start = {name.removeprefix(_MARK): values for name, values in shipped.items() if name.startswith(_MARK)}
    network = train.train(files, minutes=minutes, start=None if is_afresh else start or None)
    write(kept | {f"{_MARK}{name}": values for name, values in train.weights(network).items()})


def main() -> None:
    """Make, train, calibrate, write."""
    parser = argparse.ArgumentParser(prog="./run train-ear", description=__doc__)
    parser.add_argument("--folder", type=Path, default=Path("data/ear"), help="where the speech is kept")
    parser.add_argument("--minutes", type=float, default=75.0, help="how long to train, all rounds together")
    parser.add_argument("--afresh", action="store_true", help="from nothing, not from the weights that ship")
    parser.add_argument("--rounds", type=int, default=2, help="how often natural voices are aligned and learnt")
    parser.add_argument("--only", choices=("make", "train", "edges", "calibrate"), help="one step, no more")
    options = parser.parse_args()
    if options.only == "make":
        make(options.folder)
    if options.only in (None, "train"):
        rounds = options.rounds if options.only is None else 1
        for nth in range(rounds):
            if nth:
                forget_aligned(options.folder)
            is_afresh = options.afresh and nth == 0
            train_once(make(options.folder), minutes=options.minutes / rounds, is_afresh=is_afresh)
    if options.only is None:
        # In processes of their own: the weights are read once.
        for step in ("edges", "calibrate"):
            subprocess.run([sys.executable, "-m", "tools.ear", "--only", step], check=True)
    if options.only == "edges":
        from tools.ear import train_edges
        from tools.ear.edges import edge_rows

        learnt = train_edges.weights(train_edges.train(edge_rows()))
        put({f"{_EDGE_MARK}{name}": values for name, values in learnt.items()})
    if options.only == "calibrate":
        from tools.ear import calibrate, heard

        put(calibrate.calibrate() | heard.calibrate())


if __name__ == "__main__":
    main()
