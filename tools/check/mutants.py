"""Mutation testing: one line of the core is changed at random, its tests are run, and unnoticed changes are listed.

`./run mutants [NUMBER] [--seed SEED] [--of PATH]`. A mutant is a plausible slip: a comparison, a sign, a bound, a
condition. The tests of a module are the files that import it, or something that uses it. Equivalent mutants count as
unnoticed.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parents[2]
#: The modules that are mutated.
PARTS = ("core/solver", "core/soundtrack", "core/commands", "core/speech", "core/clock.py", "core/formats")
#: The time limit of tests, after which a change counts as noticed: it caused an endless loop.
_LIMIT_S = 240

_SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Add, ast.FloorDiv: ast.Mult, ast.Div: ast.Mult,
    ast.And: ast.Or, ast.Or: ast.And, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """A file with one change: the line, the old text and the new one."""

    path: Path
    line: int
    what: str
    source: str


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Every change of a file, one at a time."""
    source = path.read_text("utf-8")
    for number in range(len(list(_places(ast.parse(source))))):
        tree = ast.parse(source)
        place = list(_places(tree))[number]
        before = ast.unparse(place.node)
        place.change()
        after = ast.unparse(place.node)
        yield Mutant(path, place.line, f"{before}  ->  {after}"[:160], ast.unparse(tree))


@dataclass
class _Spot:
    node: ast.AST
    line: int
    field: str
    at: int
    value: object

    def change(self) -> None:
        if self.at < 0:
            setattr(self.node, self.field, self.value)
        else:
            getattr(self.node, self.field)[self.at] = self.value


def _places(tree: ast.AST) -> Iterator[_Spot]:
    """The places where a file can be changed.

    Constants outside functions are settings, strings are texts: both are left out.
    """
    for function in ast.walk(tree):
        if not isinstance(function, ast.FunctionDef):
            continue
        for node in ast.walk(function):
            line = getattr(node, "lineno", function.lineno)
            if isinstance(node, ast.Compare):
                for at, operator in enumerate(node.ops):
                    if swap := _SWAPS.get(type(operator)):
                        yield _Spot(node, line, "ops", at, swap())
            elif isinstance(node, ast.BinOp | ast.BoolOp):
                if swap := _SWAPS.get(type(node.op)):
                    yield _Spot(node, line, "op", -1, swap())
            elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
                yield _Spot(node, line, "op", -1, ast.UAdd())
            elif isinstance(node, ast.Constant) and type(node.value) is int:
                yield _Spot(node, line, "value", -1, node.value + 1)
            elif isinstance(node, ast.Constant) and type(node.value) is bool:
                yield _Spot(node, line, "value", -1, not node.value)
            elif isinstance(node, ast.If | ast.IfExp):
                yield _Spot(node, line, "test", -1, ast.Constant(False))
            elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("min", "max"):
                yield _Spot(node.func, line, "id", -1, "max" if node.func.id == "min" else "min")


@cache
def _imports(path: Path) -> frozenset[str]:
    """The modules that a file imports."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module, *(f"{node.module}.{name.name}" for name in node.names)}
    return frozenset(found)


def files_testing(path: Path) -> list[str]:
    """The files of tests that import a module, or something that uses it over at most one other, the nearest first."""
    core = {_name(other): other for other in (ROOT / "tinfork" / "core").rglob("*.py")}
    wanted, found = {_name(path)}, dict[Path, None]()
    for _ in range(3):
        found |= {t: None for t in sorted((ROOT / "tests" / "core").glob("test_*.py")) if wanted & _imports(t)}
        wanted |= {name for name, other in core.items() if wanted & _imports(other)}
    own = sorted(found, key=lambda test: test.stem != f"test_{path.stem}")
    return [str(test.relative_to(ROOT)) for test in own]


def _name(path: Path) -> str:
    return ".".join(path.relative_to(ROOT).with_suffix("").parts)


def is_noticed(mutant: Mutant, tree: Path) -> bool:
    """Whether its tests fail with a change, in a copy of the project."""
    path = tree / mutant.path.relative_to(ROOT)
    kept = path.read_text("utf-8")
    path.write_text(mutant.source, "utf-8")
    command = [sys.executable, "-m", "pytest", "-x", "-q", "--hypothesis-seed=1", "-p", "no:django",
               "-p", "tests.without_django", *files_testing(mutant.path)]  # fmt: skip
    environment = {**os.environ, "OMP_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        return (
            subprocess.run(
                command, cwd=tree, env=environment, capture_output=True, timeout=_LIMIT_S, check=False
            ).returncode
            != 0
        )
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(kept, "utf-8")


def main() -> int:
    """Try some, and say which nobody noticed."""
    parser = argparse.ArgumentParser("run mutants")
    parser.add_argument("number", type=int, nargs="?", default=60)
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    parser.add_argument("--of", action="append", help="a file or folder under tinfork/", metavar="PATH")
    options = parser.parse_args()
    files: list[Path] = []
    for part in options.of or PARTS:
        here = ROOT / "tinfork" / part
        files += sorted(here.rglob("*.py")) if here.is_dir() else [here]
    every = [mutant for path in files for mutant in mutants_of(path)]
    chosen = random.Random(options.seed).sample(every, min(options.number, len(every)))
    print(f"{len(chosen)} of {len(every)} changes, seed {options.seed}", flush=True)
    noticed: Counter[str] = Counter()
    tried: Counter[str] = Counter()
    with tempfile.TemporaryDirectory(prefix="tinfork-mutants-") as folder, ThreadPoolExecutor(2) as pool:
        trees = [_copy(Path(folder) / str(n)) for n in range(2)]
        halves = [[(m, trees[n]) for m in chosen[n::2]] for n in range(2)]
        for results in pool.map(lambda half: [(m, is_noticed(m, tree)) for m, tree in half], halves):
            for mutant, is_seen in results:
                part = str(mutant.path.relative_to(ROOT / "tinfork").parent)
                tried[part] += 1
                noticed[part] += is_seen
                if not is_seen:
                    print(f"{mutant.path.relative_to(ROOT)}:{mutant.line}: {mutant.what}", flush=True)
    for part in sorted(tried):
        print(f"{part}: {noticed[part]} of {tried[part]} noticed")
    print(
        f"in all: {noticed.total()} of {tried.total()} noticed, {100 * noticed.total() / max(1, tried.total()):.0f} %"
    )
    return 0


def _copy(tree: Path) -> Path:
    """What the tests of core need of the project."""
    for part in ("tinfork", "tests", "demo", "tools"):
        shutil.copytree(ROOT / part, tree / part, ignore=shutil.ignore_patterns("__pycache__", "vendor"))
    shutil.copy(ROOT / "pyproject.toml", tree / "pyproject.toml")
    return tree


if __name__ == "__main__":
    sys.exit(main())
