"""A preview of an export: a picture, or the first lines of a text, from the beginning of a shot."""

import io
from dataclasses import dataclass, replace

import pypdfium2
from PIL import Image

from tinfork.core.messages import Message
from tinfork.core.scene.exporting import Exporter, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover import gif, layers, lottie, movie, picture_sequence, svg_with_sound
from tinfork.engines.handover.archive_files import png
from tinfork.engines.handover.movie import frames_of

#: The width of a preview's picture in pixels; the most rows of its text, and letters in each.
_WIDTH, _ROWS, _LETTERS = 640, 14, 110
#: How much of a shot is exported for the preview (seconds).
_SECONDS = 8
_DRAWN = {each.EXPORTER.kind for each in (movie, gif, picture_sequence, layers, lottie, svg_with_sound)}


@dataclass(frozen=True, slots=True)
class Preview:
    """A picture as PNG, or text; `note` describes it."""

    picture: bytes = b""
    text: str = ""
    note: str = ""


def preview_of(exporter: Exporter, scene: Scene, values: Values, frame: int) -> Preview:
    """Make a preview; pictures show `frame` (from 0). Raises what the export would."""
    if exporter.kind in _DRAWN:
        return Preview(png(_picture(scene, values, frame)))
    short = scene.until(scene.rate.nominal * _SECONDS)
    note = Message("preview.first_seconds", count=_SECONDS) if short.frames < scene.frames else ""
    out = io.BytesIO()
    exporter.write(short, values, out, lambda done: None)
    if exporter.suffix.endswith(".pdf"):
        page = pypdfium2.PdfDocument(out.getvalue())[0]
        return Preview(png(page.render(scale=_WIDTH / page.get_width()).to_pil()), note=note)
    if exporter.media_type.startswith(("text/", "application/json", "application/x-subrip", "model/")):
        rows = out.getvalue()[:20_000].decode("utf-8", "ignore").splitlines()[:_ROWS]
        cut = [row[:_LETTERS] + ("…" if len(row) > _LETTERS else "") for row in rows]
        return Preview(text="\n".join(cut), note=Message("preview.first_lines"))
    return Preview()


def _picture(scene: Scene, values: Values, frame: int) -> Image.Image:
    height = max(2, round(_WIDTH * scene.size[1] / scene.size[0]))
    shown = {"what": "all", "ground": "shot", **{k: v for k, v in values.items() if k not in ("from", "to")}}
    frame = min(max(0, frame), scene.frames - 1)
    pixels = next(frames_of(replace(scene, sound=None), shown, (_WIDTH, height), (frame, frame + 1)))
    return Image.fromarray(pixels)
