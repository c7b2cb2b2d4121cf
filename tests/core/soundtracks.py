"""Soundtracks for tests, by strategy and by hand."""

from hypothesis import strategies as st

from tinfork.core.soundtrack.edits import place
from tinfork.core.soundtrack.model import Clip, Pin, Soundtrack, Track, Voice
from tinfork.core.soundtrack.numbering import numbered
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

S = 1_000_000
#: How long each take is.
TAKES = {1: 10 * S, 2: 4 * S, 3: 30 * S}


def word(text, start, end):
    """A word of two sounds."""
    middle = (start + end) // 2
    return Word(text, start, end, (Phoneme("m", start, middle), Phoneme("a", middle, end)))


def read(take, *spans, speaker="1"):
    """A reading of a take with a line per (text, start, end), its words in equal parts."""
    lines = []
    for text, start, end in spans:
        texts = text.split()
        step = (end - start) // len(texts)
        words = tuple(word(t, start + n * step, start + (n + 1) * step) for n, t in enumerate(texts))
        lines.append(Line(speaker, text, "en-us", words))
    return Reading(TAKES[take], tuple(lines))


READ_1 = read(1, ("sit down now", 1 * S, 3 * S), ("good night", 5 * S, 7 * S))


def one_clip(start=0, reading=READ_1):
    """Take 1, whole, on one track."""
    return numbered(Soundtrack(), place(Soundtrack(), 1, TAKES[1], start, reading=reading), 1)[0]


@st.composite
def soundtracks(draw):
    """Up to six clips of three takes on two tracks of voices and one of effects, with pins."""
    tracks = (Track(1, "Voice"), Track(2, "Voice 2"), Track(3, "Effects", "effects"))
    ends = dict.fromkeys((1, 2, 3), 0)
    clips, voices = [], []
    for number in range(1, draw(st.integers(1, 6)) + 1):
        track = draw(st.integers(1, 3))
        take = draw(st.sampled_from([1, 2, 3]))
        first = draw(st.integers(0, TAKES[take] - 20_000))
        length = draw(st.integers(10_000, TAKES[take] - first))
        start = ends[track] + draw(st.integers(0, 3 * S))
        ends[track] = start + length
        voice = None
        if track < 3:
            voice = number
            voices.append(Voice(number, take, read(take, ("one two three", S // 2, 3 * S))))
        clips.append(Clip(number, track, take, TAKES[take], start, first, length, voice))
    spans = draw(st.lists(st.tuples(st.integers(0, 20 * S), st.integers(1, 3 * S)), max_size=3))
    pins = tuple(Pin(n, a, a + b) for n, (a, b) in enumerate(spans))
    clips.sort(key=lambda c: (c.start_us, c.track, c.id))
    return Soundtrack(tracks, tuple(clips), tuple(voices), pins)


def heard(soundtrack):
    """Every stretch of a take that sounds, with when: (track, take, start in the shot, in, length), joined where it
    goes on.
    """
    out = []
    for c in sorted(soundtrack.clips, key=lambda c: (c.track, c.start_us)):
        last = out[-1] if out else None
        if last and last[:2] == [c.track, c.take] and last[2] + last[4] == c.start_us and last[3] + last[4] == c.in_us:
            last[4] += c.length_us
        else:
            out.append([c.track, c.take, c.start_us, c.in_us, c.length_us])
    return out


def heard_at(soundtrack, at_us):
    """Each take that sounds at a time of the shot, and the time of it that does."""
    return {(c.take, c.take_time(at_us)) for c in soundtrack.clips if c.start_us <= at_us < c.end_us}
