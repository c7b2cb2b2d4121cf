"""Write motion.json anew: what the core makes of random edits of keys of motion, and which it refuses.

`python -m tests.golden.make_motion`. The page draws the same at once: see `tests/js/pose.test.js`.
"""

import json
import random
from pathlib import Path
from typing import Any

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import TinForkError
from tinfork.core.motion.curve import FrameKey
from tinfork.core.motion.pose import FIELDS, Pose
from tinfork.core.soundtrack.keys import MotionColumn, column_keys, key_frame, paste_keys
from tinfork.core.soundtrack.model import Clip, Soundtrack, Track

FRAMES = 96
RATE = FrameRate.parse("24")
COLUMN = MotionColumn("1", "mouth")
FILE = Path(__file__).with_name("motion.json")
WAYS = ["hold", "linear", "ease", "smooth"]


def pose(pick: random.Random) -> dict[str, Any]:
    """Some of a pose."""
    six = {name: pick.randint(-50, 50) / 4 for name in FIELDS if pick.random() < 0.5}
    return six | ({"bend": [pick.randint(-20, 20) / 4 for _ in range(18)]} if pick.random() < 0.2 else {})


def shot(keys: list[dict[str, Any]]) -> Soundtrack:
    """Four seconds with these keys."""
    clip = Clip(1, 1, 1, 4_000_000, 0, 0, 4_000_000)
    empty = Soundtrack((Track(1, "Voice", "effects"),), (clip,))
    if not keys:
        return empty
    rows = [FrameKey(k["frame"], Pose.clamped(k, k.get("bend", ())), k["way"], k["step"]) for k in keys]
    return paste_keys(empty, COLUMN, RATE, 0, rows)


def copied(pick: random.Random, frame: int) -> dict[str, Any]:
    """A key."""
    return {"frame": frame, **pose(pick), "way": pick.choice(WAYS), "step": pick.choice([1, 2, 3])}


def edit(pick: random.Random) -> tuple[str, dict[str, Any]]:
    """Some edit, near the ends of the shot and past them too."""
    frame = pick.choice([pick.randint(0, FRAMES - 1), 0, FRAMES - 1, FRAMES + 3])
    first = pick.choice([pick.randint(0, FRAMES - 1), 0])
    last = pick.choice([first, first + pick.randint(0, 40), first - 1, FRAMES - 1])
    span = {"first": first, "last": max(0, last)}
    how = {"way": pick.choice([None, *WAYS]), "step": pick.choice([None, 1, 2])}
    parameters: dict[str, dict[str, Any]] = {
        "key_set": {"frame": frame, **pose(pick), **({} if pick.random() < 0.5 else how)},
        "key_remove": span,
        "key_move": {**span, "by": pick.randint(-30, 30)},
        "key_spread": {**span, "to": pick.randint(0, FRAMES + 5)},
        "key_way": {**span, **how},
        "key_paste": {
            "at": frame,
            "keys": [copied(pick, at) for at in sorted(pick.sample(range(30), pick.randint(1, 4)))],
        },
    }
    name = pick.choice(list(parameters))
    return name, {"speaker": "1", "part": "mouth", **parameters[name]}


def outcome(keys: list[dict[str, Any]], name: str, parameters: dict[str, Any]) -> list[list[Any]] | None:
    """The keys after an edit, [frame, pose, way, step]; None where it is refused."""
    try:
        after = parse_command(name, parameters).apply(shot(keys), EditContext(RATE, {}, frozenset({"1"})))
    except TinForkError:
        return None
    return [[key_frame(k, RATE), k.pose.numbers, k.way, k.step] for k in column_keys(after, COLUMN)]


def made() -> dict[str, Any]:
    """All of it."""
    pick = random.Random(23)
    out = []
    for _ in range(30):
        keys = [copied(pick, frame) for frame in sorted(pick.sample(range(FRAMES), pick.randint(0, 9)))]
        cases = []
        for _ in range(40):
            name, parameters = edit(pick)
            cases.append([name, parameters, outcome(keys, name, parameters)])
        out.append({"keys": keys, "cases": cases})
    return {"frames": FRAMES, "columns": out}


if __name__ == "__main__":
    FILE.write_text(json.dumps(made(), separators=(",", ":")) + "\n", encoding="utf-8")
