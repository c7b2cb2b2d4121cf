"""Thumbnails of a shot for pages, as WebP: one frame, or its first seconds animated."""

import io
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.gif import EXPORTER
from tinfork.engines.handover.movie import frames_of
from tinfork.engines.handover.picture_options import size_at

#: Animated thumbnails: the width in pixels, pictures a second, and the most seconds.
_WIDTH, _A_SECOND, _MOST_S = 192, 8, 4
_QUALITY = 60


def plain_frames(scene: Scene, width: int, span: tuple[int, int]) -> Iterator[NDArray[np.uint8]]:
    """Frames `[first, end)` of the shot without burnt-in text, at a width (see `movie.frames_of`)."""
    return frames_of(scene, EXPORTER.chosen({}), size_at(scene, width), span)


def still_webp(scene: Scene, frame: int, width: int) -> bytes:
    """A frame of the shot, `width` pixels wide; one outside it is its first or last."""
    frame = min(max(0, frame), scene.frames - 1)
    (pixels,) = plain_frames(scene, width, (frame, frame + 1))
    out = io.BytesIO()
    Image.fromarray(pixels).convert("RGB").save(out, "WEBP", quality=80)
    return out.getvalue()


def moving_webp(scene: Scene) -> bytes:
    """The first seconds of speech, animated."""
    lines = scene.reading.lines
    first = scene.rate.frame_at(lines[0].start_us) if lines else 0
    step = max(1, round(float(scene.rate.value) / _A_SECOND))
    end = min(scene.frames, first + _MOST_S * _A_SECOND * step)
    first = min(first, end - 1)
    frames = plain_frames(scene, _WIDTH, (first, end))
    pictures = [Image.fromarray(pixels).convert("RGB") for at, pixels in enumerate(frames) if at % step == 0]
    every_ms = round(1000 * step / float(scene.rate.value))
    out = io.BytesIO()
    pictures[0].save(
        out, "WEBP", save_all=True, append_images=pictures[1:], duration=every_ms, loop=0, quality=_QUALITY, method=2
    )
    return out.getvalue()


def first_webp(moving: bytes) -> bytes:
    """The first picture of an animated thumbnail."""
    out = io.BytesIO()
    with Image.open(io.BytesIO(moving)) as first:
        first.convert("RGB").save(out, "WEBP", quality=_QUALITY)
    return out.getvalue()
