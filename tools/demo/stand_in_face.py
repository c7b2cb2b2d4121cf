"""A painted face that moves in known ways: the camera of machines without one, and the truth for tests.

    .venv/bin/python -m tools.demo.stand_in_face [target.webm|target.y4m]

It is nobody's face: everything is painted here. Without a target, the film that ships with the application is made.
"""

import subprocess
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.float32]
Colour = tuple[int, int, int]

SIDE = 480
RATE = 30
SHIPPED = Path(__file__).resolve().parents[2] / "tinfork/static/films/stand-in.webm"
_SKIN, _HAIR, _DARK = (214, 170, 145), (60, 42, 34), (48, 32, 28)
_MIDDLE = SIDE / 2
#: Points are painted on sixteenths of a pixel.
_FINE = 4


@dataclass(frozen=True)
class Held:
    """How the face is held.

    Angles in degrees (to the right, down, clockwise), moves in pixels, `shut` lids and `mouth` from 0 to 1, gaze in
    half widths of an eye, brows in pixels up.
    """

    turn: float = 0.0
    nod: float = 0.0
    tilt: float = 0.0
    across: float = 0.0
    down: float = 0.0
    shut: float = 0.0
    gaze: float = 0.0
    brows: float = 0.0
    mouth: float = 0.0


def paint(held: Held, seed: int = 1) -> NDArray[np.uint8]:
    """The face as a camera sees it, with its noise: RGB, shape (480, 480, 3)."""
    picture = _turned(_upright(held), held)
    map_ = cv2.getRotationMatrix2D((_MIDDLE, _MIDDLE), -held.tilt, 1)
    map_[:, 2] += np.array([held.across, held.down])
    moved = cv2.warpAffine(picture, map_, (SIDE, SIDE), borderMode=cv2.BORDER_REPLICATE)
    noise = np.random.default_rng(seed).normal(0, 3, moved.shape)
    return np.asarray(np.clip(moved + noise, 0, 255), np.uint8)


def performance(seconds: float = 8.0, rate: int = RATE) -> list[Held]:
    """A little performance: neutral for a second, then everything once or more; it ends as it began."""
    out = []
    for n in range(round(seconds * rate)):
        at = n / rate
        on = min(1.0, max(0.0, at - 1), max(0.0, seconds - at))
        out.append(
            Held(
                turn=on * 16 * np.sin(2 * np.pi * 0.33 * (at - 1)),
                nod=on * 9 * np.sin(2 * np.pi * 0.7 * (at - 1)),
                tilt=on * 13 * np.sin(2 * np.pi * 0.4 * (at - 1)),
                across=on * 26 * np.sin(2 * np.pi * 0.25 * (at - 1)),
                down=on * 10 * np.sin(2 * np.pi * 0.5 * (at - 1)),
                shut=max((_lids(at - begin) for begin in BLINKS), default=0.0),
                gaze=0.36 * (_within(at, 2.6, 3.2) - _within(at, 5.6, 6.2)),
                brows=11 * _within(at, 3.6, 4.3),
                mouth=_within(at, 4.8, 5.4),
            )
        )
    return out


#: When the lids begin to close, in seconds.
BLINKS = (0.4, 1.5, 2.2, 3.4, 4.5, 5.5, 6.6, 7.2)


def _lids(since: float) -> float:
    """How far lids are shut so long after a blink began: fast down, slower up."""
    return float(np.interp(since, [0, 0.06, 0.12, 0.24], [0, 1, 1, 0], left=0, right=0))


def _within(at: float, begin: float, end: float) -> float:
    """1 inside of a stretch, with soft edges."""
    return float(np.clip((at - begin) / 0.1, 0, 1) * np.clip((end - at) / 0.1, 0, 1))


# painting -------------------------------------------------------------------------------------------------------------


class _Canvas:
    def __init__(self, colour: Colour) -> None:
        self.picture: Picture = np.full((SIDE, SIDE, 3), colour, np.float32)

    def put(self, mask: Picture, colour: Colour, share: float = 1.0) -> None:
        """Colour where a mask is, as much as it is there."""
        part = (share * mask)[..., None]
        self.picture = self.picture * (1 - part) + np.array(colour, np.float32) * part


def _oval(x: float, y: float, wide: float, high: float, soft: float = 0.0) -> Picture:
    mask = np.zeros((SIDE, SIDE), np.float32)
    at, size = ((round(a * 16), round(b * 16)) for a, b in ((x, y), (wide, high)))
    cv2.ellipse(mask, at, size, 0, 0, 360, 1.0, -1, cv2.LINE_AA, _FINE)
    return _softened(mask, soft)


def _softened(mask: Picture, soft: float) -> Picture:
    return np.asarray(cv2.GaussianBlur(mask, (0, 0), soft) if soft else mask, np.float32)


def _fine(points: NDArray[np.float64]) -> list[NDArray[np.int32]]:
    return [np.round(points * 16).astype(np.int32)]


def _line(points: NDArray[np.float64], wide: int, soft: float) -> Picture:
    mask = np.zeros((SIDE, SIDE), np.float32)
    cv2.polylines(mask, _fine(points), False, 1.0, wide, cv2.LINE_AA, _FINE)
    return _softened(mask, soft)


def _upright(held: Held) -> Picture:
    """The face from the front, with what only moves on it."""
    canvas = _Canvas((150, 160, 165))
    _head(canvas)
    for side in (-1, 1):
        _eye(canvas, side, held)
    _nose(canvas)
    _mouth(canvas, 26 * held.mouth)
    return canvas.picture


def _head(canvas: _Canvas) -> None:
    x, y = _MIDDLE, _MIDDLE
    canvas.put(_oval(x, SIDE * 1.08, 170, 110, 3), (70, 84, 110))
    canvas.put(_oval(x, y + 130, 58, 110, 3), (190, 146, 122))
    canvas.put(_oval(x, y - 40, 132, 150, 4), _HAIR)
    for side in (-1, 1):
        canvas.put(_oval(x + side * 112, y + 6, 14, 30, 2), (200, 152, 128))
    head = _softened(np.maximum(_oval(x, y - 8, 110, 128), _oval(x, y + 50, 88, 100)), 1.5)
    canvas.put(head, _SKIN)
    down, across = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32)
    nx, ny = (across - x) / 115, (down - y) / 150
    light = np.clip(1 - 0.28 * (nx**2 + 0.6 * ny**2) - 0.06 * nx, 0.4, 1.1)[..., None]
    canvas.picture = canvas.picture * (1 - head[..., None]) + canvas.picture * light * head[..., None]
    canvas.put(_softened(np.clip(_oval(x, y - 92, 118, 72) - _oval(x, y - 38, 96, 82), 0, 1), 3), _HAIR)
    for side in (-1, 1):
        canvas.put(_oval(x + side * 58, y + 42, 26, 20, 12), (222, 140, 124), 0.5)


def _eye(canvas: _Canvas, side: int, held: Held) -> None:
    x, y, half = _MIDDLE + side * 44, _MIDDLE - 14, 21
    canvas.put(_oval(x, y - 6, 32, 20, 9), (150, 104, 88), 0.55)
    round_ = np.linspace(0, np.pi, 40)
    across = half * np.cos(round_)
    upper = np.stack([x - across, y + 3 - (14 * (1 - held.shut) - 5 * held.shut) * np.sin(round_)], 1)
    lower = np.stack([x + across, y + 3 + 5 * np.sin(round_) * (1 - 0.15 * held.shut)], 1)
    inside = np.zeros((SIDE, SIDE), np.float32)
    cv2.fillPoly(inside, _fine(np.concatenate([upper, lower])), 1.0, cv2.LINE_AA, _FINE)
    canvas.put(inside, (238, 232, 228))
    looks = x + held.gaze * half
    canvas.put(_oval(looks, y + 1, 9.5, 9.5) * inside, (92, 66, 46))
    canvas.put(_oval(looks, y + 1, 4.5, 4.5) * inside, (18, 14, 14))
    canvas.put(_oval(looks + 3, y - 3, 2, 2) * inside, (250, 250, 250))
    canvas.put(_line(upper, 4, 0.8), _DARK, 0.95)
    canvas.put(_line(lower, 1, 1), (120, 80, 66), 0.7)
    canvas.put(_line(np.stack([x - 24 * np.cos(round_), y - 2 - 17 * np.sin(round_)], 1), 2, 1.2), (140, 96, 80), 0.6)
    along = np.linspace(-1, 1, 30)
    brow = np.stack([x + 30 * along, y - 36 - held.brows - 6 * (1 - along**2)], 1)
    canvas.put(_line(brow, 8, 2), (62, 44, 36), 0.9)


def _nose(canvas: _Canvas) -> None:
    x, y = _MIDDLE, _MIDDLE
    canvas.put(_oval(x - 9, y + 22, 5, 34, 6), (176, 128, 106), 0.55)
    canvas.put(_oval(x + 2, y + 22, 5, 36, 5), (240, 204, 184), 0.5)
    canvas.put(_oval(x, y + 58, 20, 11, 5), (196, 146, 124), 0.7)
    canvas.put(_oval(x, y + 52, 9, 8, 4), (244, 208, 188), 0.6)
    for side in (-1, 1):
        canvas.put(_oval(x + side * 9, y + 64, 5, 3.2, 1.2), (96, 58, 50), 0.9)
        canvas.put(_oval(x + side * 20, y + 58, 6, 8, 4), (170, 118, 100), 0.5)
    canvas.put(_oval(x, y + 78, 5, 8, 3), (190, 140, 118), 0.5)


def _mouth(canvas: _Canvas, wide: float) -> None:
    x, y = _MIDDLE, _MIDDLE + 98
    canvas.put(_oval(x, y + 5 + wide / 2, 38, 14 + wide / 2, 1.5), (184, 92, 88))
    canvas.put(_oval(x, y - 2, 36, 8, 1.5), (172, 84, 82))
    canvas.put(_oval(x, y + 2 + wide / 2, 33, 1.6 + wide / 2, 0.8), (72, 28, 30))
    canvas.put(_oval(x, y + 34 + wide, 30, 8, 7), (178, 128, 108), 0.6)
    canvas.put(_oval(x, y + 46 + 0.8 * wide, 24, 12, 7), (232, 190, 166), 0.5)


def _depth() -> Picture:
    """How far each point of the picture is in front of the axis that the head turns about, in pixels."""
    down, across = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32)
    # A face 14 cm wide: 16 pixels to a centimetre. The corners of its eyes lie 2 cm behind the bridge of the nose, the
    # tip of which is 2.5 cm in front.
    x, y = (across - _MIDDLE) / 122, (down - _MIDDLE) / 190
    skull = 165 * np.sqrt(np.clip(1 - x**2 - y**2, 0, None))
    nose = 40 * np.exp(-(((across - _MIDDLE) / 13) ** 2) - ((down - _MIDDLE - 46) / 24) ** 2)
    return np.asarray(cv2.GaussianBlur(skull + nose, (0, 0), 5), np.float32)


_DEPTH = _depth()


def _turned(picture: Picture, held: Held) -> Picture:
    """The head turned and nodding: what is in front goes further. Each point is looked for where it came from."""
    if not held.turn and not held.nod:
        return picture
    turn, nod = np.radians(held.turn), np.radians(held.nod)
    down, across = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32)
    x, y = across - _MIDDLE, down - _MIDDLE
    from_x, from_y = x, y
    for _ in range(8):
        deep = cv2.remap(
            _DEPTH, (from_x + _MIDDLE).astype(np.float32), (from_y + _MIDDLE).astype(np.float32), cv2.INTER_LINEAR
        )
        from_y = (y - deep * np.sin(nod)) / np.cos(nod)
        deeper = deep * np.cos(nod)
        from_x = (x - deeper * np.sin(turn)) / np.cos(turn)
    at_x, at_y = ((part + _MIDDLE).astype(np.float32) for part in (from_x, from_y))
    seen = cv2.remap(picture, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(seen, np.float32)


# films ----------------------------------------------------------------------------------------------------------------


def write_film(target: Path, held: Sequence[Held], side: int = SIDE, rate: int = RATE) -> None:
    """A film of a performance, as its suffix says: WebM, MP4, or Y4M, which browsers take for a camera."""
    form = {".webm": ["-c:v", "libvpx", "-crf", "14", "-b:v", "600k"], ".mp4": ["-c:v", "libx264"], ".y4m": []}
    command = [
        "ffmpeg", "-v", "error", "-y", "-f", "rawvideo", "-pix_fmt", "rgb24", "-s", f"{SIDE}x{SIDE}", "-r", str(rate),
        "-i", "pipe:0", "-vf", f"scale={side}:{side}", "-pix_fmt", "yuv420p", *form[target.suffix], str(target),
    ]  # fmt: skip
    subprocess.run(command, input=b"".join(_pictures(held)), check=True)


def _pictures(held: Sequence[Held]) -> Iterator[bytes]:
    for n, one in enumerate(held):
        yield paint(one, n).tobytes()


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else SHIPPED
    target.parent.mkdir(parents=True, exist_ok=True)
    write_film(target, performance(), 360)
