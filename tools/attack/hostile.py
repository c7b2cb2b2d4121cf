"""Hostile files, made here: cut, mis-said, bottomless, self-referring, and pointing outside. What is hurt follows from a seed."""

import gzip
import io
import json
import random
import struct
import subprocess
import tempfile
import wave
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from tinfork.core.formats import character_zip
from tinfork.core.formats.character_zip import PackedCharacter, PackedDrawing, PackedPart, PackedSet, Picture
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.placement import Placement
from tinfork.engines.programs import program

SOUND, FILM, DRAWINGS, PAGE, FACE, ARCHIVE, SCRIPT = "sound", "film", "drawings", "page", "face", "archive", "script"


@dataclass(frozen=True)
class Hostile:
    """One file: where it is sent, what it is called, its bytes. `is_slow`: opening it takes seconds, as it may."""

    where: str
    name: str
    data: bytes
    is_slow: bool = False


def hostile_files(seed: int = 18) -> list[Hostile]:
    """All of them."""
    dice = random.Random(seed)
    return [
        *_sounds(dice), *_names(), *_films(dice), *_pictures(dice), *_svgs(), *_layered(), *_archives(), *_scripts()
    ]  # fmt: skip


# ---- sounds ----------------------------------------------------------------------------------------------------------


def wav(samples: np.ndarray, rate_hz: int = 16_000) -> bytes:
    """16-bit WAV, mono."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate_hz)
        file.writeframes((np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
    return out.getvalue()


def tone(seconds: float, rate_hz: int = 16_000) -> np.ndarray:
    """Something to hear: a wobbling buzz with pauses."""
    t = np.arange(int(seconds * rate_hz)) / rate_hz
    return 0.4 * np.sign(np.sin(2 * np.pi * 140 * t)) * (np.sin(2 * np.pi * 1.7 * t) > -0.3)


def encoded(data: bytes, suffix: str, *more: str) -> bytes:
    """A WAV in another form."""
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "in.wav", Path(folder) / f"out.{suffix}"
        source.write_bytes(data)
        command = [program("ffmpeg"), "-v", "error", "-y", "-i", str(source), *more, str(target)]
        subprocess.run(command, check=True, timeout=60)
        return target.read_bytes()


def film(seconds: float = 1.0) -> bytes:
    """A small film without sound."""
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "out.mp4"
        pattern = f"testsrc=size=160x90:rate=12:duration={seconds}"
        command = [
            program("ffmpeg"),
            "-v",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            pattern,
            "-pix_fmt",
            "yuv420p",
            str(target),
        ]
        subprocess.run(command, check=True, timeout=60)
        return target.read_bytes()


def _riff(form: bytes, data: bytes, size: int | None = None, data_size: int | None = None) -> bytes:
    body = b"fmt " + struct.pack("<I", len(form)) + form
    body += b"data" + struct.pack("<I", len(data) if data_size is None else data_size) + data
    return b"RIFF" + struct.pack("<I", 4 + len(body) if size is None else size) + b"WAVE" + body


def _form(kind: int = 1, channels: int = 1, rate: int = 16_000, bits: int = 16) -> bytes:
    each = channels * bits // 8
    return struct.pack("<HHIIHH", kind, channels, rate, min(rate * each, 2**32 - 1), min(each, 65535), bits)


def _hurt(data: bytes, dice: random.Random, bytes_hurt: int = 40) -> bytes:
    out = bytearray(data)
    for _ in range(bytes_hurt):
        out[dice.randrange(len(out))] = dice.randrange(256)
    return bytes(out)


def _sounds(dice: random.Random) -> Iterator[Hostile]:
    whole = wav(tone(1.2))
    pcm = whole[44:]
    yield from (
        Hostile(SOUND, name, data)
        for name, data in {
            "empty.wav": b"",
            "one-byte.wav": b"R",
            "head-only.wav": whole[:44],
            "half-a-head.wav": whole[:20],
            "text.wav": b"The last tram leaves the depot.",
            "open-size.wav": _riff(_form(), pcm, 0xFFFFFFFF, 0xFFFFFFFF),
            "no-size.wav": _riff(_form(), pcm, 0, 0),
            "promises-two-gigabytes.wav": _riff(_form(), pcm, 2**31 - 1, 2**31 - 9),
            "no-channels.wav": _riff(_form(channels=0), pcm),
            "many-channels.wav": _riff(_form(channels=65535), pcm),
            "no-rate.wav": _riff(_form(rate=0), pcm),
            "fast.wav": _riff(_form(rate=2**32 - 1), pcm),
            "one-hertz.wav": _riff(_form(rate=1), pcm),
            "no-bits.wav": _riff(_form(bits=0), pcm),
            "seven-bits.wav": _riff(_form(bits=7), pcm),
            "nan.wav": _riff(_form(3, bits=32), np.full(20_000, np.nan, "<f4").tobytes()),
            "infinite.wav": _riff(_form(3, bits=32), np.full(20_000, np.inf, "<f4").tobytes()),
            "loud.wav": _riff(_form(3, bits=32), np.full(20_000, 1e30, "<f4").tobytes()),
            "one-sample.wav": wav(np.zeros(1)),
            "silent.wav": wav(np.zeros(32_000)),
            "constant.wav": wav(np.ones(32_000)),
            "codec-of-nobody.wav": _riff(_form(0xDEAD), pcm),
            "list-of-songs.m3u": b"#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n",
            "stream.m3u8": b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile:///etc/hostname\n#EXT-X-ENDLIST\n",
            "script-of-parts.wav": b"ffconcat version 1.0\nfile '/etc/passwd'\nfile 'http://localhost/x'\n",
            "session.sdp": b"v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=audio 5004 RTP/AVP 0\n",
            "zip.wav": _zip({"a": b"x"}),
            "zeros.mp3": b"\0" * 200_000,
            "endless-tag.mp3": b"ID3\x04\0\0\x7f\x7f\x7f\x7f" + b"\0" * 5000,
            "random.mp3": dice.randbytes(60_000),
            "packed.wav.gz": gzip.compress(b"\0" * 20_000_000),
        }.items()
    )
    forms = {
        "flac": (),
        "mp3": (),
        "ogg": ("-c:a", "libvorbis"),
        "opus": (),
        "m4a": (),
        "aiff": (),
        "webm": (),
        "w64": (),
    }
    for suffix, more in forms.items():
        good = encoded(whole, suffix, *more)
        yield Hostile(SOUND, f"cut.{suffix}", good[: len(good) // 2])
        yield Hostile(SOUND, f"head.{suffix}", good[:60])
        yield Hostile(SOUND, f"hurt.{suffix}", _hurt(good, dice))
        yield Hostile(SOUND, f"tail-first.{suffix}", good[len(good) // 2 :] + good[: len(good) // 2])


def _names() -> Iterator[Hostile]:
    """A good sound under names that are none."""
    good = wav(tone(0.4))
    names = (
        "../../../../tmp/evil.wav", "..\\..\\evil.wav", "/etc/passwd", "\u202evaw.exe", "a\0b.wav", "x" * 2000 + ".wav", "",
        ".wav", "a\nb.wav", "<img src=x onerror=alert(1)>.wav", "💋🎤.wav", "con.wav", "%2e%2e%2f.wav", "\ufeff\u200b.wav",
    )  # fmt: skip
    yield from (Hostile(SOUND, name, good) for name in names)


def _films(dice: random.Random) -> Iterator[Hostile]:
    good = film()
    yield Hostile(FILM, "sound-only.mp4", encoded(wav(tone(0.5)), "m4a"))
    yield Hostile(FILM, "cut.mp4", good[: len(good) // 2])
    yield Hostile(FILM, "hurt.mp4", _hurt(good, dice))
    yield Hostile(FILM, "no-index.mp4", good.replace(b"moov", b"free"))
    yield Hostile(FILM, "lasts-a-year.mp4", good.replace(b"mvhd", b"mvhd", 1)[:-4] + b"\xff" * 4)
    yield Hostile(FILM, "picture.mp4", _png(np.zeros((9, 9, 4), np.uint8)))


# ---- pictures --------------------------------------------------------------------------------------------------------


def _png(pixels: np.ndarray, **more: object) -> bytes:
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


def _pictures(dice: random.Random) -> Iterator[Hostile]:
    good = _png(mouth())
    many = [Image.fromarray(np.full((8, 8), n % 255, np.uint8)) for n in range(400)]
    gif, tiff, webp = io.BytesIO(), io.BytesIO(), io.BytesIO()
    many[0].save(gif, "GIF", save_all=True, append_images=many[1:])
    many[0].save(tiff, "TIFF", save_all=True, append_images=many[1:])
    many[0].convert("RGB").save(webp, "WEBP", save_all=True, append_images=[m.convert("RGB") for m in many[1:260]])
    thin_rows = b"\0\0\0\0\0" * 36_000
    pictures = {
        "empty.png": b"",
        "text.png": b"no picture",
        "cut.png": good[: len(good) // 2],
        "hurt.png": _hurt(good, dice, 8),
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
        "hurt.jpg": _hurt(_saved("JPEG", mouth()), dice, 12),
        "sixty-five-thousand.jpg": _saved("JPEG", mouth()).replace(struct.pack(">HH", 120, 160), b"\xff\xff\xff\xff", 1),
        "page.eps": b"%!PS-3.0 EPSF-3.0\n%%BoundingBox: 0 0 9 9\n(%pipe%id) (w) file\n",
        "page.pdf": b"%PDF-1.7\n1 0 obj<</Type/Catalog>>endobj\n",
        "layers.psd": b"8BPS\0\x01" + b"\0" * 40,
        "icon.ico": b"\0\0\x01\0\x01\0" + b"\xff" * 16,
        "old.bmp": _saved("BMP", mouth()[:, :, :3].copy()),
        "../../up.png": good,
        "\0null.png": good,
    }  # fmt: skip
    yield from (Hostile(DRAWINGS, name, data, "36-million" in name) for name, data in pictures.items())
    for name in ("nine-hundred-million.png", "one-wide.png", "text.png", "text-bomb.png", "hurt.png"):
        yield Hostile(FACE, name, pictures[name])
        yield Hostile(PAGE, name, pictures[name])
    # What connects to nothing: every second pixel is a piece of its own.
    board = np.zeros((1500, 1500, 4), np.uint8)
    board[::2, ::2] = (0, 0, 0, 255)
    yield Hostile(PAGE, "half-a-million-pieces.png", _png(board), True)


def svg(body: str, head: str = 'width="100" height="80"') -> bytes:
    """An SVG of this content."""
    space = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {space} {head}>{body}</svg>".encode()


def _svgs() -> Iterator[Hostile]:
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 9))
    uses = '<path id="u0" d="M0 0h9v9z"/>' + "".join(
        f'<g id="u{n}">' + f'<use xlink:href="#u{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)
    )
    points = "M0 0" + "".join(f"L{n % 97} {n % 89}" for n in range(200_000))
    stops = "".join(f'<stop offset="{n / 1e5}" stop-color="red"/>' for n in range(19_000))
    svgs = {
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
    yield from (Hostile(DRAWINGS, name, data, name in ("dashes-in-a-row.svg",)) for name, data in svgs.items())
    for name in ("thin.svg", "laughs.svg", "uses.svg", "picture-outside.svg"):
        yield Hostile(FACE, name, svgs[name])
        yield Hostile(PAGE, name, svgs[name])


# ---- archives --------------------------------------------------------------------------------------------------------


def _zip(files: dict[str, bytes], **more: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data, **more)
    return out.getvalue()


def _ora(stack: str, *, head: bytes = b"image/openraster", **layers: bytes) -> bytes:
    """An OpenRaster archive of this list of layers, with pictures by name."""
    files = {"mimetype": head, "stack.xml": stack.encode(), **{f"{name}.png": data for name, data in layers.items()}}
    return _zip(files)


def _layered() -> Iterator[Hostile]:
    dot = _png(np.zeros((4, 4, 4), np.uint8))
    many = '<layer src="a.png"/>' * 190
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 9))
    yield from (
        Hostile(DRAWINGS, name, data, slow)
        for name, data, slow in (
            ("small-and-bottomless.ora", _ora(f'<image w="6000" h="6000"><stack>{many}</stack></image>', a=dot), False),
            ("eleven-large.ora", _ora('<image w="6000" h="6000"><stack>' + '<layer src="a.png"/>' * 11 + "</stack></image>", a=dot), True),
            ("one-wide.ora", _ora('<image w="1" h="30000"><stack><layer src="a.png"/></stack></image>', a=dot), False),
            ("below-zero.ora", _ora('<image w="-6" h="-6"><stack><layer src="a.png"/></stack></image>', a=dot), False),
            ("far-off.ora", _ora('<image w="60" h="60"><stack><layer src="a.png" x="99999999999" y="-9"/></stack></image>', a=dot), False),
            ("no-layer.ora", _ora('<image w="60" h="60"><stack/></image>'), False),
            ("missing.ora", _ora('<image w="60" h="60"><stack><layer src="b.png"/></stack></image>', a=dot), False),
            ("outside.ora", _ora('<image w="60" h="60"><stack><layer src="../../../etc/passwd"/></stack></image>'), False),
            ("laughs.ora", _ora(f'<!DOCTYPE i [<!ENTITY l0 "ha">{laughs}]><image w="9" h="9"><stack>&l8;</stack></image>'), False),
            ("deep.ora", _ora('<image w="9" h="9">' + "<stack>" * 50_000 + "</stack>" * 50_000 + "</image>"), False),
            ("stack-bomb.ora", _ora("<image>" + " " * 300_000_000 + "</image>"), False),
            ("layer-bomb.ora", _ora('<image w="9" h="9"><stack><layer src="a.png"/></stack></image>', a=b"\0" * 200_000_000), False),
            ("layer-of-nine-hundred-million.ora", _ora('<image w="9" h="9"><stack><layer src="a.png"/></stack></image>', a=png_of(30_000, 30_000)), False),
            ("other-kind.ora", _ora("<image/>", head=b"application/zip"), False),
            ("plain.zip.png", _zip({"a.png": dot}), False),
        )
    )  # fmt: skip


def character(parts: int = 1, sets: int = 1, drawings: int = 1, picture: bytes | None = None) -> PackedCharacter:
    """A character to be packed, as large as one likes."""
    shown = Picture(picture or _png(mouth()), ".png")
    rows = tuple(
        PackedDrawing(Drawing(n, f"d{n}", ("rest",)), "", False, 160, (80, 60), (0, 0), shown)
        for n in range(1, drawings + 1)
    )
    kinds = ["mouth", *["other"] * (parts - 1)]
    return PackedCharacter(
        "Pim",
        3,
        None,
        16 / 9,
        tuple(
            PackedPart(
                kind, f"part {at}", Placement(0.5, 0.5, 0.3), tuple(PackedSet(f"set {s}", rows) for s in range(sets))
            )
            for at, kind in enumerate(kinds)
        ),
    )


def _changed(change: Callable[[dict[str, object]], object], drop: str = "") -> bytes:
    """A good archive whose description was changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(character_zip.write(character()))) as before, zipfile.ZipFile(out, "w") as after:
        for name in before.namelist():
            data = before.read(name)
            if name == "character.json":
                told = json.loads(data)
                change(told)
                data = json.dumps(told).encode()
            if name != drop:
                after.writestr(name, data)
    return out.getvalue()


def _archives() -> Iterator[Hostile]:
    good = character_zip.write(character())
    archives = {
        "empty.zip": b"",
        "text.zip": b"no zip",
        "cut.zip": good[:-40],
        "nothing.zip": _zip({}),
        "no-description.zip": _zip({"a.png": b"x"}),
        "description-of-nobody.zip": _zip({"character.json": b"[]"}),
        "deep.zip": _zip({"character.json": b"[" * 200_000}),
        "bomb.zip": _zip({"character.json": b"{}", "bomb": b"\0" * 400_000_000}),
        "many-files.zip": _zip({f"{n}": b"" for n in range(5000)}),
        "sixty-sets.zip": character_zip.write(character(sets=60, drawings=1)),
        "five-hundred-parts.zip": character_zip.write(character(parts=501)),
        "twenty-uses.zip": character_zip.write(character(drawings=20, picture=_png(np.zeros((3000, 3000, 4), np.uint8)))),
        "two-hundred-and-one.zip": character_zip.write(character(drawings=201)),
        "newer.zip": _changed(lambda m: m.update(version=99)),
        "nan.zip": _changed(lambda m: m["parts"][0]["place"].update(x=float("nan"))),  # type: ignore[index]
        "infinite.zip": _changed(lambda m: m["parts"][0]["sets"][0]["drawings"][0].update(canvas=float("inf"))),  # type: ignore[index]
        "number-of-any-length.zip": _zip({"character.json": b'{"format": "tin-fork-character", "version": ' + b"9" * 6000 + b"}"}),
        "climbs-out.zip": _changed(lambda m: m["parts"][0]["sets"][0]["drawings"][0].update(file="../../etc/passwd.png")),  # type: ignore[index]
        "name-of-controls.zip": _changed(lambda m: m.update(name="\0\u202e\ud800")),
        "no-mouth.zip": _changed(lambda m: m["parts"][0].update(kind="eyes")),  # type: ignore[index]
        "picture-missing.zip": _changed(lambda m: None, "01-part-0/01-set-0/001-d1.png"),
    }  # fmt: skip
    yield from (Hostile(ARCHIVE, name, data, name == "twenty-uses.zip") for name, data in archives.items())


# ---- scripts ---------------------------------------------------------------------------------------------------------


def _scripts() -> Iterator[Hostile]:
    scripts = {
        "twenty-thousand-names.txt": "".join(f"PERSON {n}: hello\n" for n in range(20_000)).encode(),
        "two-thousand-shots.txt": "".join(f"# {n:04d} shot\nhello there\n" for n in range(2000)).encode(),
        "one-line.txt": b"word " * 30_000,
        "no-line.txt": b"\n" * 100_000,
        "binary.txt": bytes(range(256)) * 400,
        "nulls.txt": b"\0" * 50_000,
        "wide.txt": "ODALYS: hello\n".encode("utf-16") * 20,
        "capitals.txt": b"A" * 150_000 + b": hello",
        "colons.txt": b":" * 150_000,
        "brackets.txt": b"ODALYS: " + b"[" * 60_000,
        "stars.fountain": b"INT. BAKERY\n\nODALYS\n" + b"*" * 60_000 + b"\n",
        "notes.fountain": b"INT. BAKERY\n\nODALYS\n" + b"[[" * 30_000 + b"\n",
        "late.srt": b"1\n99999999:99:99,999 --> 99999999:99:99,999\nhello\n",
        "backwards.srt": b"1\n00:00:09,000 --> 00:00:01,000\nhello\n",
        "open-voice.vtt": b"WEBVTT\n\n00:00.000 --> 00:01.000\n<v " + b"x" * 60_000,
        "columns.csv": b"line," * 40_000 + b"\nhello\n",
        "quotes.csv": b'line\n"' + b"x" * 150_000,
    }  # fmt: skip
    yield from (Hostile(SCRIPT, name, data) for name, data in scripts.items())
