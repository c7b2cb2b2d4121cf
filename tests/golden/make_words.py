"""Write words.json anew: what the core makes of thousands of random edits of words and sounds, and which it refuses.

`python -m tests.golden.make_words`. The page draws the same at once: see `tests/js/words.test.js`.
"""

import json
import random
from itertools import pairwise
from pathlib import Path
from typing import Any

from tinfork.core.clock import FrameRate
from tinfork.core.commands.declared import EditContext
from tinfork.core.commands.table import parse_command
from tinfork.core.errors import TinForkError
from tinfork.core.soundtrack.model import Clip, Soundtrack, Track, Voice
from tinfork.core.soundtrack.numbering import numbered
from tinfork.core.soundtrack.project import clips_of_words, reading_of
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

LENGTH_US = 10_000_000
RATE = FrameRate.parse("24")
FILE = Path(__file__).with_name("words.json")
_SHOTS, _CASES = 25, 100


def word(pick: random.Random, start_us: int, end_us: int) -> Word:
    """A word whose sounds touch each other, or leave gaps."""
    count = pick.randint(1, min(5, (end_us - start_us) // 12_000))
    cuts = sorted(pick.sample(range(start_us + 1, end_us), count - 1))
    edges = [start_us, *cuts, end_us]
    sounds = []
    for a, b in pairwise(edges):
        gap = pick.choice([0, 0, 0, (b - a) // 4])
        sounds.append(Phoneme(pick.choice("abmostu"), a, b - gap, 0.5))
    return Word("".join(s.ipa for s in sounds), start_us, end_us, tuple(sounds), 0.7)


def soundtrack(pick: random.Random) -> Soundtrack:
    """A shot of ten seconds in which one or two people say some lines, words close together or apart."""
    lines: list[Line] = []
    for speaker in ["1", "2"][: pick.randint(1, 2)]:
        at, words = pick.randint(0, 400_000), []
        while at < LENGTH_US - 700_000 and len(words) < 14:
            end = at + pick.randint(30_000, 600_000)
            words.append(word(pick, at, end))
            at = end + pick.choice([0, 0, 0, pick.randint(1, 300_000)])
        while words:
            some = pick.randint(1, len(words))
            lines.append(Line(speaker, " ".join(w.text for w in words[:some]), "en-us", tuple(words[:some])))
            words = words[some:]
    lines.sort(key=lambda line: line.start_us)
    clip = Clip(1, 1, 1, LENGTH_US, 0, 0, LENGTH_US, voice=1)
    st = Soundtrack((Track(1, "Voice"),), (clip,), (Voice(1, 1, Reading(LENGTH_US, tuple(lines))),))
    return numbered(Soundtrack(), st, 1)[0]


def edit(pick: random.Random, st: Soundtrack) -> tuple[str, dict[str, Any]]:
    """Some edit of some word or sound; now and then of one that is gone, or past all ends."""
    words = list(st.voices[0].reading.words())
    own = pick.choice(words)
    sound = pick.choice(own.phonemes)
    named = {"word": pick.choice([own.id] * 30 + [99_999]), "clip": 1}
    near = pick.choice([own.start_us, own.end_us, sound.start_us, sound.end_us]) + pick.randint(-400_000, 400_000)
    at = max(0, pick.choice([near, near, near, 0, 3 * LENGTH_US]))
    edge = {"edge": pick.choice(["start", "end"]), "at_us": at, "gap": pick.random() < 0.4}
    one = {"sound": pick.choice([sound.id] * 30 + [77])}
    by = pick.choice([pick.randint(-500_000, 500_000), 10_000, -10_000, LENGTH_US, -LENGTH_US])
    return pick.choice(
        [
            ("edge", {**named, **edge}),
            ("edge", {**named, **edge, **one}),
            ("slide", {**named, "by_us": by, "what": "word"}),
            ("slide", {**named, "by_us": by, "what": "line"}),
            ("word_remove", named),
        ]
    )


def shown(st: Soundtrack) -> list[list[Any]]:
    """Words in order as the page has them: [number, clip, line, speaker, start, end, is pinned, sounds], each of its
    sounds as [number, start, end].
    """
    clip_of = clips_of_words(st)
    rows = [
        [
            *(w.id, clip_of(w), line.id, int(line.speaker), w.start_us, w.end_us, int(w.is_pinned)),
            [[p.id, p.start_us, p.end_us] for p in w.phonemes],
        ]
        for line in reading_of(st).lines
        for w in line.words
    ]
    return sorted(rows, key=lambda row: (row[4], row[0]))


def outcome(st: Soundtrack, name: str, parameters: dict[str, Any]) -> list[list[Any]] | None:
    """The words that an edit changed, or took away ([number]); None where it is refused."""
    try:
        after = shown(parse_command(name, parameters).apply(st, EditContext(RATE, {}, frozenset({"1", "2"}))))
    except TinForkError:
        return None
    before = shown(st)
    left = {row[0] for row in after}
    return [row for row in after if row not in before] + [[row[0]] for row in before if row[0] not in left]


def made() -> dict[str, Any]:
    """All of it."""
    pick = random.Random(21)
    out = []
    for _ in range(_SHOTS):
        st = soundtrack(pick)
        cases = [
            [name, parameters, outcome(st, name, parameters)]
            for name, parameters in (edit(pick, st) for _ in range(_CASES))
        ]
        out.append({"words": shown(st), "cases": cases})
    return {"durationUs": LENGTH_US, "shots": out}


if __name__ == "__main__":
    FILE.write_text(json.dumps(made(), separators=(",", ":")) + "\n")
