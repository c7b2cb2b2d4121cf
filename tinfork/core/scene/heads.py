"""A plain head for a character without a face picture: around the place of its mouth, in the character's colour."""

from tinfork.core.mouths.placement import Placement

#: The six speaker colours, and how light a head in one of them is.
INKS = ("#2f5d86", "#7b4a74", "#5b6b1f", "#8a5210", "#1f6b62", "#6b3b2a")
_LIGHT, _SHADE = 0.74, 0.60
_HEIGHT = 900


def _mixed(colour: str, white: float) -> str:
    parts = [int(colour[at : at + 2], 16) for at in (1, 3, 5)]
    return "#" + "".join(f"{round(part + (255 - part) * white):02x}" for part in parts)


def plain_head(ink: int, mouth: Placement, *, with_eyes: bool = True) -> str:
    """SVG text of a head with its mouth at a place; the picture has the place's aspect.

    `ink` is 1 to 6. Eyes are left out if the character has its own drawings of them.
    """
    wide = _HEIGHT * mouth.aspect
    x, y, size = mouth.x * wide, mouth.y * _HEIGHT, mouth.width * wide
    # In widths of the mouth's canvas: the head is round the mouth, whose middle lies at two thirds of its height.
    middle, across, down = y - 0.26 * size, 0.72 * size, 0.84 * size
    skin, shade, line = (_mixed(INKS[(ink - 1) % 6], white) for white in (_LIGHT, _SHADE, 0.0))
    weight = max(2.0, size * 0.018)

    def oval(cx: float, cy: float, rx: float, ry: float, fill: str, stroke: float = 0) -> str:
        edge = f' stroke="{line}" stroke-width="{stroke:.1f}"' if stroke else ""
        return f'<ellipse cx="{cx:.1f}" cy="{cy:.1f}" rx="{rx:.1f}" ry="{ry:.1f}" fill="{fill}"{edge}/>'

    parts = [oval(x + side * across, middle, 0.13 * size, 0.19 * size, shade, weight) for side in (-1, 1)]
    parts.append(oval(x, middle, across, down, skin, weight))
    if with_eyes:
        for side in (-1, 1):
            parts.append(
                oval(x + side * 0.27 * size, middle - 0.2 * size, 0.115 * size, 0.13 * size, "#fdf9f0", weight)
            )
            parts.append(oval(x + side * 0.26 * size, middle - 0.19 * size, 0.05 * size, 0.06 * size, "#24282d"))
    nose = f"M {x:.1f} {middle - 0.06 * size:.1f} q {0.09 * size:.1f} {0.1 * size:.1f} 0 {0.12 * size:.1f}"
    parts.append(f'<path d="{nose}" fill="none" stroke="{line}" stroke-width="{weight:.1f}" stroke-linecap="round"/>')
    view = f"0 0 {wide:.1f} {_HEIGHT}"
    body = "".join(parts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{view}" width="{wide:.1f}" height="{_HEIGHT}">{body}</svg>'
    )
