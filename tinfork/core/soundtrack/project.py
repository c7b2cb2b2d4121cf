"""From the time of takes to that of the shot: the reading that clips play in a shot."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from operator import attrgetter

from tinfork.core.kept import kept, of_each
from tinfork.core.soundtrack.model import Clip, Soundtrack, Voice
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Turn, Word
from tinfork.core.speech.turns import apply_turns, turns_of


@dataclass(frozen=True, slots=True, weakref_slot=True)
class PlacedTurn:
    """A turn in the shot's time, and the clip it is heard in."""

    clip: int
    turn: Turn


#: A line in the shot's time, and the clip it is heard in.
PlacedLine = tuple[Line, Clip]


def reading_of(st: Soundtrack) -> Reading:
    """The reading of the shot, in its time: the words of every voice that its clips play, with turns applied."""
    return reading_from(placed_lines(st), st.duration_us)


def reading_from(placed: Sequence[PlacedLine], duration_us: int) -> Reading:
    """The reading of the shot, from its lines."""
    return Reading(duration_us, tuple(line for line, _ in placed))


def placed_lines(st: Soundtrack) -> list[PlacedLine]:
    """The lines of that reading, each with the clip that plays it."""
    end_us = st.duration_us
    settled: dict[int, tuple[Line, ...]] = {}
    out: list[PlacedLine] = []
    for clip, voice in st.voice_clips():
        if voice.id not in settled:
            settled[voice.id] = apply_turns(voice.reading).lines
        out += [(placed, clip) for placed in of_each(_placed_line, settled[voice.id], clip, end_us) if placed]
    return sorted(out, key=lambda placed: placed[0].start_us)


@kept
def _placed_line(line: Line, clip: Clip, end_us: int) -> Line | None:
    """A line in the shot's time, with the words that the clip plays; None if it plays none."""
    words = [placed for word in line.words if (placed := placed_word(word, clip, end_us))]
    if not words:
        return None
    text = line.text if len(words) == len(line.words) else " ".join(w.text for w in words)
    return replace(line, text=text, words=tuple(words), extras=tuple(_placed_extras(line, clip, end_us)))


def _placed_extras(line: Line, clip: Clip, end_us: int) -> Iterator[Extra]:
    """A line's speech without words that the clip plays, in the shot's time."""
    by_us = clip.shot_time(0) + clip.slip_us
    for extra in line.extras:
        start = max(0, clip.start_us + clip.slip_us, extra.start_us + by_us)
        end = min(end_us, clip.end_us + clip.slip_us, extra.end_us + by_us)
        if start < end:
            yield replace(extra, start_us=start, end_us=end)


def placed_word(word: Word, clip: Clip, end_us: int) -> Word | None:
    """A word in the shot's time; None if the clip does not play its middle, or if it is after the end of the shot."""
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
    """The clip that plays a word of the shot's reading; two clips may play the same word."""
    voiced = list(st.voice_clips())
    if len(voiced) == 1:
        return lambda word: voiced[0][0].id
    clips = [(clip, frozenset().union(*of_each(numbers_of_words, voice.reading.lines))) for clip, voice in voiced]

    def clip_of(word: Word) -> int:
        middle = (word.start_us + word.end_us) // 2
        found = [clip for clip, words in clips if word.id in words]
        heard = (c for c in found if c.start_us + c.slip_us <= middle < c.end_us + c.slip_us)
        return next(heard, found[0]).id if found else 0

    return clip_of


@kept
def numbers_of_words(line: Line) -> frozenset[int]:
    """The lasting numbers of a line's words."""
    return frozenset(word.id for word in line.words)


def placed_turns(st: Soundtrack) -> list[PlacedTurn]:
    """Every turn that a clip plays, in the shot's time and order."""
    out = [
        placed
        for clip, voice in st.voice_clips()
        for placed in of_each(_placed_turn, turns_of(voice.reading), clip)
        if placed
    ]
    return sorted(out, key=attrgetter("turn.start_us", "turn.end_us"))


@kept
def _placed_turn(turn: Turn, clip: Clip) -> PlacedTurn | None:
    """A turn in the shot's time; None if the clip does not play it."""
    by_us = clip.shot_time(0) + clip.slip_us
    start = max(0, max(turn.start_us, clip.in_us) + by_us)
    end = min(turn.end_us, clip.out_us) + by_us
    if end <= start:
        return None
    return PlacedTurn(clip.id, Turn(turn.speaker, start, end, turn.by_hand, turn.id))


def voice_time(st: Soundtrack, clip: Clip, shot_us: int) -> int:
    """The time in a clip's take whose words are at a time of the shot."""
    return clip.take_time(shot_us) - clip.slip_us


def voices_between(st: Soundtrack, start_us: int, end_us: int) -> list[tuple[Clip, Voice]]:
    """The clips with a voice that play in a stretch of the shot."""
    return [(c, v) for c, v in st.voice_clips() if c.start_us < end_us and c.end_us > start_us]
