"""Words and sounds put right in the shot's time: the word is found by its span there, its voice's reading is edited."""

from collections.abc import Callable
from dataclasses import dataclass

from tinfork.core.errors import TimingError
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.model import Clip, Soundtrack, Voice
from tinfork.core.soundtrack.project import placed_word, voice_time, voices_between
from tinfork.core.speech import handwork
from tinfork.core.speech.handwork import Where
from tinfork.core.speech.reading import Line, Reading


@dataclass(frozen=True, slots=True)
class Found:
    """A word of a voice, heard through a clip."""

    clip: Clip
    voice: Voice
    where: Where
    #: How many of its first sounds the clip cuts off.
    unheard: int = 0

    @property
    def line(self) -> Line:
        """The line it is in."""
        return self.voice.reading.lines[self.where.line]


def find(st: Soundtrack, start_us: int, end_us: int) -> Found:
    """The word of exactly these times in the shot; raises `TimingError` when there is none."""
    for clip, voice in st.voice_clips():
        for number, line in enumerate(voice.reading.lines):
            for at, word in enumerate(line.words):
                placed = placed_word(word, clip, st.duration_us)
                if placed and (placed.start_us, placed.end_us) == (start_us, end_us):
                    unheard = next(n for n, p in enumerate(word.phonemes) if p.end_us > take_start(clip))
                    return Found(clip, voice, Where(number, at), unheard)
    raise TimingError("That word is not there any more: it was moved or taken away meanwhile.")


def take_start(clip: Clip) -> int:
    """The first time of a take's reading that a clip lets be heard."""
    return max(clip.in_us, clip.take_time(0) - clip.slip_us)


def change(st: Soundtrack, found: Found, do: Callable[[Reading], Reading]) -> Soundtrack:
    """The soundtrack with the reading of the word's voice changed."""
    return edits.set_reading(st, found.voice.id, do(found.voice.reading))


def take_time(st: Soundtrack, found: Found, shot_us: int) -> int:
    """A time of the shot in the time of the word's reading."""
    return voice_time(st, found.clip, shot_us)


def add_word(
    st: Soundtrack, speaker: str, text: str, span: tuple[int, int], sounds_in: Callable[[str, str], tuple[str, ...]]
) -> Soundtrack:
    """A word where there was none, in the voice that sounds there and has lines of the speaker, or the first one."""
    under = voices_between(st, *span)
    if not under:
        raise TimingError("There is no voice there that could say it.")
    own = [(c, v) for c, v in under if any(line.speaker == speaker for line in v.reading.lines)]
    clip, voice = (own or under)[0]
    language = next((line.language for line in voice.reading.lines), "en-us")
    low, high = (voice_time(st, clip, max(clip.start_us, min(at, clip.end_us))) for at in span)
    sounds = sounds_in(text, language)
    return edits.set_reading(
        st, voice.id, handwork.add_word(voice.reading, speaker, language, text, (low, high), sounds)
    )
