"""How well people's recordings are read.

Edges that are known by construction, and whole sentences with right, wrong, missing and extra words. Each case is read
by the whole engine, without its check of the words, and by the recogniser alone, on the same sounds in one run. See
`tools/bench/recorded.py` for what is read.
"""

import statistics
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from tinfork.core.errors import TinForkError, WordsError
from tinfork.core.solver.looks import looks_at_sound, looks_at_words
from tinfork.core.sound.voice import HOP_US, level_db
from tinfork.core.speech.reading import DOUBTFUL, Line, Phoneme, Reading, Word
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.align import sounds_of_phones
from tinfork.engines.reading.reader import read_track
from tinfork.engines.recogniser import align
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import LineText, spell
from tools.bench.reading import Tally, by_ear
from tools.bench.recorded import Sentence, joined, sentences
from tools.bench.truth import Truth, in_music, in_noise
from tools.ear.joining import Joined

_ROWS, _SENTENCES = 14, 10
#: Languages whose speakers were not used for training, then those of which only other texts were.
LANGUAGES = ("en-us", "bg", "el", "ru", "fr", "es", "ca", "be")
#: The error from which a word is far off, and the shift from which it has moved (seconds).
_FAR_S, _MOVED_US = 0.1, 40_000
#: A phrase counts as speech down to this far below its loudest level (dB).
_VOICE_DB = 24.0

#: What else is heard in a row.
_HIDDEN = {
    "noise at 10 dB": (in_noise, 10.0),
    "noise at 5 dB": (in_noise, 5.0),
    "music at 10 dB": (in_music, 10.0),
}

Reader = Callable[[Any, str, str], Reading]


def whole(spoken: Any, text: str, language: str) -> Reading:
    """Read as the application does."""
    return read_track(spoken.sound, [LineText(text, "", language)]).reading


def unchecked(spoken: Any, text: str, language: str) -> Reading:
    """Read without the listener."""
    return read_track(spoken.sound, [LineText(text, "", language)], is_checked=False).reading


def plain(spoken: Any, text: str, language: str) -> Reading:
    """Read by the recogniser alone, with its own edges."""
    lines = [LineText(text, "", language)]
    wording = spell(lines)
    aligned = align(spoken.sound.mono_at(READING_HZ), [s.word.phone_names for s in wording.spoken])
    if aligned is None:
        raise WordsError("no path")
    written = [word.text for word in wording.written[0]]
    sounds: dict[int, list[Phoneme]] = {}
    last_us, end_us = 0, spoken.sound.duration_us
    for said, found in zip(wording.spoken, aligned, strict=True):
        for sound in sounds_of_phones(said.word, found):
            start_us = max(last_us, round(sound.start_s * 1e6))
            last_us = max(start_us + 1, min(round(sound.end_s * 1e6), end_us))
            if last_us <= end_us:
                sounds.setdefault(said.written, []).append(Phoneme(sound.ipa, start_us, last_us))
    words = tuple(Word(written[at], own[0].start_us, own[-1].end_us, tuple(own)) for at, own in sorted(sounds.items()))
    return Reading(end_us, (Line("", text, language, words),))


READERS: dict[str, Reader] = {"plain": plain, "unchecked": unchecked, "whole": whole}


def typed_words(reading: Reading, text: str, language: str) -> list[Word | None]:
    """For each written word of a text the word that was read, None where it was not."""
    read = list(reading.words())
    out: list[Word | None] = []
    for written in split_words(text, language):
        is_next = bool(read) and read[0].text == written.text
        out.append(read.pop(0) if is_next else None)
    return out


@dataclass
class Edges:
    """The results for rows of phrases."""

    off_s: list[float] = field(default_factory=list)
    #: How much too late the last words of phrases end.
    ends_late_s: list[float] = field(default_factory=list)
    #: Of each word at an edge how sure it is, and whether it is far off.
    sure: list[float] = field(default_factory=list)
    far: list[bool] = field(default_factory=list)
    words: int = 0
    dropped: int = 0
    looks: int = 0
    resting: int = 0
    frames: int = 0
    failures: int = 0
    cpu_s: float = 0.0
    seconds: float = 0.0

    def add(self, row: Joined, reader: Reader) -> None:
        """Read one row."""
        began = time.process_time()
        try:
            reading = reader(row, row.text, row.language)
        except TinForkError:
            self.failures += 1
            return
        finally:
            self.cpu_s += time.process_time() - began
            self.seconds += len(row.samples) / READING_HZ
        found = typed_words(reading, row.text, row.language)
        self.words += len(found)
        self.dropped += sum(word is None for word in found)
        self.looks += looks_of(reading, row.samples)
        spans = [(p.start_us, p.end_us) for p in reading.phonemes()]
        levels = level_db(row.samples, READING_HZ)
        at = 0
        for phrase in row.phrases:
            count = len(split_words(phrase.text, row.language))
            own = found[at : at + count]
            at += count
            for word, is_first in ((own[0], True), (own[-1], False)) if own else ():
                if word:
                    edge_s = (word.start_us if is_first else word.end_us) / 1e6
                    off_s = abs(edge_s - (phrase.start_s if is_first else phrase.end_s))
                    self.off_s.append(off_s)
                    if not is_first:
                        self.ends_late_s.append(edge_s - phrase.end_s)
                    self.sure.append(word.confidence)
                    self.far.append(off_s > _FAR_S)
            loudest = float(levels[int(phrase.start_s * 100) : int(phrase.end_s * 100)].max())
            # A frame at each end may show the edge; between words somebody may fall silent.
            for frame in range(int(phrase.start_s * 24) + 2, int(phrase.end_s * 24) - 1):
                middle_us = (frame + 0.5) / 24 * 1e6
                if levels[int(middle_us / HOP_US)] > loudest - _VOICE_DB:
                    self.frames += 1
                    self.resting += not any(start <= middle_us < end for start, end in spans)

    def join(self, other: "Edges") -> None:
        """Count what came of other rows too."""
        for name in self.__dataclass_fields__:
            setattr(self, name, getattr(self, name) + getattr(other, name))

    def row(self) -> dict[str, Any]:
        """Its figures."""
        off_ms = 1000 * np.array(self.off_s)
        return {
            "edges": len(off_ms),
            "median_ms": round(float(np.median(off_ms)), 1),
            "p90_ms": round(float(np.quantile(off_ms, 0.9)), 1),
            "ends_late_ms": round(1000 * float(np.median(self.ends_late_s))),
            "ends_off_mean_ms": round(1000 * float(np.mean(np.abs(self.ends_late_s)))),
            "far_%": round(100 * float(np.mean(self.far)), 1),
            "dropped": f"{self.dropped} of {self.words}",
            "looks_per_30_s": round(30 * self.looks / self.seconds, 2),
            "resting_%": round(100 * self.resting / max(self.frames, 1), 2),
            "far_found_by_sureness_auc": ranked(self.sure, self.far),
            "cpu_s_per_s": round(self.cpu_s / self.seconds, 3),
            "failures": self.failures,
        }


def ranked(sure: Sequence[float], far: Sequence[bool]) -> float | None:
    """How often a word that is off is less sure than one that is not (area under the ROC; Hanley and McNeil 1982)."""
    off = [s for s, is_far in zip(sure, far, strict=True) if is_far]
    on = [s for s, is_far in zip(sure, far, strict=True) if not is_far]
    if not off or not on:
        return None
    return round(float(np.mean([(a < b) + 0.5 * (a == b) for a in off for b in on])), 3)


@dataclass
class Planted:
    """Rows in which words were planted that nobody says: how sure the reading is of those, and of the others."""

    sure: list[float] = field(default_factory=list)
    wrong: list[bool] = field(default_factory=list)

    def add(self, row: Joined, others: Sequence[str], pick: np.random.Generator) -> None:
        """Read a row in which the last word of every second phrase is another."""
        words: list[str] = []
        planted: set[int] = set()
        for number, phrase in enumerate(row.phrases):
            own = phrase.text.split()
            if number % 2:
                planted.add(len(words) + len(own) - 1)
                own[-1] = str(pick.choice([word for word in others if word != own[-1]]))
            words += own
        text = " ".join(words)
        # Numbers of written words, as the text is parted into them.
        wrong = [at in planted for at, word in enumerate(words) for _ in split_words(word, row.language)]
        found = typed_words(whole(row, text, row.language), text, row.language)
        # What is not read at all is as unsure as can be.
        self.sure += [word.confidence if word else 0.0 for word in found]
        self.wrong += wrong

    def row(self) -> dict[str, Any]:
        """Its figures: of the words said to be 90 % sure and more, how many are right.

        Of those said to be less than half, how many are wrong.
        """
        sure, wrong = np.array(self.sure), np.array(self.wrong)
        return {
            "words": len(wrong),
            "planted": int(wrong.sum()),
            "auc": ranked(self.sure, self.wrong),
            "right_of_sure_%": round(100 * float(np.mean(~wrong[sure >= 0.9])), 1),
            "wrong_of_doubtful_%": round(100 * float(np.mean(wrong[sure < DOUBTFUL])), 1),
            "planted_that_are_doubtful_%": round(100 * float(np.mean(sure[wrong] < DOUBTFUL)), 1),
        }


def looks_of(reading: Reading, samples: Any) -> int:
    """How many second looks the application has at a reading's words."""
    return len([*looks_at_words(reading), *looks_at_sound(reading, level_db(samples, READING_HZ))])


def _with_mistakes(spoken: Sequence[Sentence], language: str) -> dict[str, Any]:
    """Whole sentences with right words, and with one wrong, missing or extra word.

    What becomes a second look, and what else moves.
    """
    pick = np.random.default_rng(8)
    others = [word for sentence in spoken for word in sentence.text.split() if len(word) > 4]
    tally: dict[str, list[tuple[bool, int, int, int]]] = {}
    seconds = sum(len(sentence.samples) for sentence in spoken) / READING_HZ
    for sentence in spoken:
        words = sentence.text.split()
        at, other = int(pick.integers(1, len(words) - 1)), str(pick.choice(others))
        texts = {
            "right": words,
            "wrong": [*words[:at], other, *words[at + 1 :]],
            "missing": [*words[:at], *words[at + 1 :]],
            "extra": [*words[:at], other, *words[at:]],
        }
        before = typed_words(whole(sentence, sentence.text, language), sentence.text, language)
        for kind, typed in texts.items():
            reading = whole(sentence, " ".join(typed), language)
            after = typed_words(reading, " ".join(typed), language)
            moved, count = _moved(before, after, at)
            is_look = any(_is_at(look, before, at) for look in looks_at_words(reading))
            tally.setdefault(kind, []).append((is_look, moved, count, looks_of(reading, sentence.samples)))
    out = {}
    for kind, rows in tally.items():
        looked, moved_all, counts, looks = zip(*rows, strict=True)
        figures = {"sentences": len(rows), "looks_per_30_s": round(30 * sum(looks) / seconds, 2)}
        if kind != "right":
            figures["is_a_look_%"] = round(100 * statistics.mean(looked), 1)
            figures["others_moved_%"] = round(100 * sum(moved_all) / max(sum(counts), 1), 1)
        out[f"{language}, sentences, {kind} words"] = figures
    return out


def _moved(before: Sequence[Word | None], after: Sequence[Word | None], at: int) -> tuple[int, int]:
    """How many words away from the mistake are elsewhere or gone, and of how many."""
    back = len(before) - at - 2
    pairs = [*zip(before[: at - 1], after[: at - 1], strict=False)]
    pairs += zip(before[-back:], after[-back:], strict=False) if back > 0 else ()
    known = [(a, b) for a, b in pairs if a]
    moved = sum(b is None or a.text != b.text or abs(a.start_us - b.start_us) > _MOVED_US for a, b in known if a)
    return moved, len(known)


def _is_at(look: Any, before: Sequence[Word | None], at: int) -> bool:
    """Whether a look is about a word or its neighbours; about what is not said, wherever it is."""
    near = [word for word in before[max(0, at - 1) : at + 2] if word]
    return look.kind == "unsaid" or any(look.start_us < w.end_us and w.start_us < look.end_us for w in near)


def bench_people() -> dict[str, Any]:
    """The whole table."""
    out: dict[str, Any] = {}
    every: dict[str, Edges] = {name: Edges() for name in (*READERS, *_HIDDEN)}
    planted, pick = Planted(), np.random.default_rng(9)
    # Nobody knows people's sounds: what is read with the words stands for them.
    agreeing = Tally()
    for language in LANGUAGES:
        rows = joined(language, _ROWS)
        if not rows:
            continue
        whole(rows[0], rows[0].text, language)
        for name, reader in READERS.items():
            edges = Edges()
            for row in rows:
                edges.add(row, reader)
            out[f"{language}, {name}"] = edges.row()
            every[name].join(edges)
        for name, (hide, db) in _HIDDEN.items():
            for row in rows:
                every[name].add(replace(row, samples=hide(row.samples, db)), unchecked)
        for row in rows:
            by_words = tuple(whole(row, row.text, language).phonemes())
            agreeing.add(Truth("people", row.text, language, row.samples, by_words), by_ear)
        others = [word for row in rows for word in row.text.split() if len(word) > 4]
        for row in rows:
            planted.add(row, others, pick)
    for name, edges in every.items():
        out[f"all languages, {name}"] = edges.row()
    out["all languages, by ear against the reading with words"] = agreeing.row()
    out["all languages, words planted that are not said"] = planted.row()
    for language in ("ru", "fr", "es"):
        out |= _with_mistakes(sentences(language, _SENTENCES), language)
    return out
