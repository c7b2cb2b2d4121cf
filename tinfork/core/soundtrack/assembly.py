"""A shot's voices joined into one sound, to be read from start to end, and the way back.

The parts of takes that clips play are joined in the order in which they are heard in the shot, each part once. The row
is read as a whole; its reading is given back to the voices, in the time of their takes. Words that no clip plays do not
change: they are only hidden.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from tinfork.core.soundtrack.model import Soundtrack, Voice
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.turns import renew_turns


@dataclass(frozen=True, slots=True)
class Region:
    """The part `[in_us, out_us)` of a take, for a voice, at `at_us` of the row."""

    voice: int
    take: int
    in_us: int
    out_us: int
    at_us: int

    @property
    def end_us(self) -> int:
        """Where it ends in the row."""
        return self.at_us + self.out_us - self.in_us


def assemble(st: Soundtrack) -> tuple[Region, ...]:
    """Join all parts of takes that the voices of a shot play."""
    out: list[Region] = []
    taken: dict[int, list[tuple[int, int]]] = {}
    at = 0
    for clip, voice in st.voice_clips():
        for start, end in _without(clip.in_us, clip.out_us, taken.setdefault(voice.id, [])):
            out.append(Region(voice.id, voice.take, start, end, at))
            at += end - start
            taken[voice.id].append((start, end))
    return tuple(out)


def row_spans(st: Soundtrack, regions: Iterable[Region], start_us: int, end_us: int) -> list[tuple[int, int]]:
    """The spans of the row that are heard in a stretch of the shot; empty if no voice has a clip there."""
    regions = tuple(regions)
    out: list[tuple[int, int]] = []
    for clip, voice in st.voice_clips():
        first = clip.in_us + max(start_us, clip.start_us) - clip.start_us
        last = clip.in_us + min(end_us, clip.end_us) - clip.start_us
        for region in regions:
            a, b = max(first, region.in_us), min(last, region.out_us)
            if region.voice == voice.id and a < b:
                out.append((a - region.in_us + region.at_us, b - region.in_us + region.at_us))
    return out


def _without(start: int, end: int, spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The parts of a span that no other span covers."""
    free = [(start, end)]
    for a, b in spans:
        free = [piece for s, e in free for piece in ((s, min(e, a)), (max(s, b), e)) if piece[1] > piece[0]]
    return sorted(free)


def _moved(word: Word, by_us: int, low: int, high: int) -> Word:
    """A word shifted in time and clamped to a span."""
    sounds: list[Phoneme] = []
    for p in word.phonemes:
        start, end = max(low, p.start_us + by_us), min(high, p.end_us + by_us)
        if end > start:
            sounds.append(replace(p, start_us=start, end_us=end))
    start, end = max(low, word.start_us + by_us), min(high, word.end_us + by_us)
    return replace(word, start_us=start, end_us=end, phonemes=tuple(sounds))


def _middle(word: Word) -> int:
    return (word.start_us + word.end_us) // 2


def gather(st: Soundtrack, regions: Iterable[Region]) -> Reading:
    """The existing reading of the row, in the row's time."""
    regions = tuple(regions)
    lines: list[Line] = []
    for voice in st.voices:
        own = [r for r in regions if r.voice == voice.id]
        for line in voice.reading.lines:
            words: list[Word] = []
            for word in line.words:
                region = next((r for r in own if r.in_us <= _middle(word) < r.out_us), None)
                if region:
                    words.append(_moved(word, region.at_us - region.in_us, region.at_us, region.end_us))
            if words:
                # A line that is only partly there is not kept: it will be read again.
                text = line.text if len(words) == len(line.words) else ""
                lines.append(replace(line, text=text, words=tuple(sorted(words, key=lambda w: w.start_us))))
    lines.sort(key=lambda line: line.start_us)
    return Reading(regions[-1].end_us if regions else 0, tuple(lines))


def spread(st: Soundtrack, regions: Iterable[Region], reading: Reading) -> Soundtrack:
    """The soundtrack with a reading of the row given back to its voices; turns set by hand stay."""
    regions = tuple(regions)
    by_voice: dict[int, list[Line]] = {}
    for line in reading.lines:
        own: dict[int, list[Word]] = {}
        for word in line.words:
            region = next((r for r in regions if r.at_us <= _middle(word) < r.end_us), None)
            if region:
                moved = _moved(word, region.in_us - region.at_us, region.in_us, region.out_us)
                own.setdefault(region.voice, []).append(moved)
        for voice, words in own.items():
            by_voice.setdefault(voice, []).append(replace(line, words=tuple(sorted(words, key=lambda w: w.start_us))))
    voices = tuple(_with_lines(v, by_voice.get(v.id, []), [r for r in regions if r.voice == v.id]) for v in st.voices)
    return replace(st, voices=voices)


def _with_lines(voice: Voice, lines: list[Line], regions: list[Region]) -> Voice:
    if not regions:
        return voice
    hidden: list[Line] = []
    for line in voice.reading.lines:
        kept = tuple(w for w in line.words if not any(r.in_us <= _middle(w) < r.out_us for r in regions))
        if kept:
            text = line.text if len(kept) == len(line.words) else " ".join(w.text for w in kept)
            hidden.append(replace(line, text=text, words=kept))
    ordered = sorted([*lines, *hidden], key=lambda line: line.start_us)
    new = Reading(voice.reading.duration_us, tuple(ordered))
    return replace(voice, reading=renew_turns(voice.reading, new))
