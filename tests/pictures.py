"""Pictures for tests: drawn by rule, put on grounds and pages, or broken on purpose."""

import functools
import io
import struct
import zipfile
import zlib

import numpy as np
from PIL import Image

from tinfork.core.mouths.starter import starter_pictures
from tinfork.core.mouths.style import Style
from tinfork.engines.raster import png_from_svg


@functools.cache
def mouths(style: Style | None = None, drawings: int = 14, width: int = 400) -> dict[int, np.ndarray]:
    """The pixels of each starter drawing, by number."""
    pictures = starter_pictures(style, drawings)
    return {n: pixels_of(png_from_svg(svg, width)) for n, svg in pictures.items()}


def pixels_of(data: bytes) -> np.ndarray:
    return np.array(Image.open(io.BytesIO(data)).convert("RGBA"))


def encoded(pixels: np.ndarray, kind: str = "PNG", **more) -> bytes:
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    (image.convert("RGB") if kind == "JPEG" else image).save(out, kind, **more)
    return out.getvalue()


def on_ground(pixels: np.ndarray, colour=(255, 253, 248)) -> np.ndarray:
    """A drawing over an opaque ground."""
    ground = Image.new("RGBA", (pixels.shape[1], pixels.shape[0]), (*colour, 255))
    ground.alpha_composite(Image.fromarray(pixels))
    return np.array(ground)


def page(pieces, places, size, colour=(255, 253, 248, 255)) -> np.ndarray:
    """Drawings on one page, each with its corner at a place."""
    sheet = Image.new("RGBA", size, colour)
    for pixels, (x, y) in zip(pieces, places, strict=True):
        sheet.alpha_composite(Image.fromarray(pixels), (x, y))
    return np.array(sheet)


def ink_box(pixels: np.ndarray) -> tuple[int, int, int, int]:
    rows, columns = np.nonzero(pixels[:, :, 3] >= 24)
    return int(columns.min()), int(rows.min()), int(columns.max()) + 1, int(rows.max()) + 1


def huge_png(width: int = 30_000, height: int = 30_000) -> bytes:
    """A PNG whose header announces more pixels than it has."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 64)) + chunk(b"IEND", b"")


def ora(layers, size=(400, 300), mimetype=b"image/openraster", stack=None):
    """An OpenRaster archive of layers from the top: name, pixels, left, top."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", mimetype)
        rows = "".join(
            f'<layer name="{name}" src="data/{at}.png" x="{x}" y="{y}"/>' for at, (name, _, x, y) in enumerate(layers)
        )
        archive.writestr("stack.xml", stack or f'<image w="{size[0]}" h="{size[1]}"><stack>{rows}</stack></image>')
        for at, (_, pixels, _, _) in enumerate(layers):
            archive.writestr(f"data/{at}.png", encoded(pixels))
    return out.getvalue()
