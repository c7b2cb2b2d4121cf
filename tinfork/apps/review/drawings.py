"""Drawings on the picture of a remark: lines and arrows, stored as vectors.

A drawing is a list of strokes, each `{"kind": "pen" or "arrow", "points": [[x, y], ...]}`: x from 0 at the left edge of
the picture to 1 at its right, y from 0 at the top to 1 at the bottom. An arrow goes from its first point to its last.
"""

import math
from typing import Any

from tinfork.core.errors import TimingError

KINDS = ("pen", "arrow")
MAX_STROKES, MAX_POINTS = 40, 400
#: The size limit of a remark with its drawing.
MAX_SENT_BYTES = 256 * 1024
_DIGITS = 4
_WRONG = "This drawing cannot be read. Draw it again."


def read_drawing(told: object) -> list[dict[str, Any]]:
    """Check a drawing from a page, with points rounded and clamped to the picture; raises `TimingError`."""
    if told is None:
        return []
    if not isinstance(told, list):
        raise TimingError(_WRONG)
    if len(told) > MAX_STROKES:
        raise TimingError("A drawing can have up to {most} strokes. Take some back.", most=MAX_STROKES)
    return [_stroke(one) for one in told]


def _stroke(told: object) -> dict[str, Any]:
    if not isinstance(told, dict) or told.get("kind") not in KINDS:
        raise TimingError(_WRONG)
    points = told.get("points")
    if not isinstance(points, list) or not 2 <= len(points) <= MAX_POINTS:
        raise TimingError(_WRONG)
    return {"kind": told["kind"], "points": [_point(one) for one in points]}


def _point(told: object) -> list[float]:
    if not isinstance(told, list) or len(told) != 2 or not all(_is_number(value) for value in told):
        raise TimingError(_WRONG)
    return [round(min(1.0, max(0.0, float(value))), _DIGITS) for value in told]


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
