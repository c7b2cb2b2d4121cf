"""How well a sound is read without typed words, compared with the same sounds with their words, and by ear.

How sure its words are of themselves; and what is made up where nobody speaks. Voices that were neither learnt nor tuned
on.
"""

import re
from collections.abc import Sequence
from typing import Any

import numpy as np

from tinfork.core.errors import TinForkError
from tinfork.core.solver.looks import looks_at_words
from tinfork.core.speech.reading import DOUBTFUL, Reading
from tinfork.engines.decode import Sound
from tinfork.engines.transcribing import transcribe
from tools.bench import truth
from tools.bench.people import ranked
from tools.bench.reading import CASES, EACH, Reader, Tally, by_ear, whole
from tools.bench.recorded import sentences
from tools.bench.truth import Truth
from tools.ear import augmentation
from tools.ear.heard import are_right
from tools.ear.speaking import RATE_HZ

_CASES = ("clean", "pitch +6 semitones", "pitch -6", "noise at 10 dB", "telephone", "music at 10 dB")
_PEOPLE, _SENTENCES = ("ru", "fr", "es", "el", "bg"), 10
#: Minutes of each kind of sound without speech, and the length of its pieces in seconds.
_MINUTES, _PIECE_S = 4, 20
#: A word at least this sure is shown as sure.
_SURE = 0.8


def heard(spoken: Truth) -> Reading:
    """Read without words, with automatic detection of the language."""
    return transcribe(spoken.sound).reading


def _words(found: Sequence[tuple[Reading, str, str]]) -> dict[str, Any]:
    """How sure words are that were heard, against whether they sound like what is said; of readings with the truth."""
    sure: list[float] = []
    right: list[float] = []
    for reading, text, language in found:
        words = [word for line in reading.lines if line.text for word in line.words]
        sure += [word.confidence for word in words]
        right += are_right([word.text for word in words], text, language)
    likely, is_right = np.array(sure), np.array(right) > 0.5
    out: dict[str, Any] = {
        "words": len(sure),
        "right_%": round(100 * float(is_right.mean()), 1),
        "auc": ranked(sure, [not r for r in is_right]),
        "wrong_that_are_doubtful_%": round(100 * float(np.mean(likely[~is_right] < DOUBTFUL)), 1),
    }
    for low, high in ((0.5, 0.8), (0.8, 0.9), (0.9, 0.95), (0.95, 1.01)):
        these = (likely >= low) & (likely < high)
        if these.any():
            out[f"said {low:.0%} to {min(high, 1):.0%}, right_%"] = round(100 * float(is_right[these].mean()), 1)
    return out


def _made_up(kind: str, pick: np.random.Generator) -> dict[str, Any]:
    """Words in sound where nobody speaks."""
    words = sure = looks = 0
    for _ in range(_MINUTES * 60 // _PIECE_S):
        try:
            reading = transcribe(Sound(_nobody(kind, pick)[:, None], RATE_HZ)).reading
        except TinForkError:
            continue
        own = [word for line in reading.lines if line.text for word in line.words]
        words, sure = words + len(own), sure + sum(word.confidence >= _SURE for word in own)
        looks += len(list(looks_at_words(reading)))
    return {"minutes": _MINUTES, "words": words, "shown_as_sure": sure, "looks": looks}


def _nobody(kind: str, pick: np.random.Generator) -> truth.Samples:
    count = _PIECE_S * RATE_HZ
    if kind == "breath":
        out = np.zeros(count, dtype=np.float32)
        for at in range(RATE_HZ, count - RATE_HZ, 2 * RATE_HZ):
            out[at : at + RATE_HZ // 2] += augmentation.breath(RATE_HZ // 2, pick) * np.float32(0.1)
        return out
    if kind == "music":
        return truth.music(count, pick)
    # A room with something in it that comes and goes.
    swell = np.abs(np.sin(np.arange(count) * np.pi / pick.uniform(1, 4) / RATE_HZ))
    return (augmentation.noise_like(pick, count, []) * swell * 0.1).astype(np.float32)


def wrong_words(text: str, heard: str) -> tuple[int, int]:
    """How many words must be replaced, left out or put in to make the text of what was heard; and how many it has.

    Case and marks do not count. The least number of changes: Wagner and Fischer 1974.
    """
    said, got = (re.sub(r"[^\w\s]", "", one.casefold()).split() for one in (text, heard))
    row = list(range(len(got) + 1))
    for at, word in enumerate(said, 1):
        before, row = row, [at]
        for n, other in enumerate(got):
            row.append(min(row[n] + 1, before[n + 1] + 1, before[n] + (word != other)))
    return row[-1], len(said)


def _row(said: Sequence[Truth], reader: Reader) -> tuple[dict[str, Any], list[tuple[Reading, str, str]]]:
    """The figures of a case, and its readings with the truth."""
    tally, read = Tally(), []
    for spoken in said:
        if reading := tally.add(spoken, reader):
            read.append((reading, spoken.text, spoken.language))
    return tally.row(), read


def _wrong(found: Sequence[tuple[Reading, str, str]]) -> float:
    """The share of wrong words in readings, of all that were said, in percent."""
    counts = [wrong_words(text, " ".join(line.text for line in reading.lines)) for reading, text, _ in found]
    return round(100 * sum(wrong for wrong, _ in counts) / sum(said for _, said in counts), 1)


def bench_listening() -> dict[str, Any]:
    """The whole table."""
    said = [t for t in truth.english(EACH) if not t.voice.startswith("espeak")]
    heard(said[0])
    rows: dict[str, Any] = {}
    found: list[tuple[Reading, str, str]] = []
    for case in _CASES:
        changed = [CASES[case](t) for t in said]
        for name, reader in (("with words", whole), ("heard", heard), ("by ear", by_ear)):
            row, read = _row(changed, reader)
            if name == "heard":
                found += read
                row["wrong_words_%"] = _wrong(read)
            rows[f"{case}, {name}"] = row
    rows["words of English, all cases"] = _words(found)
    others = truth.natural_others()
    for language in dict.fromkeys(t.language for t in others):
        own = [t for t in others if t.language == language]
        rows[f"{language}, with words"], _ = _row(own, whole)
        row, read = _row(own, heard)
        row["wrong_words_%"] = _wrong(read)
        rows[f"{language}, heard"] = row
    for language in _PEOPLE:
        read = []
        for sentence in sentences(language, _SENTENCES):
            try:
                read.append((transcribe(sentence.sound).reading, sentence.text, language))
            except TinForkError:
                continue
        if read:
            found_it = sum(any(line.language.split("-")[0] == language for line in r.lines) for r, *_ in read)
            rows[f"people, {language}"] = {**_words(read), "language_found": f"{found_it} of {len(read)}"}
    pick = np.random.default_rng(12)
    for kind in ("room", "music", "breath"):
        rows[f"nobody speaks, {kind}"] = _made_up(kind, pick)
    return rows
