"""Hostile pictures: of any size, bottomless, self-referring, and pointing outside."""

import gzip
import io
import struct
import zlib
from collections.abc import Iterator
from random import Random

import numpy as np
from PIL import Image

from tools.attack.hostile.kinds import DRAWINGS, FACE, PAGE, Hostile, hurt


def png(pixels: np.ndarray, **more: object) -> bytes:
    """PNG of pixels."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", **more)
    return out.getvalue()


def _saved(kind: str, pixels: np.ndarray, **more: object) -> bytes:
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    (image.convert("RGB") if kind == "JPEG" else image).save(out, kind, **more)
    return out.getvalue()


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def png_of(width: int, height: int, *extra: bytes, rows: bytes = b"\0" * 64, depth: int = 8, colour: int = 6) -> bytes:
    """A PNG that announces a size, with chunks of any kind before its picture."""
    head = struct.pack(">IIBBBBB", width, height, depth, colour, 0, 0, 0)
    body = [_chunk(b"IHDR", head), *extra, _chunk(b"IDAT", zlib.compress(rows, 9)), _chunk(b"IEND", b"")]
    return b"\x89PNG\r\n\x1a\n" + b"".join(body)


def mouth() -> np.ndarray:
    """A drawing: an oval on a transparent ground."""
    y, x = np.mgrid[0:120, 0:160]
    inside = ((x - 80) / 60) ** 2 + ((y - 60) / 30) ** 2 < 1
    out = np.zeros((120, 160, 4), np.uint8)
    out[inside] = (120, 30, 30, 255)
    return out


def pictures(dice: Random) -> Iterator[Hostile]:
    """Drawings, pages and faces of pixels."""
    good = png(mouth())
    many = [Image.fromarray(np.full((8, 8), n % 255, np.uint8)) for n in range(400)]
    gif, tiff, webp = io.BytesIO(), io.BytesIO(), io.BytesIO()
    many[0].save(gif, "GIF", save_all=True, append_images=many[1:])
    many[0].save(tiff, "TIFF", save_all=True, append_images=many[1:])
    many[0].convert("RGB").save(webp, "WEBP", save_all=True, append_images=[m.convert("RGB") for m in many[1:260]])
    thin_rows = b"\0\0\0\0\0" * 36_000
    given = {
        "empty.png": b"",
        "text.png": b"no picture",
        "cut.png": good[: len(good) // 2],
        "hurt.png": hurt(good, dice, 8),
        "wrong-sum.png": good[:-8] + b"\0\0\0\0" + good[-4:],
        "no-end.png": good[:-12],
        "nine-hundred-million.png": png_of(30_000, 30_000),
        "two-billion-wide.png": png_of(2**31 - 1, 1),
        "no-size.png": png_of(0, 0),
        "one-wide.png": png_of(1, 36_000, rows=thin_rows),
        "one-high.png": png_of(36_000, 1, rows=b"\0" * (36_000 * 4 + 1)),
        "black-36-million.png": png_of(6000, 6000, rows=b"\0" * (6000 * (6000 * 4 + 1))),
        "three-bits.png": png_of(8, 8, depth=3),
        "no-palette.png": png_of(8, 8, colour=3),
        "text-bomb.png": png_of(8, 8, _chunk(b"zTXt", b"a\0\0" + zlib.compress(b"\0" * 60_000_000, 9)), rows=b"\0" * 264),
        "profile-bomb.png": png_of(8, 8, _chunk(b"iCCP", b"a\0\0" + zlib.compress(b"\0" * 60_000_000, 9)), rows=b"\0" * 264),
        "odd-exif.png": png_of(8, 8, _chunk(b"eXIf", dice.randbytes(600)), rows=b"\0" * 264),
        "endless-chunk.png": good[:33] + struct.pack(">I", 2**31 - 1) + b"IDAT" + b"x" * 50,
        "four-hundred.gif": gif.getvalue(),
        "wide-screen.gif": b"GIF89a\xff\xff\xff\xff\x80\0\0\0\0\0\xff\xff\xff,\0\0\0\0\x01\0\x01\0\0\x02\x02D\x01\0;",
        "cut.gif": gif.getvalue()[:700],
        "four-hundred.tif": tiff.getvalue(),
        "circle.tif": b"II*\0\x08\0\0\0\0\0\x08\0\0\0" + b"\0" * 20,
        "far-away.tif": b"II*\0\xff\xff\xff\x7f",
        "big-tag.tif": b"II*\0\x08\0\0\0\x01\0\0\x01\x04\0\xff\xff\xff\xff\x08\0\0\0\0\0\0\0",
        "many.webp": webp.getvalue(),
        "cut.webp": webp.getvalue()[:120],
        "cut.jpg": _saved("JPEG", mouth())[:300],
        "hurt.jpg": hurt(_saved("JPEG", mouth()), dice, 12),
        "sixty-five-thousand.jpg": _saved("JPEG", mouth()).replace(struct.pack(">HH", 120, 160), b"\xff\xff\xff\xff", 1),
        "page.eps": b"%!PS-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n(%pipe%id) (w) file\n",
        "page.pdf": b"%PDF-1.7\n1 0 obj<</Type/Catalog>>endobj\n",
        "layers.psd": b"8BPS\0\x01" + b"\0" * 40,
        "icon.ico": b"\0\0\x01\0\x01\0" + b"\xff" * 16,
        "old.bmp": _saved("BMP", mouth()[:, :, :3].copy()),
        "../../up.png": good,
        "\0null.png": good,
    }  # fmt: skip
    yield from (Hostile(DRAWINGS, name, data, "36-million" in name) for name, data in given.items())
    for name in ("nine-hundred-million.png", "one-wide.png", "text.png", "text-bomb.png", "hurt.png"):
        yield Hostile(FACE, name, given[name])
        yield Hostile(PAGE, name, given[name])
    # What connects to nothing: every second pixel is a piece of its own.
    board = np.zeros((1500, 1500, 4), np.uint8)
    board[::2, ::2] = (0, 0, 0, 255)
    yield Hostile(PAGE, "half-a-million-pieces.png", png(board), True)


def svg(body: str, head: str = 'width="100" height="80"') -> bytes:
    """An SVG of this content."""
    space = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {space} {head}>{body}</svg>".encode()


def svgs() -> Iterator[Hostile]:
    """Drawings, pages and faces of shapes."""
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 9))
    uses = '<path id="u0" d="M0 0h9v9z"/>' + "".join(
        f'<g id="u{n}">' + f'<use xlink:href="#u{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)
    )
    points = "M0 0" + "".join(f"L{n % 97} {n % 89}" for n in range(200_000))
    stops = "".join(f'<stop offset="{n / 1e5}" stop-color="red"/>' for n in range(19_000))
    given = {
        "laughs.svg": f'<!DOCTYPE svg [<!ENTITY l0 "ha">{laughs}]>'.encode() + svg("<title>&l8;</title>"),
        "outside.svg": b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + svg("<title>&x;</title>"),
        "outside-list.svg": b'<!DOCTYPE svg SYSTEM "http://localhost/x.dtd">' + svg("<rect width='9' height='9'/>"),
        "script.svg": svg("<script>alert(1)</script><rect width='9' height='9' onload='alert(1)'/>"),
        "foreign.svg": svg("<foreignObject><body xmlns='http://www.w3.org/1999/xhtml'>x</body></foreignObject>"),
        "picture-outside.svg": svg('<image href="file:///etc/passwd" width="9" height="9"/>'),
        "uses.svg": svg(uses),
        "uses-itself.svg": svg('<g id="a"><use xlink:href="#a"/></g>'),
        "masks-itself.svg": svg('<mask id="m"><rect mask="url(#m)" width="9" height="9"/></mask><g mask="url(#m)"/>'),
        "clips-itself.svg": svg('<clipPath id="c"><rect clip-path="url(#c)" width="9" height="9"/></clipPath>'),
        "deep.svg": svg("<g>" * 60_000 + "</g>" * 60_000),
        "thin.svg": svg("<rect width='1' height='20000'/>", 'width="1" height="20000"'),
        "flat.svg": svg("<rect width='9' height='9'/>", 'width="20000" height="1"'),
        "endless.svg": svg("", 'width="1e308" height="1e308"'),
        "no-size.svg": svg(""),
        "nan.svg": svg("", 'width="NaN" height="NaN" viewBox="0 0 nan nan"'),
        "below-zero.svg": svg("", 'width="-5" height="-5"'),
        "long-path.svg": svg(f'<path d="{points}"/>'),
        "dashes.svg": svg('<path d="M0 0H1e9" stroke="black" stroke-dasharray="0.0001" stroke-width="9"/>'),
        "dashes-in-a-row.svg": svg('<path d="M0 0H20000" stroke="black" stroke-dasharray="0.001"/>' * 40),
        "stops.svg": svg(f'<linearGradient id="g">{stops}</linearGradient><rect width="90" height="70" fill="url(#g)"/>'),
        "thick.svg": svg('<path d="M0 0L9 9" stroke="red" stroke-width="1e30"/>'),
        "magnified.svg": svg('<g transform="scale(1e9)"><path d="M0 0C9 9 8 8 7 7z"/></g>'),
        "letters.svg": svg('<text font-size="1e9">x</text>'),
        "sheet.svg": svg("<style>@import url(file:///etc/passwd);</style><rect width='9' height='9'/>"),
        "sixteen-bits.svg": svg("<rect width='9' height='9'/>").decode().encode("utf-16"),
        "packed.svgz": gzip.compress(svg("<rect width='9' height='9'/>" * 5)),
        "not-ended.svg": svg("<rect width='9' height='9'/>")[:-9],
        "other-root.svg": b"<html><svg/></html>",
        "lots.svg": svg("<rect width='9' height='9'/>" * 30_000),
        "blur.svg": svg('<filter id="f"><feGaussianBlur stdDeviation="1e6"/></filter><rect filter="url(#f)"/>'),
    }  # fmt: skip
    yield from (Hostile(DRAWINGS, name, data, name in ("dashes-in-a-row.svg",)) for name, data in given.items())
    for name in ("thin.svg", "laughs.svg", "uses.svg", "picture-outside.svg"):
        yield Hostile(FACE, name, given[name])
        yield Hostile(PAGE, name, given[name])
