"""The shot as an animated SVG (SVG 1.1 with SMIL).

Each drawing is defined once, and referenced on the frames that show it.

Pictures are embedded; the sound is beside it (see `engines/handover/svg_with_sound.py`).
"""

import base64
from collections.abc import Sequence
from xml.sax.saxutils import escape, quoteattr

from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.scene.drawing import Placed, ShownPicture
from tinfork.core.scene.layout import Affine
from tinfork.core.scene.scene import Scene

_MEDIA = {".svg": "image/svg+xml", ".png": "image/png", ".jpg": "image/jpeg", ".webp": "image/webp"}


def write(scene: Scene, size: tuple[int, int], pictures: Sequence[ShownPicture], *, with_ground: bool = True) -> bytes:
    """An SVG of `size` pixels with the `shown` pictures, none of them bent.

    It plays once and stays on its last frame.
    """
    width, height = size
    seconds = scene.rate.first_us(scene.frames) / 1e6
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="{width}" '
        f'height="{height}" viewBox="0 0 {width} {height}">',
        f"<title>{escape(f'{scene.production} {scene.name}'.strip())}</title>",
    ]
    if with_ground:
        rows.append(f'<rect width="{width}" height="{height}" fill={quoteattr(scene.ground.colour)}/>')
        if scene.ground.picture:
            rows.append(
                f'<image width="{width}" height="{height}" preserveAspectRatio="xMidYMid slice" '
                f'xlink:href="{_uri(scene.ground.picture)}"/>'
            )
    known = {(one.placed.key, one.placed.picture): one.placed for one in pictures}
    ids = {key: f"p{number}" for number, key in enumerate(known, start=1)}
    rows.append("<defs>")
    rows += [_image(placed, ids[key]) for key, placed in known.items()]
    rows.append("</defs>")
    for one in pictures:
        key = one.placed.key, one.placed.picture
        rows.append(_use(one, ids[key], known[key].size, scene, seconds))
    rows.append("</svg>")
    return ("\n".join(rows) + "\n").encode()


def _uri(picture: AnyPicture) -> str:
    return f"data:{_MEDIA[picture.suffix]};base64,{base64.b64encode(picture.data).decode()}"


def _image(p: Placed, name: str) -> str:
    label = " ".join(str(part) for part in p.key if part)
    return (
        f'<image id="{name}" width="{p.size[0]:.6g}" height="{p.size[1]:.6g}" preserveAspectRatio="none" '
        f'xlink:href="{_uri(p.picture)}"><title>{escape(label)}</title></image>'
    )


def _use(one: ShownPicture, name: str, size: tuple[float, float], scene: Scene, seconds: float) -> str:
    # Defined at the size at which it is first seen; other sizes are scaled by the matrix.
    m = one.placed.matrix @ Affine.scaled(one.placed.size[0] / size[0], one.placed.size[1] / size[1])
    matrix = " ".join(f"{value:.6g}" for value in (m.a, m.b, m.c, m.d, m.e, m.f))
    use = f'<use xlink:href="#{name}" transform="matrix({matrix})"'
    if one.spans == ((0, scene.frames),):
        return f"{use}/>"
    times, values = ["0"], ["inline" if one.spans[0][0] == 0 else "none"]
    for start, end in one.spans:
        for frame, value in ((start, "inline"), (end, "none")):
            if 0 < frame < scene.frames:
                times.append(f"{scene.rate.first_us(frame) / 1e6 / seconds:.9f}")
                values.append(value)
    return (
        f'{use}><animate attributeName="display" calcMode="discrete" dur="{seconds:.6f}s" fill="freeze" '
        f'keyTimes="{";".join(times)}" values="{";".join(values)}"/></use>'
    )
