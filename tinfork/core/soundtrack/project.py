"""From takes' time to the shot's: what is heard and read when, in a shot."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from tinfork.core.soundtrack.model import Clip, Soundtrack, Voice
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Turn, Word
from tinfork.core.speech.turns import settle, turns_of


@dataclass(frozen=True, slots=True)
class PlacedTurn:
    """A turn in the shot's time, and the clip it is heard in."""

    clip: int
    turn: Turn


def reading_of(st: Soundtrack) -> Reading:
    """What is read in the shot, in its time: the words of every voice that its clips let be heard, turns settled."""
    end_us = st.duration_us
    lines: list[Line] = []
    for clip, voice in st.voice_clips():
        for line in settle(voice.reading).lines:
            words = [placed for word in line.words if (placed := placed_word(word, clip, end_us))]
            if words:
                text = line.text if len(words) == len(line.words) else " ".join(w.text for w in words)
                extras = tuple(_placed_extras(line, clip, end_us))
                lines.append(replace(line, text=text, words=tuple(words), extras=extras))
    lines.sort(key=lambda line: line.start_us)
    return Reading(end_us, tuple(lines))


def _placed_extras(line: Line, clip: Clip, end_us: int) -> Iterator[Extra]:
    """A line's speech without words, in the shot's time, as far as the clip plays it."""
    by_us = clip.shot_time(0) + clip.slip_us
    for extra in line.extras:
        start = max(0, clip.start_us + clip.slip_us, extra.start_us + by_us)
        end = min(end_us, clip.end_us + clip.slip_us, extra.end_us + by_us)
        if start < end:
            yield replace(extra, start_us=start, end_us=end)


def placed_word(word: Word, clip: Clip, end_us: int) -> Word | None:
    """A word in the shot's time; None where the clip does not play its middle, or the shot has ended."""
    if not clip.in_us <= (word.start_us + word.end_us) // 2 < clip.out_us:
        return None
    by_us = clip.shot_time(0) + clip.slip_us
    low, high = max(0, clip.start_us + clip.slip_us), min(end_us, clip.end_us + clip.slip_us)
    start, end = max(low, word.start_us + by_us), min(high, word.end_us + by_us)
    if end <= start:
        return None
    phonemes: list[Phoneme] = []
    for phoneme in word.phonemes:
        p_start, p_end = max(start, phoneme.start_us + by_us), min(end, phoneme.end_us + by_us)
        if p_end > p_start:
            phonemes.append(replace(phoneme, start_us=p_start, end_us=p_end))
    return replace(word, start_us=start, end_us=end, phonemes=tuple(phonemes))


def clips_of_words(st: Soundtrack) -> Callable[[Word], int]:
    """Which clip a word of the shot's reading is heard in: two clips may play the same one."""
    clips: dict[int, list[Clip]] = {}
    for clip, voice in st.voice_clips():
        for word in voice.reading.words():
            clips.setdefault(word.id, []).append(clip)

    def clip_of(word: Word) -> int:
        middle = (word.start_us + word.end_us) // 2
        found = clips.get(word.id, [])
        heard = (c for c in found if c.start_us + c.slip_us <= middle < c.end_us + c.slip_us)
        return next(heard, found[0]).id if found else 0

    return clip_of


def placed_turns(st: Soundtrack) -> list[PlacedTurn]:
    """Every turn that a clip lets be heard, in the shot's time and order."""
    out: list[PlacedTurn] = []
    for clip, voice in st.voice_clips():
        for turn in turns_of(voice.reading):
            start, end = max(turn.start_us, clip.in_us), min(turn.end_us, clip.out_us)
            by_us = clip.shot_time(0) + clip.slip_us
            start, end = max(0, start + by_us), end + by_us
            if end > start:
                out.append(PlacedTurn(clip.id, replace(turn, start_us=start, end_us=end)))
    return sorted(out, key=lambda p: (p.turn.start_us, p.turn.end_us))


def voice_time(st: Soundtrack, clip: Clip, shot_us: int) -> int:
    """The time of a clip's take whose words are read at a time of the shot."""
    return clip.take_time(shot_us) - clip.slip_us


def voices_between(st: Soundtrack, start_us: int, end_us: int) -> list[tuple[Clip, Voice]]:
    """The read clips that sound in a stretch of the shot."""
    return [(c, v) for c, v in st.voice_clips() if c.start_us < end_us and c.end_us > start_us]
