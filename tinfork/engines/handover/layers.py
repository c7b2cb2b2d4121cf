"""The shot's picture in layers as OpenRaster: a folder for each character, a layer for its face and each drawing."""

import io
import zipfile
from typing import IO
from xml.sax.saxutils import quoteattr

from PIL import Image

from tinfork.core.scene.choices import START
from tinfork.core.scene.drawing import ShownPicture, segments, shown
from tinfork.core.scene.exporting import Exporter, Option, Progress, Purpose, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.archive_files import add_bytes, png
from tinfork.engines.handover.picture_options import WIDTH, size_of
from tinfork.engines.handover.rendering import Renderer, ground_picture, patch_of

_AT = Option("frame", "Visible as on frame", None, low=0, high=START.high, hint="the first")


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    size = size_of(scene, values)
    frame = 0 if values["frame"] is None else int(values["frame"]) - scene.first_frame
    frame = min(max(0, frame), scene.frames - 1)
    # Each drawing once, moved as on that frame.
    scene = scene.posed_as_on(frame)
    pictures = shown(scene, size)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        add_bytes(archive, "mimetype", b"image/openraster", packed=False)
        groups: list[str] = []
        for figure in reversed(scene.drawn_figures):
            own = [one for one in pictures if one.placed.key[0] == figure.name]
            layers = []
            for one in reversed(own):
                progress(0.8 * len(archive.namelist()) / (len(pictures) + 4))
                layers.append(_layer(archive, one, size, frame))
            groups.append(f"<stack name={quoteattr(figure.name)}>{''.join(layers)}</stack>")
        add_bytes(archive, "data/background.png", png(ground_picture(scene.ground, size)))
        groups.append('<layer name="background" src="data/background.png" x="0" y="0"/>')
        stack = f'<image version="0.0.3" w="{size[0]}" h="{size[1]}"><stack>{"".join(groups)}</stack></image>'
        add_bytes(archive, "stack.xml", f'<?xml version="1.0" encoding="UTF-8"?>\n{stack}\n'.encode())
        whole = _merged(scene, size, frame)
        add_bytes(archive, "mergedimage.png", png(whole))
        small = whole.copy()
        small.thumbnail((256, 256))
        add_bytes(archive, "Thumbnails/thumbnail.png", png(small))


def _layer(archive: zipfile.ZipFile, one: ShownPicture, size: tuple[int, int], frame: int) -> str:
    key = one.placed.key
    # Numbered, since names may contain anything.
    file = f"data/{len(archive.namelist()):03d}.png"
    patch = patch_of(one.placed, size)
    image, at = (patch.image, patch.at) if patch else (Image.new("RGBA", (1, 1)), (0, 0))
    data = io.BytesIO(png(image)).getvalue()
    add_bytes(archive, file, data)
    name = "face" if not key[1] else " ".join(filter(None, (key[1], key[2], str(key[3]))))
    seen = "visible" if any(start <= frame < end for start, end in one.spans) else "hidden"
    return f'<layer name={quoteattr(name)} src="{file}" x="{at[0]}" y="{at[1]}" visibility="{seen}"/>'


def _merged(scene: Scene, size: tuple[int, int], frame: int) -> Image.Image:
    drawn = next(drawn for start, end, drawn in segments(scene, size) if start <= frame < end)
    return Renderer(size, scene.ground).frame(drawn)


EXPORTER = Exporter(
    "layers",
    "Layers (OpenRaster)",
    Purpose.ANIMATE,
    ".ora",
    "image/openraster",
    _write,
    (WIDTH, _AT),
    "one picture with each drawing on its own layer, in register, for painting programs",
    takes_long=True,
)
