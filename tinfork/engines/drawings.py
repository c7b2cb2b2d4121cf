"""Uploaded drawings, made safe and uniform: a PNG or cleaned SVG each, a thumbnail, and measures.

PNG, SVG, WebP, GIF, TIFF and JPEG pictures (each frame or page of a GIF, WebP, PNG or TIFF is a drawing), and
OpenRaster archives (each layer). The format of a file is recognised by its content. Nothing is fetched or executed.
Each file is opened in a process of its own with limited memory and time: one that needs more is refused, without
affecting others.
"""

import io
import warnings
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Event
from typing import IO, TypeVar

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring
from PIL import Image, ImageCms, ImageOps, ImageSequence

from tinfork.core.errors import Cancelled, FormatError
from tinfork.core.messages import Message
from tinfork.core.pictures.ground import Picture
from tinfork.core.pictures.measure import Measures, measure
from tinfork.core.pictures.regions import Box
from tinfork.engines.isolated import run_isolated
from tinfork.engines.limits import (
    MAX_BROUGHT_BYTES,
    MAX_FILE_PIXELS,
    MAX_PICTURE_BYTES,
    MAX_PICTURE_PIXELS,
    MAX_PICTURES,
    PICTURE_CHILD_BYTES,
    PICTURE_TIMEOUT_S,
    THUMB_SIDE,
)
from tinfork.engines.raster import png_from_svg
from tinfork.engines.svg import check_shape, clean_svg

#: The pixel formats that are opened, by Pillow's names.
FORMATS = ("PNG", "WEBP", "GIF", "TIFF", "JPEG")
_MOST_MEGAPIXELS = MAX_PICTURE_PIXELS // 1_000_000
#: An SVG is measured at this width in pixels.
_SVG_MEASURED = 800
#: Pictures at least twice this large are measured on every second pixel, and so on.
_MEASURED = 1000


@dataclass(frozen=True)
class Prepared:
    """A drawing ready to be stored.

    `data` is a PNG or cleaned SVG (see `suffix`), `thumb` a PNG; sizes in pixels. `note` says what was changed, if the
    person should know.
    """

    name: str
    data: bytes
    suffix: str
    width: int
    height: int
    thumb: bytes
    measures: Measures
    note: str = ""


T = TypeVar("T")
Report = Callable[[str, float], None]


def prepare_files(files: list[tuple[Path, str]], progress: Report) -> tuple[list[Prepared], list[str]]:
    """Prepare the drawings in files (path, name for messages): all drawings in order, and the errors.

    One bad file does not stop the others. `progress("prepare", share)`, at least every second; it may raise
    `Cancelled`.
    """
    stop = Event()

    def beat(phase: str, done: float) -> None:
        if stop.is_set():
            raise Cancelled("job.cancelled")

    def one(file: tuple[Path, str]) -> list[Prepared] | FormatError:
        try:
            return picture_apart(prepare, *file, progress=beat, name=file[1], reports=False)
        except FormatError as error:
            return error

    with ThreadPoolExecutor(2) as pool:
        futures = [pool.submit(one, file) for file in files]
        try:
            _follow(futures, progress)
        except BaseException:
            stop.set()
            for future in futures:
                future.cancel()
            raise
    prepared = [p for future in futures if not isinstance(found := future.result(), FormatError) for p in found]
    return prepared, [str(found) for future in futures if isinstance(found := future.result(), FormatError)]


def _follow(futures: "list[Future[list[Prepared] | FormatError]]", progress: Callable[[str, float], None]) -> None:
    """Report progress until all are done.

    Raises
    ------
    FormatError
        Where they are too much together.
    """
    open_ = set(futures)
    size = 0
    while open_:
        done, open_ = wait(open_, timeout=1.0, return_when=FIRST_COMPLETED)
        for future in done:
            found = future.result()
            size += 0 if isinstance(found, FormatError) else sum(len(p.data) for p in found)
        if size > MAX_BROUGHT_BYTES:
            raise FormatError("drawing.too_large_together", max_brought_bytes=MAX_BROUGHT_BYTES // 2**20)
        progress("prepare", 1 - len(open_) / len(futures))


def picture_apart(
    function: Callable[..., T],
    *arguments: object,
    progress: Report,
    name: str,
    limit_s: float = PICTURE_TIMEOUT_S,
    reports: bool = True,
) -> T:
    """`run_isolated` with the limits of memory and time for pictures.

    Raises `FormatError` with the file's `name` if it needs more.
    """
    return run_isolated(
        function,
        *arguments,
        progress=progress,
        limit_s=limit_s,
        reports=reports,
        memory_bytes=PICTURE_CHILD_BYTES,
        too_much=FormatError("drawing.too_slow", name=name),
    )


def prepare(path: Path, name: str) -> list[Prepared]:
    """Prepare the drawings of one file.

    Raises
    ------
    FormatError
        With the file's name in it.
    """
    if path.stat().st_size > MAX_PICTURE_BYTES:
        raise FormatError("drawing.too_large", name=name, max_picture_bytes=MAX_PICTURE_BYTES // 2**20)
    stem = Path(name).stem.strip() or "drawing"
    with path.open("rb") as file:
        head = file.read(4096)
    if not head:
        raise FormatError("drawing.empty_file", name=name)
    if head.startswith(b"PK\x03\x04"):
        return [from_pixels(layer, pixels) for layer, pixels in layers(path, name)]
    if b"<svg" in head or head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith((b"<?xml", b"<!DOCTYPE svg", b"<svg")):
        return [from_svg(stem, path.read_bytes(), name)]
    # One frame at a time: a file may hold many large ones.
    out = [from_pixels(stem, pixels, note, _plain_png(path)) for pixels, note in frames(path, name)]
    if len(out) == 1:
        return out
    return [replace(one, name=f"{stem[:76]} {at:02d}") for at, one in enumerate(out, start=1)]


def _opened(path: Path, name: str) -> Image.Image:
    """Open a picture and check the size in its header.

    Raises
    ------
    FormatError
        For what is no picture, or has too many pixels.
    """
    try:
        with warnings.catch_warnings():
            # Our own limit, below, is lower.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(path, formats=FORMATS)
    except Image.DecompressionBombError:
        raise FormatError("drawing.too_many_pixels", name=name, most=_MOST_MEGAPIXELS) from None
    except (OSError, ValueError, SyntaxError):
        raise FormatError("drawing.not_a_picture", name=name) from None
    check_size(image.width, image.height, name)
    return image


def check_size(width: int, height: int, name: str) -> None:
    """Refuse a picture with too many pixels, or one too long and thin for a drawing.

    Raises
    ------
    FormatError
        For such a picture.
    """
    if width * height > MAX_PICTURE_PIXELS:
        raise FormatError("drawing.too_many_pixels_of", name=name, width=width, height=height, most=_MOST_MEGAPIXELS)
    check_shape(width, height, name)


def frames(path: Path, name: str) -> Iterator[tuple[Picture, str]]:
    """The frames or pages of a picture file, each with a note for the person.

    Raises
    ------
    FormatError
    """
    image = _opened(path, name)
    count = getattr(image, "n_frames", 1)
    if count > MAX_PICTURES:
        raise FormatError("drawing.too_many_frames", name=name, most=MAX_PICTURES)
    note: str = ""
    if image.mode == "CMYK":
        note = Message("drawing.cmyk", name=name)
    total = 0
    try:
        for frame in ImageSequence.Iterator(image):
            total += frame.width * frame.height
            # Pages may be larger than the first, and too large for memory together.
            if frame.width * frame.height > MAX_PICTURE_PIXELS or total > MAX_FILE_PIXELS:
                code = "drawing.too_many_pixels_in_frames" if total > MAX_FILE_PIXELS else "drawing.too_many_pixels"
                raise FormatError(code, name=name, most=_MOST_MEGAPIXELS)
            yield pixels_of(frame), note
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError, Image.DecompressionBombError):
        raise FormatError("drawing.damaged", name=name) from None


def pixels_of(frame: Image.Image) -> Picture:
    """A frame as sRGB with alpha, upright."""
    image = ImageOps.exif_transpose(frame)
    profile = image.info.get("icc_profile")
    if image.mode.startswith(("I", "F")):
        values = np.asarray(image, dtype=np.float64)
        image = Image.fromarray(np.clip(values / 257, 0, 255).astype(np.uint8))
    elif profile and image.mode in ("RGB", "CMYK", "L"):
        image = _to_srgb(image, profile)
    return np.asarray(image.convert("RGBA"))


#: The chunks that a PNG's picture needs (PNG specification, 2nd edition, section 4.7.2); all others are dropped.
_KEPT_CHUNKS = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND")
#: Chunks that change how the pixels look.
_COLOUR_CHUNKS = (b"iCCP", b"gAMA", b"cHRM", b"eXIf", b"acTL")


def _plain_png(path: Path) -> bytes | None:
    """A PNG of 8 bits a channel, reduced to the chunks of its picture.

    None for any other file, which has to be encoded anew.

    The file was decoded before, so its pixels are valid.
    """
    data = path.read_bytes()
    if not data.startswith(b"\x89PNG\r\n\x1a\n") or data[24] != 8:
        return None
    at, out = 8, [data[:8]]
    while at + 12 <= len(data):
        length, kind = int.from_bytes(data[at : at + 4]), data[at + 4 : at + 8]
        if kind in _COLOUR_CHUNKS:
            return None
        if kind in _KEPT_CHUNKS:
            out.append(data[at : at + 12 + length])
        if kind == b"IEND":
            return b"".join(out)
        at += 12 + length
    return None


def _to_srgb(image: Image.Image, profile: bytes) -> Image.Image:
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        turned = ImageCms.profileToProfile(image, own, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError):
        return image
    return turned or image


def layers(file: Path | IO[bytes], name: str) -> Iterator[tuple[str, Picture]]:
    """The layers of an OpenRaster archive (its `stack.xml` lists them from the top), bottom first.

    Raises
    ------
    FormatError
        For what is no such archive, and for too many layers or pixels.
    """  # noqa: DOC501
    try:
        with zipfile.ZipFile(file) as archive:
            if _entry(archive, "mimetype", 100).strip() != b"image/openraster":
                raise KeyError
            stack = fromstring(_entry(archive, "stack.xml", _MOST_STACK_BYTES), forbid_dtd=True)
            width, height = int(stack.get("w", "0")), int(stack.get("h", "0"))
            listed = [layer for layer in stack.iter("layer") if layer.get("visibility") != "hidden"]
            if width <= 0 or height <= 0:
                raise ValueError(width, height)
            check_size(width, height, name)
            if len(listed) > MAX_PICTURES:
                raise FormatError("drawing.too_many_frames", name=name, most=MAX_PICTURES)
            # Each layer is as large as the whole picture, however little is in its file.
            if width * height * len(listed) > MAX_FILE_PIXELS:
                raise FormatError("drawing.too_many_pixels_in_layers", name=name, most=_MOST_MEGAPIXELS)
            for layer in reversed(listed):
                data = _entry(archive, layer.get("src", ""), MAX_PICTURE_BYTES)
                image = Image.open(io.BytesIO(data), formats=("PNG",))
                if image.width * image.height > MAX_PICTURE_PIXELS:
                    raise FormatError("drawing.too_many_pixels", name=name, most=_MOST_MEGAPIXELS)
                canvas = Image.new("RGBA", (width, height), (0, 0, 0, 0))
                canvas.paste(image.convert("RGBA"), (int(layer.get("x", "0")), int(layer.get("y", "0"))))
                yield layer.get("name", "layer").strip()[:80] or "layer", np.asarray(canvas)
    except (
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        OSError,
        EOFError,
        DefusedXmlException,
        SyntaxError,
        RuntimeError,
        OverflowError,
        Image.DecompressionBombError,
    ):
        raise FormatError("drawing.not_one_of_these", name=name) from None


#: The list of an OpenRaster archive's layers.
_MOST_STACK_BYTES = 4 * 1024 * 1024


def _entry(archive: zipfile.ZipFile, name: str, most_bytes: int) -> bytes:
    """A file in an archive; the size in its header is not trusted.

    Raises
    ------
    ValueError
        For one that is larger than `most_bytes`.
    """
    with archive.open(name) as file:
        data = file.read(most_bytes + 1)
    if len(data) > most_bytes:
        raise ValueError(name)
    return data


def from_svg(stem: str, data: bytes, name: str) -> Prepared:
    """A cleaned SVG, measured in its own units.

    Raises
    ------
    FormatError
        With the file's `name`.
    """
    text, width, height = clean_svg(data, name)
    pixels = picture_of(text.encode(), ".svg", name, width=_SVG_MEASURED)
    wide, high = max(1, round(width)), max(1, round(height))
    measures = _scaled(measure(pixels), width / pixels.shape[1], wide, high)
    return Prepared(stem[:80], text.encode(), ".svg", wide, high, thumb_of(pixels), measures)


def picture_of(data: bytes, suffix: str, name: str = "The drawing", *, width: int | None = None) -> Picture:
    """The pixels of a stored drawing; an SVG at `width` pixels.

    Raises
    ------
    FormatError
        Where it cannot be drawn.
    """
    if suffix == ".svg":
        data = png_from_svg(data.decode(), width or _SVG_MEASURED)
    try:
        return np.asarray(Image.open(io.BytesIO(data), formats=("PNG",)).convert("RGBA"))
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise FormatError("drawing.not_drawn", name=name) from None


def from_pixels(name: str, pixels: Picture, note: str = "", png: bytes | None = None) -> Prepared:
    """A drawing from pixels of shape (height, width, 4); `png` are the same pixels, if already encoded."""
    height, width = pixels.shape[:2]
    # More resolution does not improve the measures of lines and centres.
    step = max(1, max(height, width) // _MEASURED)
    measures = _scaled(measure(np.ascontiguousarray(pixels[::step, ::step])), step, width, height)
    return Prepared(name[:80], png or png_of(pixels), ".png", width, height, thumb_of(pixels), measures, note)


def _scaled(seen: Measures, scale: float, width: int, height: int) -> Measures:
    """Measures of a scaled copy, converted to pixels of the drawing."""
    box = seen.box and Box(*(round(side * scale) for side in seen.box.sides))
    if box:
        box = Box(box.left, box.top, min(width, box.right), min(height, box.bottom))
    return Measures(width, height, box, seen.line * scale, seen.opaque, seen.plain_ground, seen.look)


def measure_kept(data: bytes, suffix: str) -> tuple[bytes, Measures]:
    """The thumbnail and the measures of a drawing that was stored without them."""
    if suffix == ".svg":
        prepared = from_svg("drawing", data, "The drawing")
        return prepared.thumb, prepared.measures
    pixels = picture_of(data, suffix)
    return thumb_of(pixels), measure(pixels)


def png_of(pixels: Picture) -> bytes:
    """PNG bytes."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=3)
    return out.getvalue()


def thumb_of(pixels: Picture) -> bytes:
    """A PNG whose longer side is at most `THUMB_SIDE`."""
    image = Image.fromarray(pixels)
    # Halving first is as good as one large step, and much faster.
    image.thumbnail((THUMB_SIDE, THUMB_SIDE), Image.Resampling.LANCZOS, reducing_gap=2.0)
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=6)
    return out.getvalue()
