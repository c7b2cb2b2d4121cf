"""Measure the reading and the solver: `./run bench [reading|solver]`.

reading: made-up sentences spoken by the machine's synthesiser (espeak-ng), whose phoneme events are the truth; each
read by the whole engine and by its plain part (the recogniser's times without mended edges), on the same sounds.
solver: the exact solver against a plain "nearest drawing for each frame" loop, on a minute of reading.
Prints tables, and writes bench/NAME.json with the date and the commit.
"""

import json
import resource
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.starter import STARTER
from tinfork.core.score.boundaries import Score, score
from tinfork.core.solver.costs import build_problem, frame_weights, heard_parts
from tinfork.core.solver.path import find_path
from tinfork.core.solver.problem import Dials
from tinfork.core.solver.solve import solve
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import class_of
from tinfork.engines import reader
from tinfork.engines.decode import Sound
from tinfork.engines.reader import read_track
from tinfork.engines.synthesiser import Spoken, speak
from tinfork.engines.wording import lines_from_text

ROOT = Path(__file__).resolve().parents[1]
RATE = FrameRate.parse("24")
VOICES = ("en-us", "en-gb", "en-gb-scotland", "en-us+f3", "en-us+m3")
SENTENCES = (
    "The last tram leaves the depot before midnight.",
    "Nobody bakes bread like the woman at the corner.",
    "She opened the oven and found five small loaves.",
    "Would you believe that the bell rang twice for me?",
    "Every morning we put the buns by the open window.",
    "A badger should never drive without his evening soup.",
)


def _noisy(sound: Sound) -> Sound:
    noise = np.random.default_rng(11).normal(size=sound.samples.shape)
    loud = float(np.sqrt((sound.samples**2).mean()))
    mixed = sound.samples + noise * loud * 10 ** (-10 / 20)
    return Sound((mixed * 0.7).astype(np.float32), sound.rate_hz)


CASES: dict[str, Callable[[Sound], Sound]] = {"clean": lambda s: s, "noise at 10 dB": _noisy}


class _Plain(reader.Mender):
    """The recogniser's own edges."""

    def edges(self, phones: list[tuple[int, int]]) -> list[tuple[int, int]]:
        return [(start, max(end, start + 1)) for start, end in phones]


def _read(sound: Sound, text: str, *, plain: bool) -> tuple[Reading, float]:
    mender = reader.Mender
    began = time.process_time()
    try:
        if plain:
            reader.Mender = _Plain  # type: ignore[misc]
        reading = read_track(sound, lines_from_text(text)).reading
    finally:
        reader.Mender = mender  # type: ignore[misc]
    return reading, time.process_time() - began


def bench_reading() -> dict[str, Any]:
    """Boundary error and frames by case, whole engine and plain part."""
    rows: dict[str, Any] = {}
    read_track(Sound(speak("Warm up.").samples[:, None], 22050), lines_from_text("Warm up."))
    for case, change in CASES.items():
        for plain in (True, False):
            scores: list[Score] = []
            cpu = seconds = 0.0
            for voice in VOICES:
                for text in SENTENCES:
                    said: Spoken = speak(text, voice)
                    sound = change(Sound(said.samples[:, None], said.rate_hz))
                    reading, spent = _read(sound, text, plain=plain)
                    scores.append(score(tuple(reading.phonemes()), said.phonemes, said.duration_us, RATE))
                    cpu, seconds = cpu + spent, seconds + said.duration_us / 1e6
            name = f"{case}, {'plain' if plain else 'whole'}"
            rows[name] = {
                "mean_ms": round(1000 * statistics.mean(s.mean_s for s in scores), 1),
                "median_ms": round(1000 * statistics.median(s.median_s for s in scores), 1),
                "exact_%": round(100 * statistics.mean(s.exact for s in scores), 1),
                "tolerant_%": round(100 * statistics.mean(s.tolerant for s in scores), 1),
                "cpu_s_per_s": round(cpu / seconds, 3),
            }
    rows["peak memory MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return rows


def _minute() -> Reading:
    generator = np.random.default_rng(12)
    symbols = ["m", "ɑ", "s", "t", "i", "f", "oʊ", "k", "ə", "l", "w", "ˈæ", "b", "ɹ"]
    at, words = 0, []
    while at < 59_000_000:
        start, sounds = at, []
        for _ in range(4):
            length = int(generator.integers(40_000, 140_000))
            sounds.append(Phoneme(str(generator.choice(symbols)), at, at + length))
            at += length
        words.append(Word("word", start, at, tuple(sounds)))
        at += int(generator.choice([0, 0, 0, 400_000]))
    return Reading(60_000_000, (Line("", "", "en-us", tuple(words)),))


def bench_solver() -> dict[str, Any]:
    """Median milliseconds for a minute at 24 fps, and the ratio to a plain loop."""
    reading, dials = _minute(), Dials()
    frames = RATE.frames_in(reading.duration_us)
    parts = heard_parts(tuple(reading.phonemes()), reading.duration_us, dials.gap_us)
    demand = frame_weights(parts, RATE, frames, dials.lead)
    problem = build_problem(demand, STARTER, dials)

    def nearest() -> list[int]:
        return [min(range(len(row)), key=row.__getitem__) for row in problem.costs.tolist()]

    def median_ms(call: Callable[[], object]) -> float:
        times = []
        for _ in range(9):
            began = time.perf_counter()
            call()
            times.append(time.perf_counter() - began)
        return round(1000 * statistics.median(times), 2)

    whole, path, loop = (
        median_ms(lambda: solve(reading, STARTER, RATE)),
        median_ms(lambda: find_path(problem)),
        median_ms(nearest),
    )
    holds = solve(reading, STARTER, RATE)
    flat = np.array(nearest())
    seen = sum(any(h.start <= f < h.end and h.viseme == class_of(s) for h in holds) for f, s in demand.closures)
    return {
        "whole solve ms": whole,
        "path only ms": path,
        "plain loop ms": loop,
        "path / plain loop": round(path / loop, 1),
        "changes a second": round((len(holds) - 1) / 60, 2),
        "changes a second, plain loop": round(int((np.diff(flat) != 0).sum()) / 60, 2),
        "single-frame holds": sum(h.end - h.start == 1 for h in holds),
        "closures seen %": round(100 * seen / len(demand.closures), 1),
    }


def main() -> int:
    """Run the benches named, or all."""
    benches = {"reading": bench_reading, "solver": bench_solver}
    wanted = sys.argv[1:] or list(benches)
    if unknown := set(wanted) - set(benches):
        print(f"run bench: there is no bench {', '.join(unknown)}; there are {', '.join(benches)}", file=sys.stderr)
        return 2
    commit = subprocess.run(
        ["git", "rev-parse", "--short", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    for name in wanted:
        result = benches[name]()
        for row, value in result.items():
            cells = "  ".join(f"{k} {v}" for k, v in value.items()) if isinstance(value, dict) else value
            print(f"{name:8} {row:30} {cells}", flush=True)
        kept = {"date": datetime.now(UTC).date().isoformat(), "commit": commit.stdout.strip(), "figures": result}
        (ROOT / "bench").mkdir(exist_ok=True)
        (ROOT / "bench" / f"{name}.json").write_text(json.dumps(kept, indent=1, ensure_ascii=False) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
