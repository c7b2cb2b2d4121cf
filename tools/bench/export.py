"""Handing over: seconds for pictures, a movie and paper, and how memory grows with the shot's length.

The shots are the demo's scene of three characters, read once with its script and repeated; each is written in a process
of its own.
"""

import io
import json
import multiprocessing
import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from tinfork.cli import main as cli
from tinfork.core.clock import FrameRate
from tinfork.core.formats import reading_json
from tinfork.core.formats.reading_json import Document
from tinfork.core.motion.acting import KINDS, propose
from tinfork.core.motion.gestures import keys_of
from tinfork.core.motion.stage import Stage
from tinfork.core.scene.scene import Figure, Scene
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.engines.handover.command import open_scene
from tinfork.engines.handover.table import exporter_of

_DEMO = Path(__file__).resolve().parents[2] / "demo"
_SOUND = _DEMO / "040_the_last_loaf.wav"
_ROUNDS = 3


def _read(folder: Path) -> Document:
    """The demo's last scene, read."""
    film = json.loads((_DEMO / "film.json").read_text())
    words = next(shot["words"] for shot in film["shots"] if shot["sound"] == _SOUND.name)
    script = folder / "script.txt"
    script.write_text("\n".join(words))
    cli(["read", str(_SOUND), "--script", str(script), "-o", str(folder / "read.json")])
    return reading_json.read_document((folder / "read.json").read_bytes())


def _repeated(document: Document, seconds: float) -> bytes:
    """The reading over and over, so many seconds long; mouths are solved again where it is opened."""
    once = document.reading
    lines: list[Line] = []
    for at in range(0, round(seconds * 1e6), once.duration_us):
        for line in once.lines:
            words = tuple(_later(word, at) for word in line.words if word.end_us + at < seconds * 1e6)
            lines.append(replace(line, words=words, extras=()))
    reading = Reading(round(seconds * 1e6), tuple(lines))
    return reading_json.write(reading, FrameRate.parse("24"), {})


def _later(word: Word, by: int) -> Word:
    sounds = tuple(replace(p, start_us=p.start_us + by, end_us=p.end_us + by) for p in word.phonemes)
    return replace(word, start_us=word.start_us + by, end_us=word.end_us + by, phonemes=sounds)


def _acted(scene: Scene) -> Scene:
    """The shot with acting proposed for everybody in it, of every kind."""

    def acted(figure: Figure) -> Figure:
        others = {other.name: -1.0 for other in scene.figures if other is not figure}
        levels = np.random.default_rng(3).uniform(-40, -15, scene.reading.duration_us // 10_000)
        stage = Stage(figure.name, scene.reading, scene.rate, scene.frames, levels, others=others)
        gestures = propose(stage, dict.fromkeys(KINDS, 70), 100, 1)
        parts = {gesture.part for gesture in gestures}
        return figure.with_motions(
            {part: tuple(key for key, _ in keys_of([g for g in gestures if g.part == part], ())) for part in parts}
        )

    return replace(scene, figures=tuple(map(acted, scene.figures)))


def _one(path: Path, kind: str, acts: bool, options: dict[str, object], pipe: Any) -> None:
    exporter = exporter_of(kind)
    with open_scene(path, sound=_SOUND) as scene, tempfile.TemporaryFile() as out:
        scene = _acted(scene) if acts else scene
        values = exporter.chosen(options)
        began = time.perf_counter()
        exporter.write(scene, values, out, lambda done: None)
        took = time.perf_counter() - began
        size = out.seek(0, io.SEEK_END)
    pipe.send((took, size, _most_memory_mb()))


def _most_memory_mb() -> float:
    """The most memory of this process so far: what resource says is the parent's where that had more."""
    rows = Path("/proc/self/status").read_text().splitlines()
    return next(int(row.split()[1]) / 1024 for row in rows if row.startswith("VmHWM"))


def _measured(path: Path, kind: str, *, acts: bool = False, **options: object) -> dict[str, Any]:
    """Median seconds of some rounds, megabytes written, and the most memory of the process in megabytes."""
    context = multiprocessing.get_context("spawn")
    rows = []
    for _ in range(_ROUNDS):
        ours, theirs = context.Pipe()
        child = context.Process(target=_one, args=(path, kind, acts, options, theirs))
        child.start()
        rows.append(ours.recv())
        child.join()
    took, size, memory = (statistics.median(row[n] for row in rows) for n in range(3))
    return {"seconds": round(took, 2), "MB": round(size / 1e6, 2), "memory MB": round(memory)}


def bench_export() -> dict[str, Any]:
    """Each figure is the median of three."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        document = _read(folder)
        paths = {}
        for seconds in (42, 60, 180, 600):
            paths[seconds] = folder / f"{seconds}.json"
            paths[seconds].write_bytes(_repeated(document, seconds))
        return {
            "1,000 PNG 1920x1080": _measured(paths[42], "pictures", ground="shot", to=1000),
            "60 s MP4 1280x720": _measured(paths[60], "movie", size="1280"),
            "60 s MP4 1280x720, all three move": _measured(paths[60], "movie", acts=True, size="1280"),
            "sheet PDF of 3 min": _measured(paths[180], "sheet-pdf"),
            "10 min MP4 1280x720": _measured(paths[600], "movie", size="1280"),
            "10 min sheet PDF": _measured(paths[600], "sheet-pdf"),
            "10 min spreadsheet": _measured(paths[600], "sheet-xlsx"),
        }
