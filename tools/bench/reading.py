"""How good a reading is: voices, distortions, languages, wrong words and no words, against the exact truth.

Each case is read by the whole engine and by its plain part, the recogniser alone with its own edges, on the same
sounds, in one run. See `tools/bench/truth.py` for where the truth comes from, and what the ear has not learnt.
"""

import resource
import statistics
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tinfork.core.clock import FrameRate
from tinfork.core.errors import TinForkError, WordsError
from tinfork.core.score.boundaries import Score, score
from tinfork.core.score.rightness import SOUND_RIGHT, WORD_RIGHT, reliability, shares_right, word_share
from tinfork.core.solver.looks import looks_at_sound, looks_at_words
from tinfork.core.sound.voice import level_db
from tinfork.core.speech.reading import DOUBTFUL, Line, Phoneme, Reading, Word
from tinfork.engines.limits import READING_HZ
from tinfork.engines.reading.align import sounds_of_phones
from tinfork.engines.reading.reader import read_track
from tinfork.engines.recogniser import align
from tinfork.engines.unworded import read_by_ear
from tinfork.engines.wording import LineText, spell
from tools.bench import truth
from tools.bench.truth import Truth
from tools.ear.speaking import RATE_HZ

RATE = FrameRate.parse("24")
EACH = 6
Reader = Callable[[Truth], Reading]

CASES: dict[str, Callable[[Truth], Truth]] = {
    "clean": lambda t: t,
    "pitch +6 semitones": truth.pitched(6),
    "pitch +4": truth.pitched(4),
    "pitch -4": truth.pitched(-4),
    "pitch -6": truth.pitched(-6),
    "pitch +6, blurred": truth.pitched(6, "standard"),
    "pitch -6, blurred": truth.pitched(-6, "standard"),
    "tape +5": truth.taped(5),
    "noise at 10 dB": truth.noisy(10),
    "noise at 5 dB": truth.noisy(5),
    "music at 10 dB": truth.with_music(10),
    "telephone": truth.telephone,
    "room": truth.room,
    "clipped": truth.clipped,
    "mp3 at 24 kbit/s": truth.mp3,
}


def whole(spoken: Truth) -> Reading:
    """Read as the application does."""
    return read_track(spoken.sound, [LineText(spoken.text, "", spoken.language)]).reading


def plain(spoken: Truth) -> Reading:
    """Read by the recogniser alone, with its own edges; all words as one."""
    wording = spell([LineText(spoken.text, "", spoken.language)])
    aligned = align(spoken.sound.mono_at(READING_HZ), [s.word.phone_names for s in wording.spoken])
    sounds: list[Phoneme] = []
    last_us = 0
    for said, word in zip(wording.spoken, aligned or (), strict=bool(aligned)):
        for sound in sounds_of_phones(said.word, word):
            start_us = max(last_us, round(sound.start_s * 1e6))
            last_us = max(start_us + 1, min(round(sound.end_s * 1e6), spoken.duration_us))
            if last_us <= spoken.duration_us:
                sounds.append(Phoneme(sound.ipa, start_us, last_us))
    if not sounds:
        raise WordsError("no path")
    line = Line("", spoken.text, spoken.language, (Word("all", sounds[0].start_us, sounds[-1].end_us, tuple(sounds)),))
    return Reading(spoken.duration_us, (line,))


def by_ear(spoken: Truth) -> Reading:
    """Read without words, by ear."""
    return read_by_ear(spoken.sound, spoken.language).reading


@dataclass
class Tally:
    """The results of a case."""

    scores: list[Score] = field(default_factory=list)
    failures: int = 0
    cpu: float = 0.0
    seconds: float = 0.0

    def add(self, spoken: Truth, reader: Reader) -> Reading | None:
        """Read one sentence."""
        began = time.process_time()
        try:
            reading = reader(spoken)
        except TinForkError:
            self.failures += 1
            return None
        finally:
            self.cpu += time.process_time() - began
            self.seconds += spoken.duration_us / 1e6
        found = tuple(reading.phonemes())
        if found:
            self.scores.append(score(found, spoken.phonemes, spoken.duration_us, RATE))
        return reading

    def row(self) -> dict[str, Any]:
        """Its figures; a sentence that failed has no right frame."""
        count = len(self.scores) + self.failures
        return {
            "mean_ms": round(1000 * statistics.mean(s.mean_s for s in self.scores), 1),
            "median_ms": round(1000 * statistics.median(s.median_s for s in self.scores), 1),
            "exact_%": round(100 * sum(s.exact for s in self.scores) / count, 1),
            "tolerant_%": round(100 * sum(s.tolerant for s in self.scores) / count, 1),
            "cpu_s_per_s": round(self.cpu / self.seconds, 3),
            "failures": self.failures,
        }


def _rows(name: str, said: Sequence[Truth], readers: dict[str, Reader]) -> dict[str, Any]:
    out = {}
    for way, reader in readers.items():
        tally = Tally()
        for spoken in said:
            tally.add(spoken, reader)
        out[f"{name}, {way}"] = tally.row()
    return out


def _mistakes(said: Sequence[Truth]) -> dict[str, Any]:
    """One wrong, missing or extra word: what moves elsewhere, and whether the place is a second look."""
    out = {}
    for kind in ("wrong word", "missing word", "extra word"):
        pick = np.random.default_rng(8)
        moved, others, flagged, exact = 0, 0, 0, []
        for spoken in said:
            words = spoken.text.split()
            at = int(pick.integers(1, len(words) - 1))
            typed = list(words)
            if kind == "missing word":
                del typed[at]
            elif kind == "extra word":
                typed.insert(at, "kettle")
            else:
                typed[at] = "marmalade"
            before = whole(spoken)
            after = whole(Truth(spoken.voice, " ".join(typed), spoken.language, spoken.samples, spoken.phonemes))
            moved += _moved(list(before.words()), list(after.words()), at, len(words))
            others += max(0, len(words) - 3)
            near = [
                w for w in after.words() if w.text.strip(".") in {t.strip(".") for t in typed[max(0, at - 1) : at + 2]}
            ]
            doubtful = any(w.confidence < DOUBTFUL for w in near) or any(line.missing_words for line in after.lines)
            flagged += doubtful or (kind == "missing word" and _is_bare(spoken, after, list(before.words())[at]))
            exact.append(score(tuple(after.phonemes()), spoken.phonemes, spoken.duration_us, RATE).exact)
        out[f"one {kind}"] = {
            "other words moved over 40 ms, %": round(100 * moved / others, 1),
            "second looks, %": round(100 * flagged / len(said), 1),
            "exact_%": round(100 * statistics.mean(exact), 1),
        }
    return out


def _moved(before: list[Word], after: list[Word], at: int, count: int) -> int:
    """Words away from the mistake that moved or are gone."""
    heads = list(zip(before[: max(0, at - 1)], after[: max(0, at - 1)], strict=False))
    back = count - at - 2
    tails = list(zip(before[-back:], after[-back:], strict=False)) if back > 0 else []
    return sum(a.text != b.text or abs(a.start_us - b.start_us) > 40_000 for a, b in heads + tails)


def _is_bare(spoken: Truth, after: Reading, gone: Word) -> bool:
    """Whether the place of a word that was not typed is a second look, as the application has them."""
    looks = (*looks_at_words(after), *looks_at_sound(after, level_db(spoken.samples, RATE_HZ)))
    return any(look.kind == "bare" and look.start_us < gone.end_us and gone.start_us < look.end_us for look in looks)


def _reliability(readings: Sequence[tuple[Truth, Reading]]) -> dict[str, Any]:
    sure: dict[str, list[float]] = {"sounds": [], "words": []}
    right: dict[str, list[bool]] = {"sounds": [], "words": []}
    for spoken, reading in readings:
        for word in reading.words():
            shares = shares_right(word.phonemes, spoken.phonemes)
            sure["sounds"] += [p.confidence for p in word.phonemes]
            right["sounds"] += [share > SOUND_RIGHT for share in shares]
            sure["words"].append(word.confidence)
            right["words"].append(word_share(word.phonemes, shares) > WORD_RIGHT)
    return {
        f"sure of {kind}, {name}": {"count": count, "said_%": round(100 * said, 1), "right_%": round(100 * was, 1)}
        for kind in sure
        for name, count, said, was in reliability(sure[kind], right[kind])
    }


def bench_reading() -> dict[str, Any]:
    """The whole table."""
    said = truth.english(EACH)
    whole(said[0])
    rows: dict[str, Any] = {"sentences": len(said), "voices": ", ".join(dict.fromkeys(t.voice for t in said))}
    readings: list[tuple[Truth, Reading]] = []
    for case, change in CASES.items():
        changed = [change(t) for t in said]
        for name, own in (("", changed), ("natural voices", [t for t in changed if not t.voice.startswith("espeak")])):
            if name and case != "clean":
                continue
            rows |= _rows(f"{case}, {name}" if name else case, own, {"plain": plain})
            tally = Tally()
            for spoken in own:
                reading = tally.add(spoken, whole)
                if reading and not name:
                    readings.append((spoken, reading))
            rows[f"{case}, {name}, whole" if name else f"{case}, whole"] = tally.row()
    natural = [t for t in said if not t.voice.startswith("espeak")]
    formants = [t for t in said if t.voice.startswith("espeak")]
    rows |= _rows("no words", natural, {"by ear": by_ear})
    rows |= _rows("no words, voices of formants", formants, {"by ear": by_ear})
    rows |= _rows("no words, pitch +6", [truth.pitched(6)(t) for t in natural], {"by ear": by_ear})
    rows |= _rows("no words, noise at 10 dB", [truth.noisy(10)(t) for t in natural], {"by ear": by_ear})
    rows |= _mistakes(natural)
    for others in (truth.natural_others(), truth.formant_others()):
        for language in dict.fromkeys(t.language for t in others):
            own = [t for t in others if t.language == language]
            kind = "espeak" if own[0].voice.startswith("espeak") else "natural"
            rows |= _rows(f"{language}, {kind}", own, {"plain": plain, "whole": whole})
    rows |= _reliability(readings)
    rows["peak memory MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return rows
