"""Making training data: speech of every voice, augmented in several ways, stored as spectra with labels."""

import os
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.ear.hearing import HOP, log_mel, normalised
from tinfork.core.ear.phones import BREATH, HEARD, heard_as
from tinfork.core.errors import WordsError
from tinfork.engines.ear import network
from tinfork.engines.wording import LineText, spell
from tools.ear import augmentation, neural, people, speaking, texts, voices
from tools.ear.aligned import AlignedSpeech, aligned
from tools.ear.speaking import RATE_HZ, LabelledSpeech

_WORKERS = os.cpu_count() or 2
#: Each sentence is augmented in so many ways; those of people in more: they are few, and what it is all for.
WAYS, _WAYS_OF_PEOPLE = 3, 5
#: Of the recordings of people whose words fit worst, so many are left out: something else is said in them.
_MISFITS = 0.12
#: Silence that is put around a sentence, in seconds, and how often somebody breathes in it.
_AROUND_S, _BREATHES = 0.6, 0.4
#: Edges are told this sharply (seconds).
_EDGE_S = 0.008
#: So many are put through a pitch shifter first, as cartoon voices are.
_SHIFTED, _WINDOWS = 0.25, (320, 480, 640, 800, 1024)


@dataclass(frozen=True)
class Task:
    """One voice saying so many minutes into a file of its own."""

    number: int
    voice: voices.LearntVoice
    minutes: float
    folder: Path

    @property
    def file(self) -> Path:
        """Where it is written."""
        return self.folder / f"{self.number:03}-{self.voice.engine}-{self.voice.name}.npz"


def tasks(folder: Path) -> list[Task]:
    """Everything to speak."""
    said = [v for v in voices.NATURAL if v.minutes]
    said += [
        voices.LearntVoice("espeak", language, language, voices.FORMANT_MINUTES)
        for language in voices.FORMANT_LANGUAGES
    ]
    said += voices.NEURAL
    pieces = [(v, min(10.0, v.minutes - done)) for v in said for done in np.arange(0, v.minutes, 10.0)]
    pieces += [(v, v.minutes) for v in voices.PEOPLE]
    # The slow ones first, so that no worker is left alone with them at the end.
    pieces.sort(key=lambda piece: piece[0].engine not in ("kokoro", "people", "joe"))
    return [Task(number, voice, minutes, folder) for number, (voice, minutes) in enumerate(pieces)]


def make(folder: Path) -> list[Path]:
    """Make all missing files; returns all files."""
    folder.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(_WORKERS, max_tasks_per_child=1) as pool:
        return [file for file in pool.map(_run, tasks(folder)) if file]


def forget_aligned(folder: Path) -> None:
    """Without the files whose labels are the ear's own: they are to be made anew with a better one."""
    for task in tasks(folder):
        if task.voice.engine in _ALIGNED:
            task.file.unlink(missing_ok=True)


def _run(task: Task) -> Path | None:
    pick = np.random.default_rng(1000 + task.number)
    target = task.file
    if target.exists():
        return target
    said = list(_said(task, pick))
    if not said:
        print(f"nothing from {task.voice.name}", flush=True)
        return None
    ways = _WAYS_OF_PEOPLE if task.voice.engine == "people" else WAYS
    written = [each for heard in said for each in _written(heard, [h.samples for h in said], ways, pick)]
    bands, marks, edges = (np.concatenate([w[part] for w in written]) for part in range(3))
    np.savez(target, bands=bands, heard=marks, edges=edges, lengths=np.array([len(w[0]) for w in written]))
    seconds = sum(len(h.samples) for h in said) / RATE_HZ
    print(f"{target.name}: {len(said)} sentences, {seconds / 60:.1f} min", flush=True)
    return target


def _said(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    """Sentences of about the task's minutes, each at a speed of its own; some as if the tape ran fast or slow."""
    seconds = 0.0
    for heard in _SPEAKERS[task.voice.engine](task, pick):
        if len(heard.segments) < 3 and task.voice.engine != "people":
            continue
        if task.voice.engine not in _ALIGNED:
            heard = speaking.with_tails(heard)
        if pick.random() < (0.75 if task.voice.engine != "espeak" else 0.3):
            heard = augmentation.faster(heard, 2 ** (pick.uniform(-7, 9) / 12))
        yield heard
        seconds += len(heard.samples) / RATE_HZ
        if seconds > task.minutes * 60:
            return


def _by_flite(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    while True:
        pitch = float(np.exp(pick.uniform(np.log(70), np.log(330)))) if pick.random() < 0.6 else None
        text = texts.text_in(task.voice.language, pick) or ""
        yield speaking.flite(text, task.voice.name, stretch=pick.uniform(0.75, 1.35), pitch_hz=pitch)


def _by_festival(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    for _ in range(200):
        some = [t for _ in range(25) if (t := texts.text_in(task.voice.language, pick))]
        yield from speaking.festival(
            some,
            task.voice.name,
            task.voice.phoneset,
            encoding=task.voice.encoding,
            stretch=float(pick.uniform(0.75, 1.35)),
        )


def _by_espeak(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    with tempfile.TemporaryDirectory() as folder:
        speaking.put_variants(Path(folder), pick)
        for _ in range(2000):
            text = texts.text_in(task.voice.language, pick)
            if not text:
                return
            voice = f"{task.voice.name}+tin{pick.integers(speaking.VARIANTS)}"
            yield speaking.espeak(text, voice, words_per_minute=int(pick.integers(110, 230)))


def _by_neural(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    say = {"hibari": neural.hibari, "joe": neural.joe, "kokoro": neural.kokoro}[task.voice.engine]
    while True:
        spoken = spell([LineText(texts.english(pick), "", task.voice.language)]).spoken
        words = [word.word.ipa for word in spoken]
        found = aligned(say(words, pick), words, network())
        if found:
            yield found.heard


def _by_people(task: Task, pick: np.random.Generator) -> Iterator[LabelledSpeech]:
    found: list[AlignedSpeech] = []
    learnt = [r for r in people.recordings() if r.language == task.voice.language and not r.is_kept]
    for recording, samples in people.decoded(learnt):
        try:
            spoken = spell([LineText(recording.text, "", recording.language)]).spoken
        except WordsError:
            continue
        placed = aligned(augmentation.levelled(samples), [word.variants() for word in spoken], network())
        if placed:
            found.append(placed)
    if found:
        worst = float(np.quantile([each.fit for each in found], _MISFITS))
        yield from (each.heard for each in found if each.fit >= worst)


_SPEAKERS = {
    "flite": _by_flite,
    "festival": _by_festival,
    "espeak": _by_espeak,
    "hibari": _by_neural,
    "joe": _by_neural,
    "kokoro": _by_neural,
    "people": _by_people,
}
#: Those that do not say when: their labels are the ear's.
_ALIGNED = frozenset({"hibari", "joe", "kokoro", "people"})


def _written(
    heard: LabelledSpeech, others: list[NDArray[np.float32]], ways: int, pick: np.random.Generator
) -> Iterator[tuple[NDArray[np.float16], NDArray[np.uint8], NDArray[np.uint8]]]:
    heard = _with_room(heard, pick)
    plain, edges = marks_of(heard)
    for _ in range(ways):
        samples, marks = heard.samples, plain
        if pick.random() < _BREATHES:
            samples, marks = _breathing(samples, marks, pick)
        if pick.random() < _SHIFTED:
            semitones = float(np.clip(pick.normal(0, 5), -9, 9))
            samples = augmentation.shifted(samples, 2 ** (semitones / 12), int(pick.choice(_WINDOWS)))
        bands = normalised(log_mel(augmentation.augmented(samples, pick, others)))
        yield bands.astype(np.float16)[: len(marks)], marks, edges


def _with_room(heard: LabelledSpeech, pick: np.random.Generator) -> LabelledSpeech:
    """With silence before and after it."""
    before, after = (round(pick.uniform(0, _AROUND_S) * RATE_HZ) for _ in range(2))
    moved = tuple((ipa, a + before / RATE_HZ, b + before / RATE_HZ) for ipa, a, b in heard.segments)
    return LabelledSpeech(np.pad(heard.samples, (before, after)), moved)


def _breathing(
    samples: NDArray[np.float32], marks: NDArray[np.uint8], pick: np.random.Generator
) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
    """With a breath in the longest silence, where there is room for one; samples and marks."""
    silent = np.flatnonzero(np.concatenate((marks, [1])) == 0)
    runs = np.split(silent, np.flatnonzero(np.diff(silent) > 1) + 1)
    run = max(runs, key=len)
    length = int(pick.uniform(0.15, 0.6) * RATE_HZ / HOP)
    if len(run) < length + 6:
        return samples, marks
    first = int(run[0]) + 3 + int(pick.integers(len(run) - length - 5))
    samples, marks = samples.copy(), marks.copy()
    part = samples[first * HOP : (first + length) * HOP]
    voice = float(np.sqrt(np.mean(samples**2)))
    part += augmentation.breath(len(part), pick) * np.float32(voice * 10 ** (-pick.uniform(4, 24) / 20))
    marks[first : first + length] = HEARD.index(BREATH)
    return samples, marks


def marks_of(heard: LabelledSpeech) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """What is heard in each frame of 10 ms, and 0 to 255 how near its middle is to where that changes."""
    frames = max(1, len(heard.samples) // HOP)
    middles = (np.arange(frames) + 0.5) * HOP / RATE_HZ
    marks = np.zeros(frames, dtype=np.uint8)
    near = np.full(frames, np.inf)
    for ipa, start, end in heard.segments:
        parts = heard_as(ipa)
        if not parts:
            continue
        cuts = np.linspace(start, end, len(parts) + 1)
        for part, a, b in zip(parts, cuts, cuts[1:], strict=False):
            marks[(middles >= a) & (middles < b)] = part
        for edge in cuts:
            around = slice(max(0, int(edge * 100) - 4), int(edge * 100) + 5)
            near[around] = np.minimum(near[around], np.abs(middles[around] - edge))
    return marks, np.round(255 * np.exp(-((near / _EDGE_S) ** 2))).astype(np.uint8)
