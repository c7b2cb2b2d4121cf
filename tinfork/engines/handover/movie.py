"""Movies of the Stage, with sound. Frames are drawn here and piped to ffmpeg, which writes the file."""

import queue
import shutil
import subprocess
import tempfile
import threading
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO

import cv2
import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.errors import EngineError, FormatError
from tinfork.core.scene.choices import END, RATE, START, as_chosen, span_of
from tinfork.core.scene.drawing import segments
from tinfork.core.scene.exporting import Exporter, Option, Progress, Purpose, Values
from tinfork.core.scene.scene import Scene
from tinfork.engines.handover.burn import BURN, Burner
from tinfork.engines.handover.picture_options import GROUND, PARTS, WIDTH, ground_of, size_of, what_of
from tinfork.engines.handover.rendering import Renderer
from tinfork.engines.limits import LISTENING_HZ
from tinfork.engines.programs import program

HANDLES = Option("handles", "Frames before and after", 0, low=0, high=240)
#: The most frames that wait to be written.
_WAITING = 8
_BT709 = ["-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709"]
_TO_BT709 = ["-vf", "scale=out_color_matrix=bt709:out_range=tv"]
#: RGB to luma and colour differences of ITU-R BT.709, video range.
_LUMA = (0.2126, 0.7152, 0.0722)
_TO_LUMA = np.array([[*(219 / 255 * share for share in _LUMA), 16.0]], np.float32)
_TO_COLOUR = np.array([
    [*(224 / 255 * share for share in (-0.2126 / 1.8556, -0.7152 / 1.8556, 0.5)), 128.0],
    [*(224 / 255 * share for share in (0.5, -0.7152 / 1.5748, -0.0722 / 1.5748)), 128.0],
], np.float32)  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Kind:
    """A file format: its pixel format, and ffmpeg's options for picture and sound."""

    suffix: str
    media_type: str
    pixels: str
    picture: tuple[str, ...]
    sound: tuple[str, ...]

    @property
    def has_alpha(self) -> bool:
        """Whether it supports transparency."""
        return self.pixels == "rgba"


_KINDS = {
    "mp4": _Kind(
        ".mp4",
        "video/mp4",
        "yuv420p",
        ("-c:v", "libx264", "-preset", "superfast", "-crf", "17", "-tune", "animation", "-pix_fmt",
         "yuv420p", *_BT709, "-movflags", "+faststart"),
        ("-c:a", "aac", "-b:a", "192k", "-aac_coder", "fast"),
    ),
    "webm": _Kind(
        ".webm",
        "video/webm",
        "rgba",
        ("-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "6", "-row-mt", "1", "-crf", "24", "-b:v", "0",
         "-pix_fmt", "yuva420p", "-auto-alt-ref", "0"),
        ("-c:a", "libopus", "-b:a", "128k"),
    ),
    "prores": _Kind(
        ".mov",
        "video/quicktime",
        "rgba",
        (*_TO_BT709, "-c:v", "prores_ks", "-profile:v", "4444", "-pix_fmt", "yuva444p10le", *_BT709),
        ("-c:a", "pcm_s16le"),
    ),
}  # fmt: skip
_FORMAT = Option(
    "format",
    "Format",
    "mp4",
    choices=(
        ("mp4", "MP4 (H.264)"),
        ("webm", "WebM (VP9, can be transparent)"),
        ("prores", "MOV (ProRes 4444, can be transparent)"),
    ),
)


def frames_of(
    scene: Scene, values: Values, size: tuple[int, int], span: tuple[int, int]
) -> Iterator[NDArray[np.uint8]]:
    """The pictures of frames `[first, end)`, RGBA of shape (height, width, 4).

    Before the first and after the last frame of the shot the picture freezes. An unchanged picture is the same object;
    callers must not modify them.
    """
    renderer = Renderer(size, ground_of(scene, values))
    burner = Burner(scene, values) if "burn_frame" in values else None
    stretches = list(segments(scene, size, what_of(values), str(values.get("character") or ""), boils=True))
    at, last_texts, burnt, plain = 0, None, None, None
    for frame in range(*span):
        inside = min(max(0, frame), scene.frames - 1)
        while stretches[at][1] <= inside:
            at += 1
        image = renderer.pixels(stretches[at][2])
        if burner is None or not burner.is_on:
            yield image
            continue
        texts = burner.texts(frame)
        if burnt is None or texts != last_texts or image is not plain:
            burnt, last_texts, plain = burner.burn(image, texts), texts, image
        yield burnt


def _write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
    scene = as_chosen(scene, values)
    first, end = span_of(scene, values)
    span = first - values["handles"], end + values["handles"]
    kind = _KINDS[values["format"]]
    if values["ground"] == "clear" and not kind.has_alpha:
        raise FormatError("movie.mp4_transparent")
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / f"movie{kind.suffix}"
        _encode(scene, values, span, kind, path, progress)
        with path.open("rb") as made:
            shutil.copyfileobj(made, out, 1024 * 1024)


def _encode(scene: Scene, values: Values, span: tuple[int, int], kind: _Kind, path: Path, progress: Progress) -> None:
    size = size_of(scene, values)
    frames, total = frames_of(scene, values, size, span), span[1] - span[0]
    sound = _sound_input(scene, span) if scene.sound else []
    _run(frames, total, size, scene.rate, sound, kind, path, progress)


def write_mp4(
    frames: Iterable[NDArray[np.uint8]], total: int, size: tuple[int, int], heard: Scene, path: Path, progress: Progress
) -> None:
    """A movie of any pictures (RGBA of shape (height, width, 4), even sides.

    One that has not changed is the same object) with the sound of a scene, from its first frame on.
    """
    sound = _sound_input(heard, (0, total)) if heard.sound else []
    _run(frames, total, size, heard.rate, sound, _KINDS["mp4"], path, progress)


def _run(
    frames: Iterable[NDArray[np.uint8]],
    total: int,
    size: tuple[int, int],
    rate: FrameRate,
    sound: list[str],
    kind: _Kind,
    path: Path,
    progress: Progress,
) -> None:
    """Have ffmpeg write pictures to a file.

    Raises
    ------
    EngineError
    """
    command = [
        program("ffmpeg"), "-nostdin", "-v", "error", "-y",
        "-f", "rawvideo", "-pix_fmt", kind.pixels, "-s", f"{size[0]}x{size[1]}",
        "-r", str(rate.value), "-i", "pipe:0",
        *sound, *kind.picture, *(kind.sound if sound else []),
        "-map_metadata", "-1", "-fflags", "+bitexact", str(path),
    ]  # fmt: skip
    with tempfile.TemporaryFile() as said:
        process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=said)
        try:
            with _Feeding(process) as feeding:
                last, data, planes = None, b"", Planes(size)
                for done, image in enumerate(frames):
                    if image is not last:
                        last, data = image, image.tobytes() if kind.has_alpha else planes.of(image)
                    if not feeding.put(data):
                        break
                    progress(done / total)
            status = process.wait()
        finally:
            process.kill()
            process.wait()
        said.seek(0)
        told = said.read().decode("utf-8", "replace")
    if status or not path.exists():
        full = "No space left" in told
        raise EngineError("movie.disk_full" if full else "movie.stopped")


class _Feeding:
    """Feeds frames to a program in a thread, while the next ones are drawn."""

    def __init__(self, process: "subprocess.Popen[bytes]") -> None:
        self._process = process
        self._rows: queue.Queue[bytes | None] = queue.Queue(_WAITING)
        self._has_ended = threading.Event()
        self._thread = threading.Thread(target=self._write, daemon=True)

    def put(self, data: bytes) -> bool:
        """Queue a frame; False once the program accepts no more."""
        while not self._has_ended.is_set():
            try:
                self._rows.put(data, timeout=0.5)
            except queue.Full:
                continue
            return True
        return False

    def _write(self) -> None:
        assert self._process.stdin is not None
        try:
            while (data := self._rows.get()) is not None:
                self._process.stdin.write(data)
            self._process.stdin.close()
        except (BrokenPipeError, ValueError):
            pass
        finally:
            self._has_ended.set()

    def __enter__(self) -> "_Feeding":
        self._thread.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, *rest: object) -> None:
        if kind is not None:
            # Cancelled: the output is not wanted any more, and the pipe must not block the thread.
            self._process.kill()
        while not self._has_ended.is_set():
            try:
                self._rows.put(None, timeout=0.5)
            except queue.Full:
                continue
            break
        self._thread.join()


class Planes:
    """Converts pictures to planes of luma and half-size colour differences: ffmpeg's yuv420p.

    Only the part that differs from the picture before is converted.
    """

    def __init__(self, size: tuple[int, int]) -> None:
        width, height = size
        self._last: NDArray[np.uint8] | None = None
        halves = (height // 2, width // 2)
        self._planes = [np.zeros(shape, np.uint8) for shape in ((height, width), halves, halves)]

    def of(self, pixels: NDArray[np.uint8]) -> bytes:
        """The concatenated planes of a picture with even sides, RGBA of shape (height, width, 4)."""
        box = (0, 0, *pixels.shape[:2]) if self._last is None else _changed(self._last, pixels)
        if box:
            top, left, bottom, right = box[0] // 2 * 2, box[1] // 2 * 2, -(-box[2] // 2) * 2, -(-box[3] // 2) * 2
            part = cv2.cvtColor(pixels[top:bottom, left:right], cv2.COLOR_RGBA2RGB)
            half = cv2.resize(part, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
            luma, (blue, red) = cv2.transform(part, _TO_LUMA), cv2.split(cv2.transform(half, _TO_COLOUR))
            self._planes[0][top:bottom, left:right] = luma
            for plane, new in zip(self._planes[1:], (blue, red), strict=True):
                plane[top // 2 : bottom // 2, left // 2 : right // 2] = new
        self._last = pixels
        return b"".join(plane.tobytes() for plane in self._planes)


def _changed(before: NDArray[np.uint8], after: NDArray[np.uint8]) -> tuple[int, int, int, int] | None:
    """The box (top, left, bottom, right) of all pixels that differ; None if none do."""
    differs = before.view(np.uint32)[..., 0] != after.view(np.uint32)[..., 0]
    rows = np.flatnonzero(differs.any(axis=1))
    if not rows.size:
        return None
    columns = np.flatnonzero(differs[rows[0] : rows[-1] + 1].any(axis=0))
    return int(rows[0]), int(columns[0]), int(rows[-1]) + 1, int(columns[-1]) + 1


def _sound_input(scene: Scene, span: tuple[int, int]) -> list[str]:
    """The shot's sound for the movie's frames, exact to the sample; silence where there is none."""
    edges = [round(scene.rate.first_us(abs(frame)) * LISTENING_HZ / 1e6) * (1 if frame >= 0 else -1) for frame in span]
    chain = f"aresample={LISTENING_HZ},atrim=start_sample={max(0, edges[0])}:end_sample={max(1, edges[1])}"
    late = max(0, -edges[0])
    chain += f",asetpts=PTS-STARTPTS,adelay={late}S:all=1,apad=whole_len={edges[1] - edges[0]}"
    return ["-i", str(scene.sound), "-map", "0:v", "-map", "1:a", "-af", chain]


EXPORTER = Exporter(
    "movie",
    "Movie with sound",
    Purpose.SHOW,
    ".mp4",
    "video/mp4",
    _write,
    (_FORMAT, WIDTH, PARTS, GROUND, START, END, HANDLES, *BURN, RATE),
    "what the Stage shows. MP4 plays everywhere; WebM and MOV can be transparent",
    takes_long=True,
    suffixes={key: (kind.suffix, kind.media_type) for key, kind in _KINDS.items()},
    suffix_option="format",
)
