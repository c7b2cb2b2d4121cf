"""Mouths drawn by rule: a shape and a style give an SVG picture.

All pictures share one canvas of `WIDTH` x `HEIGHT` units and are registered on
its centre; the line weight is the style's everywhere, so that a mouth neither
drifts nor changes its line from drawing to drawing.
"""

import math
from collections.abc import Callable

from tinfork.core.mouths.shape import Shape
from tinfork.core.mouths.style import Ink, Style

WIDTH, HEIGHT = 400, 300
CX, CY = WIDTH / 2, HEIGHT / 2


#: The distance from the centre at which the lean is measured.
_LEAN_AT = 90.0


def _n(value: float) -> str:
    text = f"{value:.1f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


class _Pen:
    """Writes SVG paths of points relative to the mouth's centre, and applies the lean."""

    def __init__(self, shape: Shape, ink: Ink) -> None:
        self.shape, self.ink = shape, ink

    def at(self, x: float, y: float) -> str:
        return f"{_n(CX + x)} {_n(CY + y - self.shape.lean / _LEAN_AT * x)}"

    def path(self, *steps: str | tuple[float, float]) -> str:
        """An SVG path: letters unchanged, points as coordinates."""
        return " ".join(step if isinstance(step, str) else self.at(*step) for step in steps)

    def line(self, path: str) -> str:
        return (
            f'<path d="{path}" fill="none" stroke="{self.ink.line}" stroke-width="{_n(self.ink.weight)}" '
            f'stroke-linecap="round" stroke-linejoin="round"/>'
        )

    def fill(self, path: str, colour: str) -> str:
        return f'<path d="{path}" fill="{colour}"/>'


def _soft(s: Shape, pen: _Pen) -> str:
    """Lips of two curves that meet in the corners."""
    hx, corner = s.half_width * (0.35 + 0.6 * s.square), -s.corners
    # 4/3 of the wanted height at both handles puts the curve's middle on it.
    top, bottom = corner - (corner + s.up) * 4 / 3, corner + (s.down - corner) * 4 / 3
    left, right = (-s.half_width, corner), (s.half_width, corner)
    return pen.path("M", left, "C", (-hx, top), (hx, top), right, "C", (hx, bottom), (-hx, bottom), left, "Z")


def _square(s: Shape, pen: _Pen) -> str:
    """A box with rounded corners: wider above when glad, below when sad."""
    radius = min(s.half_width * 0.6, (s.up + s.down) * (0.2 + 0.26 * s.square))
    over = s.half_width - max(0.0, -s.corners) * 0.7
    under = s.half_width - max(0.0, s.corners) * 0.7
    corners = ((-over, -s.up), (over, -s.up), (under, s.down), (-under, s.down))
    steps: list[str | tuple[float, float]] = []
    for at, corner in enumerate(corners):
        before, after = (_towards(corner, corners[(at + step) % 4], radius) for step in (-1, 1))
        steps += ["L" if steps else "M", before, "Q", corner, after]
    return pen.path(*steps, "Z")


def _towards(start: tuple[float, float], end: tuple[float, float], by: float) -> tuple[float, float]:
    """The point `by` units from one point on the way to another, at most half-way."""
    share = min(0.5, by / max(1e-6, math.dist(start, end)))
    return start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share


def _muzzle(s: Shape, pen: _Pen) -> str:
    """An upper lip in two lobes with a dip between them, a round lower one."""
    corner, dip = -s.corners, min(14.0, 0.3 * (s.up + s.down))
    hx = s.half_width * (0.35 + 0.6 * s.square)
    high = -s.up - dip
    bottom = corner + (s.down - corner) * 4 / 3
    left, right, cleft = (-s.half_width, corner), (s.half_width, corner), (0.0, -s.up + dip / 2)
    lobe = s.half_width * 0.28
    return pen.path(
        "M", left, "C", (-hx, high), (-lobe, high), cleft, "C", (lobe, high), (hx, high), right,
        "C", (hx, bottom), (-hx, bottom), left, "Z",
    )  # fmt: skip


_OUTLINES: dict[str, Callable[[Shape, _Pen], str]] = {"soft": _soft, "square": _square, "muzzle": _muzzle}


def _seam(s: Shape, pen: _Pen, kind: str) -> str:
    """Closed lips."""
    corner, sag, w = -s.corners, s.down * 4 / 3, s.half_width
    if kind == "square":
        flat = pen.path(
            "M", (-w, corner * 0.6), "L", (-w * 0.6, s.down), "L", (w * 0.6, s.down), "L", (w, corner * 0.6)
        )
        seam = pen.line(flat)
    elif kind == "muzzle":
        lobes = ("Q", (-w * 0.45, sag + 14), (0.0, 0.0), "Q", (w * 0.45, sag + 14), (w, corner))
        seam = pen.line(pen.path("M", (-w, corner), *lobes))
    else:
        seam = pen.line(pen.path("M", (-w, corner), "C", (-w / 2, sag), (w / 2, sag), (w, corner)))
    if s.pressed:
        # Lips rolled in: a short fold above and below the seam.
        for side in (-1, 1):
            y = side * 20.0 + (6 if kind == "muzzle" else 0)
            seam += pen.line(pen.path("M", (-30.0, y), "Q", (0.0, y + side * 7), (30.0, y)))
    return seam


def _inner(s: Shape, pen: _Pen) -> str:
    """Teeth and tongue, to be clipped by the lips."""
    ink, w = pen.ink, s.half_width
    parts: list[str] = []
    if s.tongue:
        parts.append(
            f'<ellipse cx="{_n(CX)}" cy="{_n(CY + s.down + 4)}" rx="{_n(w * 0.62)}" ry="{_n(s.tongue + 4)}" '
            f'fill="{ink.tongue}"/>'
        )
    teeth = f'fill="{ink.teeth}" stroke="{ink.line}" stroke-width="{_n(ink.weight / 2)}"'
    top, far = CY - s.up - 40, f'x="{_n(CX - w - 20)}" width="{_n(w * 2 + 40)}"'
    if s.upper_teeth:
        parts.append(f'<rect {far} y="{_n(top)}" height="{_n(40 + s.upper_teeth)}" {teeth}/>')
    if s.lower_teeth:
        parts.append(f'<rect {far} y="{_n(CY + s.down - s.lower_teeth)}" height="{_n(40 + s.lower_teeth)}" {teeth}/>')
    if s.tip:
        height = max(22.0, (s.up + s.down) * 0.75)
        y = CY - s.up + s.upper_teeth - (6 if s.tip == "between" else 0)
        tip = (
            f'<rect x="{_n(CX - w * 0.36)}" y="{_n(y)}" width="{_n(w * 0.72)}" height="{_n(height)}" '
            f'rx="{_n(min(height / 2, 22))}" fill="{ink.tongue}"/>'
        )
        # Between the teeth it lies over them; behind, it comes out from under them.
        parts.insert(len(parts) if s.tip == "between" else 0, tip)
    return "".join(parts)


def _lips(s: Shape, pen: _Pen, kind: str) -> str:
    philtrum = pen.line(pen.path("M", (0.0, -s.up - 34), "L", (0.0, -s.up))) if kind == "muzzle" else ""
    if s.closed:
        return philtrum + _seam(s, pen, kind)
    path, ink = _OUTLINES[kind](s, pen), pen.ink
    body = (
        f'{philtrum}<clipPath id="m"><path d="{path}"/></clipPath>{pen.fill(path, ink.inside)}'
        f'<g clip-path="url(#m)">{_inner(s, pen)}</g>{pen.line(path)}'
    )
    if s.lip_bite:
        # The lower lip, drawn up under the upper teeth.
        w, y = s.half_width * 0.7, s.down - 2
        lip = pen.path("M", (-w, y), "Q", (0.0, y + 36), (w, y), "Z")
        body += pen.fill(lip, ink.lip) + pen.line(lip)
    return body


def _beak(s: Shape, pen: _Pen) -> str:
    """The upper half stays, the lower half drops with the jaw; no teeth, so a bite tucks the lower half in."""
    ink, corner = pen.ink, -s.corners * 0.6
    w = 34 + 0.45 * s.half_width
    gap = 0.0 if s.closed else 1.9 * ink.weight + max(0.0, s.up + s.down - 30) * (0.3 if s.lip_bite else 0.6)
    upper = pen.path("M", (-w, corner), "Q", (-w * 0.5, -52.0), (0.0, -54.0), "Q", (w * 0.5, -52.0), (w, corner),
                     "Q", (w * 0.4, 10.0), (0.0, 30.0), "Q", (-w * 0.4, 10.0), (-w, corner), "Z")  # fmt: skip
    v = w * (0.62 if s.lip_bite or s.pressed else 0.78)
    y = 14 + gap
    side = corner + gap * 0.5
    lower = pen.path("M", (-v, side), "Q", (0.0, y + 12), (v, side),
                     "Q", (v * 0.6, y + 34), (0.0, y + 36), "Q", (-v * 0.6, y + 34), (-v, side), "Z")  # fmt: skip
    throat = pen.path("M", (-w, corner), "L", (w, corner), "L", (v, side), "Q", (0.0, y + 14),
                      (-v, side), "Z")  # fmt: skip
    # The outlines of the halves close the throat above and below: only its sides need a line.
    sides = pen.path("M", (-w, corner), "L", (-v, side), "M", (w, corner), "L", (v, side))
    inside = "" if s.closed else pen.fill(throat, ink.inside) + pen.line(sides)
    if not s.closed and (s.tongue or s.tip):
        height = min(gap * 0.8, 24.0)
        # The tip of a raised tongue shows in front of the upper half.
        high, wide = CY + y + 4 - (16 if s.tip else 0), v * (0.62 if s.tip else 0.45)
        inside += (
            f'<ellipse cx="{_n(CX)}" cy="{_n(high)}" rx="{_n(wide)}" ry="{_n(max(6.0, height))}" fill="{ink.tongue}"/>'
        )
    return inside + pen.fill(lower, ink.lip) + pen.line(lower) + pen.fill(upper, ink.lip) + pen.line(upper)


def draw_mouth(shape: Shape, style: Style | None = None, *, title: str = "") -> str:
    """The SVG text of a mouth on a transparent ground; no scripts, and no references but its own clip path."""
    style = style or Style()
    pen = _Pen(shape, style.ink)
    body = _beak(shape, pen) if style.kind == "beak" else _lips(shape, pen, style.kind)
    name = f"<title>{title}</title>" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" width="{WIDTH}" height="{HEIGHT}">'
        f"{name}{body}</svg>\n"
    )
