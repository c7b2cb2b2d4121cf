"""Mouths drawn by rule: an articulation and a style give an SVG picture.

All pictures share one canvas of `WIDTH` x `HEIGHT` units and are registered on
its centre; the line weight is the style's everywhere, so that a mouth neither
drifts nor changes its line from drawing to drawing.
"""

from dataclasses import dataclass

WIDTH, HEIGHT = 400, 300
CX, CY = WIDTH / 2, HEIGHT / 2


@dataclass(frozen=True, slots=True)
class Shape:
    """A mouth in canvas units around its centre.

    `half_width` to the corners, `up` and `down` to the lips' inner edges at the middle,
    `square` 0 (pointed corners) to 1 (full, round corners), `corners` lifts the corners,
    `upper_teeth` and `lower_teeth` are heights, `tongue` is the height of the tongue's back
    above the lower lip; `tip` shows the tongue's tip behind (or between) the upper teeth.
    """

    half_width: float
    up: float
    down: float
    square: float = 0.45
    corners: float = 0.0
    upper_teeth: float = 0.0
    lower_teeth: float = 0.0
    tongue: float = 0.0
    tip: bool = False
    pressed: bool = False
    lip_bite: bool = False


@dataclass(frozen=True, slots=True)
class Ink:
    """Colours and line weight (canvas units) of a chart."""

    line: str = "#2b1a18"
    inside: str = "#5c1a22"
    tongue: str = "#d4706e"
    teeth: str = "#fdf9f0"
    lip: str = "#b5604f"
    weight: float = 8.0


def _n(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".")


def _outline(s: Shape) -> str:
    """The closed path of the lips' inner edge."""
    left, right, corner = CX - s.half_width, CX + s.half_width, CY - s.corners
    hx = s.half_width * (0.35 + 0.6 * s.square)
    # 4/3 of the wanted height at both handles puts the curve's middle on it.
    top, bottom = corner - (corner - (CY - s.up)) * 4 / 3, corner + (CY + s.down - corner) * 4 / 3
    return (
        f"M{_n(left)} {_n(corner)}C{_n(CX - hx)} {_n(top)} {_n(CX + hx)} {_n(top)} {_n(right)} {_n(corner)}"
        f"C{_n(CX + hx)} {_n(bottom)} {_n(CX - hx)} {_n(bottom)} {_n(left)} {_n(corner)}Z"
    )


def _closed(s: Shape, ink: Ink) -> str:
    left, right, corner = CX - s.half_width, CX + s.half_width, CY - s.corners
    sag = CY + s.down * 4 / 3
    curve = (
        f"M{_n(left)} {_n(corner)}C{_n(CX - s.half_width / 2)} {_n(sag)} {_n(CX + s.half_width / 2)} {_n(sag)} "
        f"{_n(right)} {_n(corner)}"
    )
    stroke = f'fill="none" stroke="{ink.line}" stroke-width="{_n(ink.weight)}" stroke-linecap="round"'
    parts = [f'<path d="{curve}" {stroke}/>']
    if s.pressed:
        # Lips rolled in: a short fold above and below the seam.
        for side in (-1, 1):
            y = CY + side * 20
            parts.append(
                f'<path d="M{_n(CX - 30)} {_n(y)}Q{_n(CX)} {_n(y + side * 7)} {_n(CX + 30)} {_n(y)}" {stroke}/>'
            )
    return "".join(parts)


def _inner(s: Shape, ink: Ink) -> str:
    """Teeth and tongue, to be clipped by the lips."""
    parts: list[str] = []
    left, top, bottom = CX - s.half_width, CY - s.up, CY + s.down
    if s.tongue:
        rx = s.half_width * 0.62
        parts.append(
            f'<ellipse cx="{_n(CX)}" cy="{_n(bottom + 4)}" rx="{_n(rx)}" ry="{_n(s.tongue + 4)}" fill="{ink.tongue}"/>'
        )
    if s.tip:
        height = max(22.0, (s.up + s.down) * 0.75)
        parts.append(
            f'<rect x="{_n(CX - s.half_width * 0.36)}" y="{_n(top + s.upper_teeth - 6)}" '
            f'width="{_n(s.half_width * 0.72)}" height="{_n(height)}" rx="{_n(min(height / 2, 22))}" '
            f'fill="{ink.tongue}"/>'
        )
    teeth = f'fill="{ink.teeth}" stroke="{ink.line}" stroke-width="{_n(ink.weight / 2)}"'
    if s.upper_teeth:
        parts.insert(
            len(parts) if not s.tip else len(parts) - 1,
            f'<rect x="{_n(left)}" y="{_n(top - 40)}" width="{_n(s.half_width * 2)}" '
            f'height="{_n(40 + s.upper_teeth)}" {teeth}/>',
        )
    if s.lower_teeth:
        parts.append(
            f'<rect x="{_n(left)}" y="{_n(bottom - s.lower_teeth)}" width="{_n(s.half_width * 2)}" '
            f'height="{_n(40 + s.lower_teeth)}" {teeth}/>'
        )
    return "".join(parts)


def draw_mouth(shape: Shape, ink: Ink | None = None, *, title: str = "") -> str:
    """The SVG text of a mouth; transparent ground, no scripts, no references but its own clip."""
    ink = ink or Ink()
    if shape.up + shape.down < ink.weight or shape.pressed:
        body = _closed(shape, ink)
    else:
        path = _outline(shape)
        line = f'fill="none" stroke="{ink.line}" stroke-width="{_n(ink.weight)}" stroke-linejoin="round"'
        body = (
            f'<clipPath id="m"><path d="{path}"/></clipPath><path d="{path}" fill="{ink.inside}"/>'
            f'<g clip-path="url(#m)">{_inner(shape, ink)}</g><path d="{path}" {line}/>'
        )
        if shape.lip_bite:
            # The lower lip, drawn up under the upper teeth.
            y = CY + shape.down
            body += (
                f'<path d="M{_n(CX - shape.half_width * 0.7)} {_n(y - 2)}Q{_n(CX)} {_n(y + 34)} '
                f'{_n(CX + shape.half_width * 0.7)} {_n(y - 2)}Z" fill="{ink.lip}" stroke="{ink.line}" '
                f'stroke-width="{_n(ink.weight)}" stroke-linejoin="round"/>'
            )
    name = f"<title>{title}</title>" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" width="{WIDTH}" height="{HEIGHT}">'
        f"{name}{body}</svg>\n"
    )
