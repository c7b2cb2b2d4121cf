"""The chart check: what makes a mouth jump, drift or flicker on the face, computed from the drawings.

Each finding has the drawings it is about, what was measured, and the correction that one click can make, if any.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from tinfork.core.messages import Message, joined
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.placement import Registration
from tinfork.core.mouths.propose import InkShape, closing_drawing
from tinfork.core.pictures.measure import Measures, looks_apart
from tinfork.core.speech.visemes import CLOSURES, VISEMES, class_of, typical_sounds

#: A centre that is off sideways by this share of the canvas's width drifts; up and down does not count: mouths open.
DRIFT_ACROSS, DRIFT_DOWN = 0.02, 0.14
#: A line heavier or lighter than the median by this factor differs.
LINE_RATIO = 1.25
#: Drawings that differ by less than this share of their ink are the same.
SAME = 0.02
#: Ink that fills less than this share of the canvas's width and height leaves it mostly empty.
EMPTY = 0.3


@dataclass(frozen=True, slots=True)
class CheckedDrawing:
    """What the check knows of a drawing."""

    drawing: Drawing
    measures: Measures
    registration: Registration

    @property
    def number(self) -> int:
        """Its number."""
        return self.drawing.number

    @property
    def scale(self) -> float:
        """The width of the chart's usual canvas in pixels of this drawing."""
        return self.registration.canvas_width

    @property
    def centre(self) -> tuple[float, float]:
        """The middle of its ink from where it is registered, as shares of the usual canvas's width."""
        box, at = self.measures.box, self.registration
        assert box is not None
        x, y = (box.left + box.right) / 2 - at.x + at.dx, (box.top + box.bottom) / 2 - at.y + at.dy
        return x / at.canvas_width, y / at.canvas_width


@dataclass(frozen=True, slots=True)
class ChartFinding:
    """Something worth checking: a kind, the drawings, what it means in words, what was measured, and a correction.

    `mend` is "" if only redrawing helps; else "recentre", "pad", "trim", "clear", "hide" or "lay". `sounds` are the
    ones that "lay" would match to the drawing.
    """

    kind: str
    drawings: tuple[int, ...]
    text: str
    measure: str
    mend: str = ""
    sounds: tuple[str, ...] = ()


def check_chart(seen: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    """All findings, the most serious kind first; empty for a clean chart."""
    inked = [s for s in seen if s.measures.box]
    return [
        *_missing_closures(seen),
        *_empty(seen),
        *_opaque(seen),
        *_drift(inked),
        *_lines(inked),
        *_canvases(seen),
        *_same(inked),
        *_mostly_empty(inked),
    ]


def _missing_closures(seen: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    claims = {c for s in seen for c in s.drawing.shows}
    out = []
    for viseme in (v for v in VISEMES if v in CLOSURES):
        if viseme in claims or any(c not in VISEMES and class_of(c) == viseme for c in claims):
            continue
        what = Message("check.lips_together" if viseme == "bilabial" else "check.lip_on_teeth")
        closing = closing_drawing([InkShape.of(s.drawing, s.measures) for s in seen]) if viseme == "bilabial" else None
        out.append(
            ChartFinding(
                "closure",
                (closing,) if closing is not None else (),
                Message("check.no_closure", what=what, sounds=" ".join(typical_sounds(viseme))),
                Message("check.looks_closed", drawing=closing) if closing is not None else Message("check.draw_one"),
                "lay" if closing is not None else "",
                (viseme,),
            )
        )
    return out


def _empty(seen: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    gone = tuple(s.number for s in seen if s.measures.box is None)
    return [ChartFinding("empty", gone, Message("check.empty"), Message("check.no_ink"))] if gone else []


def _opaque(seen: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    out = []
    for plain in (True, False):
        covered = tuple(s.number for s in seen if s.measures.opaque and s.measures.plain_ground == plain)
        if covered:
            text = Message("check.opaque")
            how = Message("check.plain_colour" if plain else "check.not_plain")
            out.append(ChartFinding("ground", covered, text, how, "clear" if plain else ""))
    return out


def _drift(inked: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    """Centres that differ from the median centre; needs at least three drawings."""
    if len(inked) < 3:
        return []
    centres = np.array([s.centre for s in inked])
    apart = centres - np.median(centres, axis=0)
    out = []
    for drawing, (across, down) in zip(inked, apart, strict=True):
        if abs(across) > DRIFT_ACROSS or abs(down) > DRIFT_DOWN:
            off: list[str] = []
            if abs(across) > DRIFT_ACROSS:
                off.append(Message("check.to_right" if across > 0 else "check.to_left", share=abs(across)))
            if abs(down) > DRIFT_DOWN:
                off.append(Message("check.down" if down > 0 else "check.up", share=abs(down)))
            measure = joined(off, ", ")
            text = Message("check.off_centre")
            out.append(ChartFinding("drift", (drawing.number,), text, measure, "recentre"))
    return out


def _lines(inked: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    lines = {s.number: s.measures.line / s.scale for s in inked if s.measures.line}
    if len(lines) < 3:
        return []
    middle = float(np.median(list(lines.values())))
    canvas = inked[0].scale
    out = []
    for number, line in lines.items():
        if line > middle * LINE_RATIO or line < middle / LINE_RATIO:
            text = Message("check.line_heavier" if line > middle else "check.line_lighter")
            measure = Message("check.line_widths", own=line * canvas, others=middle * canvas)
            out.append(ChartFinding("line", (number,), text, measure))
    return out


def _canvases(seen: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    sizes = Counter((s.measures.width, s.measures.height) for s in seen)
    # The same frame at another resolution is the same canvas.
    frames = [(round(s.measures.width / s.scale, 2), round(s.measures.height / s.scale, 2)) for s in seen]
    if len(set(frames)) < 2:
        return []
    usual = Counter(frames).most_common(1)[0][0]
    other = tuple(s.number for s, frame in zip(seen, frames, strict=True) if frame != usual)
    measure = ", ".join(f"{w} x {h} ({n})" for (w, h), n in sizes.most_common(4))
    return [ChartFinding("canvas", other, Message("check.canvases"), measure, "pad")]


def _same(inked: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    out = []
    for a, b in combinations(inked, 2):
        apart = looks_apart(a.measures, b.measures)
        if apart < SAME and a.drawing.size == b.drawing.size:
            text = Message("check.same")
            out.append(
                ChartFinding("same", (a.number, b.number), text, Message("check.ink_differs", share=apart), "hide")
            )
    return out


def _mostly_empty(inked: Sequence[CheckedDrawing]) -> list[ChartFinding]:
    if not inked:
        return []
    across = max(s.measures.box.width / s.measures.width for s in inked if s.measures.box)
    down = max(s.measures.box.height / s.measures.height for s in inked if s.measures.box)
    if across * down >= EMPTY * EMPTY:
        return []
    text = Message("check.mostly_empty")
    return [
        ChartFinding(
            "empty canvas",
            tuple(s.number for s in inked),
            text,
            Message("check.ink_fills", across=across, down=down),
            "trim",
        )
    ]
