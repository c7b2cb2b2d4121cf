"""Readings, charts and problems that are valid, for property tests."""

import numpy as np
from hypothesis import strategies as st

from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.solver.problem import Fixed, Problem
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLASSES, VISEMES

SYMBOLS = [symbols[0] for symbols in CLASSES.values() if symbols] + ["aɪ", "ˈoʊ", "tʃ", "ə", "iː"]


@st.composite
def readings(draw, max_words=8):
    """A reading of one or two lines with gaps of any length between words."""
    at = draw(st.integers(0, 400_000))
    words = []
    for number in range(draw(st.integers(0, max_words))):
        start, phonemes = at, []
        for _ in range(draw(st.integers(1, 4))):
            length = draw(st.integers(20_000, 300_000))
            sure = draw(st.integers(0, 10_000)) / 10_000
            phonemes.append(Phoneme(draw(st.sampled_from(SYMBOLS)), at, at + length, sure))
            at += length
        sure, heard = draw(st.integers(0, 10_000)) / 10_000, draw(st.sampled_from(["", "", "tram"]))
        others = draw(st.sampled_from([(), (), ("prams",), ("a", "b")]))
        words.append(Word(f"w{number}", start, at, tuple(phonemes), sure, heard=heard, others=others))
        at += draw(st.sampled_from([0, 0, 10_000, 150_000, 900_000]))
    cut = draw(st.integers(0, len(words)))
    extras = draw(st.sampled_from([(), (), (Extra(0, at + 1, "and then"),)]))
    unsaid = draw(st.sampled_from([(), (), ("kettle",)]))
    parts = [tuple(part) for part in (words[:cut], words[cut:]) if part]
    lines = tuple(Line("Odalys", "…", "en-us", part, missing_words=unsaid, extras=extras) for part in parts)
    return Reading(at + draw(st.integers(1, 800_000)), lines)


@st.composite
def charts(draw):
    """A chart of one to eight drawings that show any classes."""
    count = draw(st.integers(1, 8))
    shown = st.lists(st.sampled_from(VISEMES), min_size=1, max_size=3, unique=True)
    return Chart(tuple(Drawing(n + 1, f"d{n}", tuple(draw(shown))) for n in range(count)))


@st.composite
def problems(draw, max_frames=8, max_drawings=3, pinned=True):
    """A small frame problem, small enough for trying every answer."""
    frames, drawings = draw(st.integers(1, max_frames)), draw(st.integers(1, max_drawings))
    cells = draw(st.lists(st.integers(0, 20), min_size=frames * drawings, max_size=frames * drawings))
    costs = np.array(cells, dtype=np.int64).reshape(frames, drawings)
    fixed, at = [], 0
    while pinned and at < frames and draw(st.booleans()):
        start = draw(st.integers(at, frames - 1))
        at = draw(st.integers(start + 1, frames))
        allowed = draw(st.sets(st.integers(0, drawings - 1), min_size=1))
        fixed.append(Fixed(start, at, tuple(sorted(allowed))))
    return Problem(costs, draw(st.integers(0, 15)), draw(st.integers(1, 4)), tuple(fixed), draw(st.integers(1, 3)))
