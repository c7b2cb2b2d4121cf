"""Long recordings and conversations.

long: half an hour of two voices, read with its script in a process of its own: time against the sound's length, the
most memory that process took, how far word starts are from the truth.
turns: conversations of two voices, whose turns are known because each sentence was spoken on its own: the share of
speech time that goes to the right character, with names in the script, and without (speakers proposed by ear).
"""

import multiprocessing
import resource
import statistics
import tempfile
import time
from itertools import permutations
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import numpy as np

from tinfork.core.sound.speakers import propose_speakers
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.rereading import Change
from tinfork.core.speech.turns import turns_from_lines
from tinfork.engines.decode import Sound
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.reader import read_changes, read_track
from tinfork.engines.wording import LineText
from tools.bench.speech import Conversation, converse
from tools.bench.waveform import bench_waveform

LONG_S = 1800.0
#: Voices with their pitch; pairs of one sex are the hard ones.
PAIRS = (
    (("en-us+f2", 60), ("en-gb+m3", 40)),
    (("en-gb+f4", 55), ("en-us+m1", 50)),
    (("en-us+m2", 45), ("en-gb-scotland+m4", 60)),
    (("en-us+f3", 60), ("en-gb+f1", 45)),
    (("en-us", 50), ("en-gb+m7", 35)),
    (("en-gb-scotland+f2", 50), ("en-us+f4", 70)),
)
_HOP_S = 0.01


def _texts(talk: Conversation) -> list[LineText]:
    return [LineText(s.text, str(s.who)) for s in talk.said]


def _read_long(pipe: Connection, path: Path, texts: list[LineText], duration_us: int) -> None:
    began, cpu = time.monotonic(), time.process_time()
    lines, warnings = read_changes(path, texts, [Change(0, len(texts), 0, duration_us)])
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    pipe.send((lines, warnings, time.monotonic() - began, time.process_time() - cpu, peak))


def bench_long(seconds: float = LONG_S) -> dict[str, Any]:
    """A long recording with its script."""
    talk = converse(PAIRS[0], seconds, seed=31)
    duration_us = len(talk.samples) * 1_000_000 // READING_HZ
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "voice.npy"
        np.save(path, talk.samples)
        context = multiprocessing.get_context("spawn")
        ours, theirs = context.Pipe()
        child = context.Process(target=_read_long, args=(theirs, path, _texts(talk), duration_us))
        child.start()
        lines, warnings, wall, cpu, peak = ours.recv()
        child.join()
    errors = []
    for at, said in enumerate(talk.said):
        if lines[at].words:
            errors.append(abs(lines[at].start_us / 1e6 - said.start_s))
    length = duration_us / 1e6
    middle, worst = statistics.median(errors), float(np.quantile(errors, 0.99))
    return {
        "minutes": round(length / 60, 1),
        "lines": len(talk.said),
        "lines found %": round(100 * len(errors) / len(talk.said), 2),
        "line start error ms, median / 99 %": f"{1000 * middle:.0f} / {1000 * worst:.0f}",
        "time / length of the sound": round(wall / length, 3),
        "CPU s per s": round(cpu / length, 3),
        "peak memory MB": peak,
        "warnings": len(warnings),
    }


def _owners(spans: list[tuple[int, float, float]], hops: int) -> np.ndarray[Any, np.dtype[np.int64]]:
    out = np.full(hops, -1, dtype=np.int64)
    for who, start, end in spans:
        out[round(start / _HOP_S) : round(end / _HOP_S)] = who
    return out


def _right(truth: Conversation, found: list[tuple[int, float, float]]) -> float:
    hops = round(len(truth.samples) / READING_HZ / _HOP_S)
    due = _owners([(s.who, s.start_s, s.end_s) for s in truth.said], hops)
    got = _owners(found, hops)
    speech = due >= 0
    return float((due[speech] == got[speech]).mean())


def _with_names(talk: Conversation) -> float:
    result = read_track(Sound(talk.samples[:, None], READING_HZ), _texts(talk))
    reading: Reading = result.reading
    return _right(talk, [(int(t.speaker), t.start_us / 1e6, t.end_us / 1e6) for t in turns_from_lines(reading.lines)])


def _without_names(talk: Conversation, count: int | None) -> float:
    spans = [(v.voice, v.start_us / 1e6, v.end_us / 1e6) for v in propose_speakers(talk.samples, READING_HZ, count)]
    voices = max((v for v, *_ in spans), default=0) + 1
    # Which voice is whom is for people to say: the best naming counts.
    names = list(permutations(range(max(voices, 2)), voices))
    return max(_right(talk, [(name[v], a, b) for v, a, b in spans]) for name in names)


def bench_sound() -> dict[str, Any]:
    """All of it."""
    talks = [converse(pair, 60.0, seed=70 + at) for at, pair in enumerate(PAIRS)]
    named = [_with_names(talk) for talk in talks]
    told = [_without_names(talk, 2) for talk in talks]
    guessed = [_without_names(talk, None) for talk in talks]

    def row(shares: list[float]) -> dict[str, Any]:
        return {"right %": round(100 * statistics.mean(shares), 1), "worst %": round(100 * min(shares), 1)}

    return {
        "turns, named": row(named),
        "turns by ear, number told": row(told),
        "turns by ear, number guessed": row(guessed),
        "half an hour": bench_long(),
        "waveform of half an hour": bench_waveform(),
    }
