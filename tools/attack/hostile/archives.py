"""Hostile archives: pictures of many layers, and whole characters."""

import io
import json
import zipfile
from collections.abc import Callable, Iterator

import numpy as np

from tinfork.core.formats import character_zip
from tinfork.core.formats.character_zip import PackedCharacter, PackedPart
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.formats.set_zip import PackedDrawing, PackedSet
from tinfork.core.mouths.chart import Drawing
from tinfork.core.mouths.placement import Placement
from tools.attack.hostile.kinds import ARCHIVE, DRAWINGS, Hostile
from tools.attack.hostile.pictures import mouth, png, png_of


def zip_of(files: dict[str, bytes], **more: int) -> bytes:
    """A ZIP of these files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data, **more)
    return out.getvalue()


def _ora(stack: str, *, head: bytes = b"image/openraster", **layers: bytes) -> bytes:
    """An OpenRaster archive of this list of layers, with pictures by name."""
    files = {"mimetype": head, "stack.xml": stack.encode(), **{f"{name}.png": data for name, data in layers.items()}}
    return zip_of(files)


def layered() -> Iterator[Hostile]:
    """OpenRaster archives."""
    dot = png(np.zeros((4, 4, 4), np.uint8))
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
            ("plain.zip.png", zip_of({"a.png": dot}), False),
        )
    )  # fmt: skip


def character(parts: int = 1, sets: int = 1, drawings: int = 1, picture: bytes | None = None) -> PackedCharacter:
    """A character to be packed, as large as one likes."""
    shown = Picture(picture or png(mouth()), ".png")
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


def archives() -> Iterator[Hostile]:
    """Archives of characters."""
    good = character_zip.write(character())
    given = {
        "empty.zip": b"",
        "text.zip": b"no zip",
        "cut.zip": good[:-40],
        "nothing.zip": zip_of({}),
        "no-description.zip": zip_of({"a.png": b"x"}),
        "description-of-nobody.zip": zip_of({"character.json": b"[]"}),
        "deep.zip": zip_of({"character.json": b"[" * 200_000}),
        "bomb.zip": zip_of({"character.json": b"{}", "bomb": b"\0" * 400_000_000}),
        "many-files.zip": zip_of({f"{n}": b"" for n in range(5000)}),
        "sixty-sets.zip": character_zip.write(character(sets=60, drawings=1)),
        "five-hundred-parts.zip": character_zip.write(character(parts=501)),
        "twenty-uses.zip": character_zip.write(character(drawings=20, picture=png(np.zeros((3000, 3000, 4), np.uint8)))),
        "two-hundred-and-one.zip": character_zip.write(character(drawings=201)),
        "newer.zip": _changed(lambda m: m.update(version=99)),
        "nan.zip": _changed(lambda m: m["parts"][0]["place"].update(x=float("nan"))),  # type: ignore[index]
        "infinite.zip": _changed(lambda m: m["parts"][0]["sets"][0]["drawings"][0].update(canvas=float("inf"))),  # type: ignore[index]
        "number-of-any-length.zip": zip_of({"character.json": b'{"format": "tin-fork-character", "version": ' + b"9" * 6000 + b"}"}),
        "climbs-out.zip": _changed(lambda m: m["parts"][0]["sets"][0]["drawings"][0].update(file="../../etc/passwd.png")),  # type: ignore[index]
        "name-of-controls.zip": _changed(lambda m: m.update(name="\0\u202e\ud800")),
        "no-mouth.zip": _changed(lambda m: m["parts"][0].update(kind="eyes")),  # type: ignore[index]
        "picture-missing.zip": _changed(lambda m: None, "01-part-0/01-set-0/001-d1.png"),
    }  # fmt: skip
    yield from (Hostile(ARCHIVE, name, data, name == "twenty-uses.zip") for name, data in given.items())
