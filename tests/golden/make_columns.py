"""Write columns.json anew: what the core makes of thousands of random edits of mouth columns, and which it refuses.

`python -m tests.golden.make_columns`. The page draws the same at once: see `tests/js/edits.test.js`.
"""

import json
import random
from itertools import pairwise
from pathlib import Path
from typing import Any

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import TinForkError
from tinfork.core.solver.problem import Hold
from tinfork.core.soundtrack.columns import frames_of
from tinfork.core.soundtrack.model import Clip, PinnedMouth, Soundtrack, Track
from tinfork.core.soundtrack.pinning import mouth_pins, pin_row

FRAMES, DRAWINGS = 240, (1, 2, 3, 9)
RATE = FrameRate.parse("24")
FILE = Path(__file__).with_name("columns.json")
_COLUMNS, _CASES = 24, 100


def column(pick: random.Random) -> tuple[list[Hold], list[list[int]]]:
    """Holds over all frames, no two neighbours the same, and pins [first, end, is exact] of some of them."""
    cuts = sorted({0, FRAMES, *pick.sample(range(1, FRAMES), pick.randint(3, 30))})
    holds: list[Hold] = []
    for first, end in pairwise(cuts):
        others = [d for d in DRAWINGS if not holds or d != holds[-1].drawing]
        holds.append(Hold(first, end, pick.choice(others), "rest"))
    pins = [[h.start, h.end, int(pick.random() < 0.85)] for h in holds if pick.random() < 0.4]
    return holds, pins


def soundtrack(holds: list[Hold], pins: list[list[int]]) -> Soundtrack:
    """A shot of ten seconds with these pins."""
    clip = Clip(1, 1, 1, 10_000_000, 0, 0, 10_000_000)
    drawing = {hold.start: hold.drawing for hold in holds}
    row = [(RATE.first_us(a), RATE.first_us(b), PinnedMouth("1", drawing[a], "", bool(exact))) for a, b, exact in pins]
    return pin_row(Soundtrack((Track(1, "Voice", "effects"),), (clip,)), "1", row)


def edit(pick: random.Random) -> tuple[str, dict[str, Any]]:
    """Some edit, near the ends of the shot and past them too."""
    frame = pick.choice([pick.randint(0, FRAMES - 1), 0, FRAMES - 1, FRAMES + pick.randint(0, 40)])
    first = pick.choice([pick.randint(0, FRAMES - 1), 0, FRAMES - 1, FRAMES + pick.randint(0, 40)])
    last = pick.choice([first, first + pick.randint(0, 30), first - 1, FRAMES - 1])
    until = pick.choice([None, FRAMES, pick.randint(0, FRAMES)])
    parameters: dict[str, dict[str, Any]] = {
        "pin": {"first": first, "last": last, "drawing": pick.choice([*DRAWINGS, -1, None])},
        "clear": {"first": first, "last": last},
        "stretch": {"frame": frame, "to": pick.randint(0, FRAMES + 20), "at_start": pick.random() < 0.5},
        "split_hold": {"frame": frame},
        "give_to_before": {"first": first, "last": last},
        "nudge": {"first": first, "last": last, "by": pick.randint(-30, 30)},
        "insert_frames": {"at": frame, "frames": pick.randint(1, 20), "until": until},
        "remove_frames": {"first": first, "last": last, "until": until},
        "paste": {
            "at": frame,
            "holds": [
                {"frames": pick.randint(1, 9), "drawing": pick.choice([*DRAWINGS, -1])}
                for _ in range(pick.randint(1, 4))
            ],
        },
    }
    name = pick.choice(list(parameters))
    return name, {"speaker": "1", **parameters[name]}


def outcome(holds: list[Hold], pins: list[list[int]], name: str, parameters: dict[str, Any]) -> list[list[Any]] | None:
    """The pins after an edit, [first, end, is exact, drawing]; None where it is refused."""
    context = EditContext(RATE, {}, frozenset({"1"}), holds=lambda _: tuple(holds))
    try:
        after = parse_command(name, parameters).apply(soundtrack(holds, pins), context)
    except TinForkError:
        return None
    return [[*frames_of(p, RATE), int(p.mouth.is_exact), p.mouth.drawing] for p in mouth_pins(after) if p.mouth]


def made() -> dict[str, Any]:
    """All of it."""
    pick = random.Random(21)
    out = []
    for _ in range(_COLUMNS):
        holds, pins = column(pick)
        cases = []
        for _ in range(_CASES):
            name, parameters = edit(pick)
            cases.append([name, parameters, outcome(holds, pins, name, parameters)])
        out.append({"holds": [[h.start, h.end, h.drawing] for h in holds], "pins": pins, "cases": cases})
    return {"frames": FRAMES, "columns": out}


if __name__ == "__main__":
    FILE.write_text(json.dumps(made(), separators=(",", ":")) + "\n")
