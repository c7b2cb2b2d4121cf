"""Edits of words and sounds in the shot's time: the word is found by its number, and its voice's reading is edited."""

from collections.abc import Callable
from dataclasses import dataclass

from tinfork.core.errors import TimingError
from tinfork.core.kept import of_each
from tinfork.core.soundtrack import edits
from tinfork.core.soundtrack.model import Clip, Soundtrack, Voice
from tinfork.core.soundtrack.project import numbers_of_words, placed_word, voice_time, voices_between
from tinfork.core.speech import handwork
from tinfork.core.speech.handwork import WordPlace
from tinfork.core.speech.reading import Line, Reading


@dataclass(frozen=True, slots=True)
class WordRef:
    """A word of a voice, played by a clip."""

    clip: Clip
    voice: Voice
    where: WordPlace

    @property
    def line(self) -> Line:
        """Its line."""
        return self.voice.reading.lines[self.where.line]

    def sound(self, number: int) -> int:
        """The index of a sound of the word, by its number.

        Raises
        ------
        TimingError
            When it is gone.
        """
        word = handwork.word_at(self.voice.reading, self.where)
        at = next((at for at, sound in enumerate(word.phonemes) if sound.id == number), None)
        if at is None:
            raise TimingError("phoneme.removed")
        return at


def find(st: Soundtrack, number: int, clip_id: int | None = None) -> WordRef:
    """Find a word that is played in the shot by its number, and by its clip if two play it.

    Raises
    ------
    TimingError
        When there is none.
    """
    heard = sorted(st.voice_clips(), key=lambda pair: pair[0].id != clip_id)
    for clip, voice in heard:
        lines = voice.reading.lines
        for line_at, numbers in enumerate(of_each(numbers_of_words, lines)):
            if number not in numbers:
                continue
            for at, word in enumerate(lines[line_at].words):
                if word.id == number and placed_word(word, clip, st.duration_us):
                    return WordRef(clip, voice, WordPlace(line_at, at))
    raise TimingError("word.removed")


def change(st: Soundtrack, found: WordRef, do: Callable[[Reading], Reading]) -> Soundtrack:
    """Change the reading of the word's voice."""
    return edits.set_reading(st, found.voice.id, do(found.voice.reading))


def take_time(st: Soundtrack, found: WordRef, shot_us: int) -> int:
    """A time of the shot as the time of the word's take."""
    return voice_time(st, found.clip, shot_us)


def add_word(
    st: Soundtrack, speaker: str, text: str, span: tuple[int, int], sounds_in: Callable[[str, str], tuple[str, ...]]
) -> Soundtrack:
    """Add a word to a voice that plays there.

    It is the voice that has lines of the speaker, or else the first one.

    Raises
    ------
    TimingError
        Where no voice sounds.
    """
    under = voices_between(st, *span)
    if not under:
        raise TimingError("word.no_voice")
    own = [(c, v) for c, v in under if any(line.speaker == speaker for line in v.reading.lines)]
    clip, voice = (own or under)[0]
    language = next((line.language for line in voice.reading.lines), "en-us")
    low, high = (voice_time(st, clip, max(clip.start_us, min(at, clip.end_us))) for at in span)
    sounds = sounds_in(text, language)
    return edits.set_reading(
        st, voice.id, handwork.add_word(voice.reading, speaker, language, text, (low, high), sounds)
    )
