"""What the network that moves edges (`core/ear/edges.py`) learns from: edges of the application, and how far off.

Voices that tell exactly when each sound begins say sentences, degraded like all that the ear learns from, and the
application times their sounds.
"""

import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from difflib import SequenceMatcher
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.edges import BANDS, HOP, REACH, MetEdge, edge_bands, lengths_of, step_of, windows_at
from tinfork.core.ear.phones import heard_as
from tools.ear import augmentation, speaking, texts, voices
from tools.ear.calibrate import Case, timed
from tools.ear.speaking import RATE_HZ, LabelledSpeech

_WORKERS = os.cpu_count() or 2
#: Sentences of each natural voice, and of each of some languages of espeak-ng, in voices that are made up.
_SENTENCES, _FORMANT_SENTENCES = 100, 40
_FORMANT_LANGUAGES = ("en-us", "en-gb", "es", "fr", "de", "it", "ru", "fi")
#: Speech that is played faster or slower, and that is put through a pitch shifter.
_FASTER, _SHIFTED, _WINDOWS = 0.4, 0.25, (320, 480, 640)
#: Edges further off than this (steps of 5 ms) are another sound's; pauses are longer than this (seconds).
_OTHERS, _PAUSE_S = 10.0, 0.03


@dataclass(frozen=True)
class EdgeRows:
    """Edges as the application sets them before they are moved.

    `windows` shape (edges, 17 * 24), `lengths` (edges, 2), the sounds that meet, and how far the true edge lies after
    the step that the window is about (steps of 5 ms).
    """

    windows: NDArray[np.float16]
    lengths: NDArray[np.float32]
    before: NDArray[np.int64]
    after: NDArray[np.int64]
    off: NDArray[np.float32]


def edge_rows(seed: int = 31) -> EdgeRows:
    """The edges of all voices that tell when, but those that are kept for measuring."""
    said = [(voice, _SENTENCES) for voice in voices.NATURAL if voice.minutes]
    said += [(voices.LearntVoice("espeak", name, name, 1), _FORMANT_SENTENCES) for name in _FORMANT_LANGUAGES]
    with ProcessPoolExecutor(_WORKERS, max_tasks_per_child=1) as pool:
        parts = list(pool.map(_rows, *zip(*((v, n, seed + at) for at, (v, n) in enumerate(said)), strict=True)))
    return _joined(parts)


def _joined(parts: list[EdgeRows]) -> EdgeRows:
    return EdgeRows(
        np.concatenate([p.windows for p in parts]),
        np.concatenate([p.lengths for p in parts]),
        np.concatenate([p.before for p in parts]),
        np.concatenate([p.after for p in parts]),
        np.concatenate([p.off for p in parts]),
    )


def _rows(voice: voices.LearntVoice, sentences: int, seed: int) -> EdgeRows:
    pick = np.random.default_rng(seed)
    with TemporaryDirectory() as folder:
        if voice.engine == "espeak":
            speaking.put_variants(Path(folder), pick)
        parts = [rows for heard, text in _said(voice, sentences, pick) if (rows := _rows_in(heard, text, voice, pick))]
    found = _joined([_NONE, *parts])
    print(f"{voice.engine} {voice.name}: {len(found.off):,} edges", flush=True)
    return found


_NONE = EdgeRows(
    np.zeros((0, (2 * REACH + 1) * BANDS), np.float16),
    np.zeros((0, 2), np.float32),
    np.zeros(0, np.int64),
    np.zeros(0, np.int64),
    np.zeros(0, np.float32),
)


def _said(voice: voices.LearntVoice, sentences: int, pick: np.random.Generator) -> Iterator[tuple[LabelledSpeech, str]]:
    some = [text for _ in range(sentences) if (text := texts.text_in(voice.language, pick))]
    for text in some:
        stretch = float(pick.uniform(0.8, 1.3))
        if voice.engine == "flite":
            yield speaking.flite(text, voice.name, stretch=stretch), text
        elif voice.engine == "espeak":
            made_up = f"{voice.name}+tin{pick.integers(speaking.VARIANTS)}"
            yield speaking.espeak(text, made_up, words_per_minute=int(pick.integers(120, 210))), text
        else:
            # One at a time, as a text that fails gives no sound.
            for heard in speaking.festival(
                [text], voice.name, voice.phoneset, encoding=voice.encoding, stretch=stretch
            ):
                yield heard, text


def _rows_in(heard: LabelledSpeech, text: str, voice: voices.LearntVoice, pick: np.random.Generator) -> EdgeRows | None:
    if pick.random() < _FASTER:
        heard = augmentation.faster(heard, 2 ** (pick.uniform(-5, 6) / 12))
    samples = heard.samples
    if pick.random() < _SHIFTED:
        samples = augmentation.shifted(samples, 2 ** (pick.uniform(-6, 6) / 12), int(pick.choice(_WINDOWS)))
    samples = augmentation.augmented(samples, pick, [samples])
    language = "en-us" if voice.language == "en" else voice.language
    found = timed(Case(samples, text, language), is_listened=False)
    if found is None:
        return None
    sounds = [(s.ipa, s.start_s, s.end_s) for word in found.sounds for s in word]
    return rows_of(edge_bands(samples), sounds, heard.segments)


def rows_of(
    bands: NDArray[np.float32],
    sounds: list[tuple[str, float, float]],
    truth: tuple[tuple[str, float, float], ...],
) -> EdgeRows | None:
    """The edges without a pause between two sounds that are also neighbours in truth; None if there are none."""
    same = SequenceMatcher(None, [heard_as(s[0]) for s in sounds], [heard_as(t[0]) for t in truth], autojunk=False)
    edges, pairs, off = [], [], []
    for a, b, size in same.get_matching_blocks():
        for n in range(1, size):
            edge = MetEdge.between(*sounds[a + n - 1 : a + n + 1])
            true_s = truth[b + n][1]
            is_met = edge.at_s - sounds[a + n - 1][2] <= _PAUSE_S and true_s - truth[b + n - 1][2] < 1e-3
            by = true_s * RATE_HZ / HOP - step_of(edge.at_s)
            if edge.heard and is_met and abs(by) < _OTHERS:
                edges.append(edge)
                pairs.append(edge.heard)
                off.append(by)
    if not edges:
        return None
    before_after = np.array(pairs, dtype=np.int64)
    windows = windows_at(bands, [step_of(edge.at_s) for edge in edges]).astype(np.float16)
    return EdgeRows(windows, lengths_of(edges), before_after[:, 0], before_after[:, 1], np.array(off, dtype=np.float32))
