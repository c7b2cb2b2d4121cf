"""The demo's story reel: four boards of its last shot in marker greys, drawn anew every third frame as a hand would.

Each board is the shot's picture with our own backgrounds and faces, seen by a camera that goes slowly nearer.
"""

import json
import re
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import Image, ImageDraw, ImageFont

from tinfork.apps.cast.starters import STARTERS
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.scene.boil import VARIANTS, Boil, Variant
from tinfork.core.scene.drawing import Placed
from tinfork.core.scene.layout import Affine, Stand, drawing_matrix, figure_matrix
from tinfork.core.scene.scene import Ground
from tinfork.engines.fonts import font_file
from tinfork.engines.handover.rendering import Renderer

FRAMES = 288
_SIZE, _SHOWN = (1920, 1080), (640, 360)
_PAPER, _LINE = "#f4efe3", "#3c3a36"
#: Markers, from dark to light.
_GREYS = ("#4a4844", "#8f8b83", "#c2bdb2", "#ddd8cc", "#f4efe3")
_BOIL = Boil(40, 3)


@dataclass(frozen=True, slots=True)
class _Board:
    """What is seen up to a frame.

    The middle of the camera in shares of the picture, how wide it sees as it begins and ends, who has which mouth (a
    file of the demo's chart), and what is written under it.
    """

    end: int
    middle: tuple[float, float]
    wide: tuple[float, float]
    mouths: dict[str, str]
    says: str


_BOARDS = (
    _Board(104, (0.5, 0.56), (1.0, 0.94), {"Odalys": "13-half-open"}, "One loaf is left."),
    _Board(200, (0.76, 0.68), (0.62, 0.56), {"Brindle": "14-wide-open"}, "Then we cut it."),
    _Board(246, (0.52, 0.64), (0.44, 0.38), {"Pim": "12-wide"}, "Está listo."),
    _Board(FRAMES, (0.25, 0.64), (0.6, 0.56), {"Odalys": "14-wide-open"}, "Did the oven just speak?"),
)


def _marker(colour: str) -> str:
    """The marker nearest to a colour's lightness."""
    red, green, blue = (int(colour[n : n + 2], 16) for n in (1, 3, 5))
    light = (0.2126 * red + 0.7152 * green + 0.0722 * blue) / 255
    return _GREYS[min(len(_GREYS) - 1, int(light * len(_GREYS)))]


def _sketched(path: Path) -> Picture:
    """A drawing in marker greys with one pencil."""
    text = path.read_text("utf-8")
    text = re.sub(r'stroke="#[0-9a-fA-F]{6}"', f'stroke="{_LINE}"', text)
    text = re.sub(
        r'(fill|stop-color)="(#[0-9a-fA-F]{6})"', lambda found: f'{found[1]}="{_marker(found[2].lower())}"', text
    )
    return Picture(text.encode(), ".svg")


def _size_of(picture: Picture) -> tuple[float, float]:
    found = re.search(rb'viewBox="[-\d.]+ [-\d.]+ ([\d.]+) ([\d.]+)"', picture.data)
    assert found
    return float(found[1]), float(found[2])


def _figure(demo: Path, film: dict[str, Any], name: str, stand: Stand, mouth: str, number: int) -> list[Placed]:
    about = film["faces"][name]
    face = _sketched(demo / "faces" / about["picture"])
    wide, high = _size_of(face)
    matrix, box = figure_matrix(stand, wide / high, _SIZE)
    variant = Variant(_BOIL.strength, number, wide / high)
    # Parts are on a canvas of the face's own.
    files = [about["picture"], *(part["picture"] for part in about["parts"])]
    drawn = [Placed((name, file, "", 0), _sketched(demo / "faces" / file), matrix, box, variant) for file in files]
    starter = next((one for one in STARTERS if one.name == name), None)
    x, y, across = about.get("mouth", (0.5, 0.5, 0.3))
    place = starter.placement if starter else Placement(x, y, across, wide / high)
    picture = _sketched(demo / "chart" / f"{mouth}.svg")
    onto, size = drawing_matrix(place, Registration.centred(*map(round, _size_of(picture))), matrix, box)
    return [*drawn, Placed((name, "mouth", "", 0), picture, onto, size, Variant(_BOIL.strength, number, place.width))]


def _pictures(demo: Path, board: _Board) -> list[Image.Image]:
    """A board's picture, once for each variant of its lines."""
    film = json.loads((demo / "film.json").read_text("utf-8"))
    shot = film["shots"][-1]
    behind = _sketched(demo / "backgrounds" / shot["background"])
    stands = {name: Stand.from_dict(stand) for name, stand in shot["stands"].items()}
    out = []
    for number in range(VARIANTS):
        drawn = [Placed(("", "", "", 0), behind, Affine(), _SIZE, Variant(_BOIL.strength, number, 16 / 9))]
        for name, stand in sorted(stands.items(), key=lambda one: one[1].depth):
            drawn += _figure(demo, film, name, stand, board.mouths.get(name, "01-rest"), number)
        out.append(Renderer(_SIZE, Ground(_PAPER)).frame(tuple(drawn)).convert("RGB"))
    return out


def _seen(picture: Image.Image, board: _Board, share: float) -> Image.Image:
    """What the camera sees after a share of a board's time."""
    wide = board.wide[0] + (board.wide[1] - board.wide[0]) * share
    left = min(1 - wide, max(0.0, board.middle[0] - wide / 2)) * _SIZE[0]
    top = min(1 - wide, max(0.0, board.middle[1] - wide / 2)) * _SIZE[1]
    box = (left, top, left + wide * _SIZE[0], top + wide * _SIZE[1])
    return picture.resize(_SHOWN, Image.Resampling.BILINEAR, box=box, reducing_gap=2.0)


def write_reel(target: Path, demo: Path) -> None:
    """The reel at 24 frames a second, with its frame numbers, as films cut for timing have them."""
    font = ImageFont.truetype(str(font_file()), 17)
    with tempfile.TemporaryDirectory() as folder:
        start = 0
        for board in _BOARDS:
            pictures = _pictures(demo, board)
            for frame in range(start, board.end):
                picture = _seen(pictures[_BOIL.variant_on(frame)], board, (frame - start) / (board.end - start))
                draw = ImageDraw.Draw(picture)
                draw.rectangle((0, 328, 640, 360), fill=_PAPER)
                draw.line((0, 328, 640, 328), fill=_LINE, width=2)
                draw.text((14, 334), board.says, fill=_LINE, font=font)
                draw.text((582, 334), f"{frame:04d}", fill=_LINE, font=font)
                picture.save(Path(folder) / f"{frame:05d}.png", compress_level=1)
            start = board.end
        command = [
            "ffmpeg", "-v", "error", "-y", "-framerate", "24", "-i", f"{folder}/%05d.png", "-c:v", "libvpx",
            "-b:v", "300k", "-pix_fmt", "yuv420p", "-an", str(target),
        ]  # fmt: skip
        subprocess.run(command, check=True)
