"""A shot's voices as one sound to be read from start to end, and back again.

What the clips of voices play is put in a row, in the order in which it is heard in the shot, each part of a take once.
Lines are laid along that row; what is found in it goes back to the voices, in their takes' own time. Words that no
clip plays are left as they were: they are only hidden.
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
    """The row of everything that voices say in a shot."""
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
    """Where in the row a stretch of the shot is heard; empty where no voice has a clip there."""
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
    """What of a span no other covers."""
    free = [(start, end)]
    for a, b in spans:
        free = [piece for s, e in free for piece in ((s, min(e, a)), (max(s, b), e)) if piece[1] > piece[0]]
    return sorted(free)


def _moved(word: Word, by_us: int, low: int, high: int) -> Word:
    """A word moved in time and kept inside a span."""
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
    """What has been read in the row so far, in its time."""
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
                # Part of a line is not the line: it will be read again.
                text = line.text if len(words) == len(line.words) else ""
                lines.append(replace(line, text=text, words=tuple(sorted(words, key=lambda w: w.start_us))))
    lines.sort(key=lambda line: line.start_us)
    return Reading(regions[-1].end_us if regions else 0, tuple(lines))


def spread(st: Soundtrack, regions: Iterable[Region], reading: Reading) -> Soundtrack:
    """The soundtrack with a reading of the row given back to its voices; turns that people made stay."""
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
