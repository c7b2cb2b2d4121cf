"""Text burnt into a picture: frame, timecode, shot, the spoken word, the number of the mouth, a text."""

from bisect import bisect_right
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from tinfork.core.clock import timecode
from tinfork.core.scene.exporting import Option, Values
from tinfork.core.scene.scene import Scene
from tinfork.core.solver.problem import NO_MOUTH
from tinfork.core.solver.solve import drawing_on
from tinfork.engines.fonts import font_file

BURN = (
    Option("burn_frame", "Burn in frame numbers", False),
    Option("burn_timecode", "Burn in timecode", False),
    Option("burn_shot", "Burn in shot and version", False),
    Option("burn_word", "Burn in words", False),
    Option("burn_mouth", "Burn in mouth numbers", False),
    Option("burn_text", "Burn in a text", "", high=80, hint="who it is for"),
)


class Burner:
    """Burns the chosen text into each frame."""

    def __init__(self, scene: Scene, values: Values) -> None:
        self._scene, self._values = scene, values
        self._words = sorted(scene.reading.words(), key=lambda word: word.start_us)
        self._starts = [word.start_us for word in self._words]
        self.is_on = any(values[option.name] for option in BURN)

    def texts(self, frame: int) -> tuple[str, str, str]:
        """The texts on a frame (from 0): left, middle, right; outside the shot, those of its first or last frame."""
        scene, values = self._scene, self._values
        number = str(scene.first_frame + frame) if values["burn_frame"] else ""
        code = timecode(max(0, frame), scene.rate, drop=scene.drop) if values["burn_timecode"] else ""
        named = (scene.name, scene.version) if values["burn_shot"] else ()
        shot = " ".join(filter(None, (*named, values["burn_text"])))
        inside = min(max(0, frame), scene.frames - 1)
        word = self._word(scene.rate.first_us(inside)) if values["burn_word"] else ""
        mouths = self._mouths(inside) if values["burn_mouth"] else ""
        return shot, "  ".join(filter(None, (word, mouths))), "  ".join(filter(None, (code, number)))

    def _word(self, time_us: int) -> str:
        at = bisect_right(self._starts, time_us) - 1
        return self._words[at].text if at >= 0 and self._words[at].end_us > time_us else ""

    def _mouths(self, frame: int) -> str:
        shown = [drawing_on(f.mouth.holds, frame).drawing for f in self._scene.figures if f.mouth.holds]
        return " ".join("×" if number == NO_MOUTH else f"[{number}]" for number in shown)

    def burn(self, pixels: NDArray[np.uint8], texts: tuple[str, str, str]) -> NDArray[np.uint8]:
        """A copy of a picture (RGBA) with the texts on it, on a dark bar at its lower edge."""
        out = Image.fromarray(pixels)
        size = max(10, out.height // 28)
        bar = Image.new("RGBA", (out.width, round(size * 1.7)), (20, 20, 20, 190))
        pen, font = ImageDraw.Draw(bar), _font(size)
        middle, edge = bar.height / 2, size // 2
        pen.text((edge, middle), texts[0], "white", font, "lm")
        pen.text((bar.width / 2, middle), texts[1], "white", font, "mm")
        pen.text((bar.width - edge, middle), texts[2], "white", font, "rm")
        out.alpha_composite(bar, (0, out.height - bar.height))
        return np.asarray(out)


@lru_cache(maxsize=8)
def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(font_file()), size)
