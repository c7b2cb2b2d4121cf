"""Write poses.json anew: curves of random keys and maps of random poses, worked out apart from the code under test.

`python -m tests.golden.make_poses`. In-betweens are taken from Bernstein polynomials of the same cubics, maps from the
product of matrices by numpy. Core and page are both held to it: `tests/core/test_motion.py`, `tests/js/pose.test.js`.
"""

import json
import math
import random
from pathlib import Path
from typing import Any

import numpy as np

FILE = Path(__file__).with_name("poses.json")
LIMITS = [(-300, 300), (-300, 300), (-360, 360), (-200, 200), (-60, 60), (-300, 300)]
#: A bend has eighteen numbers more.
BENT_LIMITS = LIMITS + [(-80, 80)] * 18
FRAMES = 60


def bernstein(a: float, b: float, c: float, d: float, t: float) -> float:
    """A cubic through its four control points."""
    s = 1 - t
    return s**3 * a + 3 * s * s * t * b + 3 * s * t * t * c + t**3 * d


def between(rows: list[list[Any]], at: int, field: int, t: float) -> float:
    """One value between two keys."""
    (f0, p0, way, *_), (f1, p1, *_) = rows[at], rows[at + 1]
    a, b = p0[field], p1[field]
    if way == "linear":
        return a + (b - a) * t
    if way == "ease":
        return bernstein(a, a, b, b, t)
    slopes = []
    for n in (at, at + 1):
        # Of keys that a person set, those next to this one.
        left = [row for row in rows[:n] if not row[4]]
        right = [row for row in rows[n + 1 :] if not row[4]]
        inner = left and right and not rows[n][4]
        slopes.append((right[0][1][field] - left[-1][1][field]) / (right[0][0] - left[-1][0]) if inner else 0.0)
    third = (f1 - f0) / 3
    low, high = BENT_LIMITS[field]
    return min(high, max(low, bernstein(a, a + slopes[0] * third, b - slopes[1] * third, b, t)))


def curve(pick: random.Random, limits: list[tuple[int, int]]) -> dict[str, Any]:
    """Keys, and the pose of every frame."""
    frames = sorted(pick.sample(range(2, FRAMES - 2), pick.randint(1, 7)))
    rows = [
        [
            frame,
            [round(pick.uniform(low / 3, high / 3), 3) for low, high in limits],
            pick.choice(["hold", "linear", "ease", "smooth", "smooth"]),
            pick.choice([1, 1, 2, 3]),
            pick.random() < 0.2,
        ]
        for frame in frames
    ]
    return {"keys": rows, "poses": shown(rows, limits)}


def shown(rows: list[list[Any]], limits: list[tuple[int, int]]) -> list[list[float]]:
    """The pose of every frame."""
    poses = []
    for frame in range(FRAMES):
        at = max((n for n, row in enumerate(rows) if row[0] <= frame), default=-1)
        if at < 0:
            poses.append(rows[0][1])
        elif at == len(rows) - 1 or rows[at][2] == "hold" or frame == rows[at][0]:
            poses.append(rows[at][1])
        else:
            begin, end, step = rows[at][0], rows[at + 1][0], rows[at][3]
            shown = begin + (frame - begin) // step * step
            t = (shown - begin) / (end - begin)
            poses.append(
                [round(between(rows, at, field, t), 9) if t else rows[at][1][field] for field in range(len(limits))]
            )
    return poses


def bend(pick: random.Random) -> dict[str, Any]:
    """A cage, where some points go, and whether it folds: None where that is close."""
    far = pick.choice([4, 7, 30])
    cage = [round(pick.uniform(-far, far), 2) for _ in range(18)]
    # The quadratic surface through nine points, from its monomials.
    at = [(n % 3 / 2, n // 3 / 2) for n in range(9)]

    def powers(x: float, y: float) -> list[float]:
        return [x**i * y**j for i in range(3) for j in range(3)]

    table = np.array([powers(*one) for one in at])
    goal = np.array([[x + cage[2 * n] / 100, y + cage[2 * n + 1] / 100] for n, (x, y) in enumerate(at)])
    surface = np.linalg.solve(table, goal)

    def goes(x: float, y: float) -> Any:
        return np.array(powers(x, y)) @ surface

    points = [[round(pick.uniform(-0.1, 1.1), 3) for _ in range(2)] for _ in range(6)]
    h, least = 1e-5, math.inf
    for n in range(81):
        x, y = n % 9 / 8, n // 9 / 8
        slopes = [(goes(x + h, y) - goes(x - h, y)) / (2 * h), (goes(x, y + h) - goes(x, y - h)) / (2 * h)]
        least = min(least, float(np.linalg.det(np.array(slopes))))
    folds = None if abs(least - 0.04) < 1e-6 else least < 0.04
    return {"bend": cage, "points": [[*p, *(round(float(v), 9) for v in goes(*p))] for p in points], "folds": folds}


def matrix(pick: random.Random) -> dict[str, Any]:
    """A pose about a point, and the six numbers of its map."""
    pose = [round(pick.uniform(low, high), 3) for low, high in LIMITS]
    px, py, height = (round(pick.uniform(10, 900), 2) for _ in range(3))
    x, y, turn, stretch, lean, size = pose
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    wide, high = 2 ** ((size - stretch) / 100), 2 ** ((size + stretch) / 100)
    whole = (
        np.array([[1, 0, px + x * height / 100], [0, 1, py + y * height / 100], [0, 0, 1]])
        @ np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]])
        @ np.array([[1, -math.tan(math.radians(lean)), 0], [0, 1, 0], [0, 0, 1]])
        @ np.diag([wide, high, 1])
        @ np.array([[1, 0, -px], [0, 1, -py], [0, 0, 1]])
    )
    values = [whole[0, 0], whole[1, 0], whole[0, 1], whole[1, 1], whole[0, 2], whole[1, 2]]
    return {"pose": pose, "pivot": [px, py], "height": height, "matrix": [round(float(v), 9) for v in values]}


def made() -> dict[str, Any]:
    """All of it."""
    pick = random.Random(23)
    curves, matrices = [curve(pick, LIMITS) for _ in range(60)], [matrix(pick) for _ in range(60)]
    bent = [curve(pick, BENT_LIMITS) for _ in range(20)]
    for one in bent:
        # Between a key that is bent and one that is not.
        straight = pick.randrange(len(one["keys"]))
        one["keys"][straight][1][6:] = [0.0] * 18
        one["poses"] = shown(one["keys"], BENT_LIMITS)
        one["keys"][straight][1] = one["keys"][straight][1][:6]
    return {"curves": curves, "matrices": matrices, "bent": bent, "bends": [bend(pick) for _ in range(60)]}


if __name__ == "__main__":
    FILE.write_text(json.dumps(made(), separators=(",", ":")) + "\n", encoding="utf-8")
