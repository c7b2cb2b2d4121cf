"""A film watched for the face in it: each picture is looked at once, in order."""

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from tinfork.core.errors import SoundError
from tinfork.core.messages import Message
from tinfork.core.motion.faces import FaceMeasures, FaceTrack, track_of
from tinfork.engines import limits
from tinfork.engines.probing import SAFE, FilmInfo, film_info
from tinfork.engines.programs import limited, running
from tinfork.engines.tracking.faces import EyeTracker, FaceTracker, Pixels

#: Pictures a second that are looked at, and the most pixels across and down.
RATE = 30
_WIDTH, _HEIGHT = 640, 480
#: So many pictures may wait for a closer look.
_AHEAD = 60
_PHASE = Message("film.following")
#: From this many pictures with two faces on, of those in which faces were looked for, it is said.
_SECOND_FACES = 2


def watch(path: Path, name: str, report: Callable[[str, float], None]) -> tuple[FaceTrack, list[str]]:
    """How the face in a film is held, and what to know of it, in words.

    Raises
    ------
    SoundError
        For a film without a face that can be followed.
    EngineError
        Where the models are missing.
    """
    # A core for the meshes, one for the eyes.
    cv2.setNumThreads(1)
    tracker, eyes = FaceTracker(), EyeTracker()
    info = film_info(path, name)
    expected = max(1, round((info.duration_s or 0) * RATE))
    seen: list[Future[FaceMeasures] | None] = []
    crowded = 0

    def beat() -> None:
        report(_PHASE, min(1.0, len(seen) / expected))

    with ThreadPoolExecutor(1) as closely:
        for picture in pictures(path, name, info, beat):
            mesh = tracker.see(picture)
            crowded += tracker.looked_for and tracker.faces > 1
            seen.append(closely.submit(eyes.face, picture, mesh) if mesh else None)
            if len(seen) > _AHEAD and (waited := seen[-_AHEAD]):
                # Pictures that wait are held in memory.
                waited.result()
            if len(seen) % RATE == 0:
                beat()
        faces = [one.result() if one else None for one in seen]
    if not faces:
        raise SoundError("film.no_picture", name=name)
    track = track_of(faces, [round(n * 1e6 / RATE) for n in range(len(faces))])
    notes: list[str] = []
    if crowded >= _SECOND_FACES:
        notes.append(Message("film.more_faces"))
    if track.found < 0.95:
        notes.append(Message("film.gaps", share=1 - track.found))
    return track, notes


def pictures(path: Path, name: str, info: FilmInfo, beat: Callable[[], None]) -> Iterator[Pixels]:
    """The pictures of a film at `RATE` a second, RGB, shape (height, width, 3), upright, at most 640 x 480.

    Raises
    ------
    SoundError
        For what cannot be read.
    """
    shrink = min(1.0, _WIDTH / info.width, _HEIGHT / info.height)
    width, height = (max(2, 2 * round(side * shrink / 2)) for side in (info.width, info.height))
    command = [
        *limited("ffmpeg"), *SAFE, "-i", str(path), "-map", "0:v:0", "-an", "-t", str(limits.MAX_REFERENCE_S),
        "-vf", f"fps={RATE},scale={width}:{height}", "-pix_fmt", "rgb24", "-f", "rawvideo", "pipe:1",
    ]  # fmt: skip
    size = width * height * 3
    with running(command, name, limits.FILM_TIMEOUT_S, beat) as work:
        held = bytearray()
        while data := work.read(1 << 20):
            held += data
            while len(held) >= size:
                yield np.frombuffer(bytes(held[:size]), np.uint8).reshape(height, width, 3)
                del held[:size]
    if work.status:
        raise SoundError("film.damaged", name=name)
