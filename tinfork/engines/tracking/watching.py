"""Following the face in a film: each picture is processed once, in order."""

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

#: Processed pictures a second, and the largest size of each in pixels.
RATE = 30
_WIDTH, _HEIGHT = 640, 480
#: The most pictures that wait for the eyes' model.
_AHEAD = 60
_PHASE = Message("film.following")
#: The number of searched pictures with two faces from which the user is told.
_SECOND_FACES = 2


def watch(path: Path, name: str, report: Callable[[str, float], None]) -> tuple[FaceTrack, list[str]]:
    """Measure the face in a film; returns the track, and notes for the user.

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
                # Waiting pictures are in memory.
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
