"""Animated pictures without sound: GIF and WebP, by Pillow. One picture for each change, shown as long as it lasts."""

from typing import IO

from PIL import Image

from tinfork.core.scene.choices import END, RATE, START, as_chosen, span_of
from tinfork.core.scene.exporting import Exporter, Option, Progress, Purpose, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.burn import BURN
from tinfork.engines.handover.movie import frames_of
from tinfork.engines.handover.picture_options import GROUND, PARTS, WIDTH, size_of

_FORMATS = {"gif": (".gif", "image/gif"), "webp": (".webp", "image/webp")}
_FORMAT = Option("format", "Format", "gif", choices=(("gif", "GIF"), ("webp", "animated WebP")))
_SMALL = Option(WIDTH.name, WIDTH.label, "640", choices=WIDTH.choices)
#: A GIF has times in hundredths of a second, and browsers replace less than two by ten; a WebP has thousandths.
_STEP_MS = {"gif": 10, "webp": 1}
_LEAST_MS = 20


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    scene = as_chosen(scene, values)
    first, end = span_of(scene, values)
    pictures: list[Image.Image] = []
    starts: list[int] = []
    last = None
    step = _STEP_MS[values["format"]]
    for frame, pixels in enumerate(frames_of(scene, values, size_of(scene, values), (first, end)), start=first):
        progress(0.8 * (frame - first) / (end - first))
        begun = scene.rate.first_us(frame) - scene.rate.first_us(first)
        if pixels is last or (starts and begun < (starts[-1] * step + _LEAST_MS) * 1000):
            continue
        image = Image.fromarray(pixels)
        pictures.append(_packed(image) if values["format"] == "gif" else image)
        starts.append(round(begun / 1000 / step))
        last = pixels
    length = round((scene.rate.first_us(end) - scene.rate.first_us(first)) / 1000 / step)
    durations = [(b - a) * step for a, b in zip(starts, [*starts[1:], max(length, starts[-1] + 1)], strict=True)]
    rest = {"lossless": True, "method": 2} if values["format"] == "webp" else {"disposal": 2, "optimize": False}
    pictures[0].save(
        out, values["format"].upper(), save_all=True, append_images=pictures[1:], duration=durations, loop=0, **rest
    )


def _packed(image: Image.Image) -> Image.Image:
    """With up to 255 colours and a transparent one."""
    small = image.convert("RGB").quantize(255, Image.Quantize.MEDIANCUT, dither=Image.Dither.NONE)
    if image.getchannel("A").getextrema()[0] == 255:
        return small
    clear = image.getchannel("A").point(lambda alpha: 255 if alpha < 128 else 0)
    small.paste(255, mask=clear)
    small.info["transparency"] = 255
    return small


EXPORTER = Exporter(
    "gif",
    "Animated picture (GIF, WebP)",
    Purpose.SHOW,
    ".gif",
    "image/gif",
    _write,
    (_FORMAT, _SMALL, PARTS, GROUND, START, END, *BURN, RATE),
    "without sound, for email, web pages and chat",
    takes_long=True,
    suffixes=_FORMATS,
    suffix_option="format",
)
