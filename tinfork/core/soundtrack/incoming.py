"""Importing a file into a soundtrack: differing mouths become pins, words are moved to their times in the file."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from tinfork.core.clock import FrameRate
from tinfork.core.errors import TimingError
from tinfork.core.scene.incoming import ComingWord, Incoming, differing_holds
from tinfork.core.solver.problem import Hold
from tinfork.core.soundtrack import edits, said
from tinfork.core.soundtrack.model import Clip, PinnedMouth, Soundtrack, Voice
from tinfork.core.soundtrack.pinning import pin_row
from tinfork.core.soundtrack.project import placed_word, voice_time
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word

#: Words of the same text within this time are the same word.
_NEAR_US = 1_500_000
Sounds = Callable[[str, str], tuple[str, ...]]


@dataclass(frozen=True)
class ImportResult:
    """The soundtrack after an import, and what it changed.

    Frames with another mouth, words moved and added, notes that differ, and what could not be placed.
    """

    soundtrack: Soundtrack
    frames: int = 0
    moved: int = 0
    added: int = 0
    notes: int = 0
    lost: tuple[str, ...] = ()


def lay_over(
    st: Soundtrack,
    incoming: Incoming,
    rate: FrameRate,
    columns: Mapping[tuple[str, str], str],
    holds: Callable[[str], tuple[Hold, ...]],
    speakers: Mapping[str, str],
    sounds: Sounds,
) -> ImportResult:
    """Import a file's contents into a soundtrack.

    `columns` are the keys of characters and parts by name, `holds` what each shows now, `speakers` the keys of
    characters by name; `sounds` returns the phonemes of a written word in a language.
    """
    out = ImportResult(st, lost=incoming.lost)
    for names, coming in incoming.holds.items():
        key = columns[names]
        different = differing_holds(holds(key), coming)
        row = [(rate.first_us(h.start), rate.first_us(h.end), PinnedMouth(key, h.drawing, h.set)) for h in different]
        count = sum(h.end - h.start for h in different)
        out = replace(out, soundtrack=pin_row(out.soundtrack, key, row), frames=out.frames + count)
    for word in incoming.words:
        out = _word(out, word, speakers[word.speaker], sounds)
    return _noted(out, incoming.notes, rate)


def _noted(out: ImportResult, notes: Mapping[int, str] | None, rate: FrameRate) -> ImportResult:
    if notes is None:
        return out
    now = {rate.frame_at(note.at_us): note.text for note in out.soundtrack.notes}
    for frame in sorted(now.keys() | notes.keys()):
        if now.get(frame, "") != notes.get(frame, ""):
            span = rate.first_us(frame), rate.first_us(frame + 1)
            st = edits.write_note(out.soundtrack, *span, notes.get(frame, "")[:400])
            out = replace(out, soundtrack=st, notes=out.notes + 1)
    return out


def _word(out: ImportResult, coming: ComingWord, speaker: str, sounds: Sounds) -> ImportResult:
    found = _same(out.soundtrack, coming, speaker)
    try:
        if found is None:
            span = (coming.start_us, coming.end_us)
            st = said.add_word(out.soundtrack, speaker, coming.text, span, sounds)
            return replace(out, soundtrack=st, added=out.added + 1)
        clip, voice, line_at, at = found
        word = voice.reading.lines[line_at].words[at]
        start, end = (voice_time(out.soundtrack, clip, us) for us in (coming.start_us, coming.end_us))
        is_there = (start, end) == (word.start_us, word.end_us) and not _other_sounds(out, coming, clip, word)
        if coming.is_rough or is_there:
            return out
        new = _placed(out.soundtrack, coming, clip, word, start, end)
        reading = _with_word(voice.reading, line_at, at, new)
        return replace(out, soundtrack=edits.set_reading(out.soundtrack, voice.id, reading), moved=out.moved + 1)
    except TimingError as error:
        return replace(out, lost=(*out.lost, f"“{coming.text}” at {coming.start_us / 1e6:.2f} s: {error}"))


def _same(st: Soundtrack, coming: ComingWord, speaker: str) -> tuple[Clip, Voice, int, int] | None:
    """The speaker's nearest word with that text."""
    best, least = None, _NEAR_US
    for clip, voice in st.voice_clips():
        for line_at, line in enumerate(voice.reading.lines):
            if line.speaker != speaker:
                continue
            for at, word in enumerate(line.words):
                placed = placed_word(word, clip, st.duration_us)
                if placed is None or _plain(word.text) != _plain(coming.text):
                    continue
                away = abs(placed.start_us - coming.start_us)
                if away < least:
                    best, least = (clip, voice, line_at, at), away
    return best


def _plain(text: str) -> str:
    return "".join(letter for letter in text.casefold() if letter.isalnum())


def _other_sounds(out: ImportResult, coming: ComingWord, clip: Clip, word: Word) -> bool:
    now = [(p.ipa, p.start_us, p.end_us) for p in word.phonemes]
    return bool(coming.sounds) and now != _sounds_in_voice(out.soundtrack, coming, clip)


def _sounds_in_voice(st: Soundtrack, coming: ComingWord, clip: Clip) -> list[tuple[str, int, int]]:
    return [(ipa, voice_time(st, clip, start), voice_time(st, clip, end)) for ipa, start, end in coming.sounds]


def _placed(st: Soundtrack, coming: ComingWord, clip: Clip, word: Word, start: int, end: int) -> Word:
    """The word at its new times, with the file's sounds, or else its own in proportion."""
    given = _sounds_in_voice(st, coming, clip)
    if given and start <= given[0][1] and given[-1][2] <= end:
        sounds = tuple(Phoneme(ipa, a, b) for ipa, a, b in given)
    else:
        scale = (end - start) / (word.end_us - word.start_us)
        edges = [(p, start + round((p.start_us - word.start_us) * scale)) for p in word.phonemes]
        ends = [start + round((p.end_us - word.start_us) * scale) for p in word.phonemes]
        sounds = tuple(replace(p, start_us=a, end_us=max(a + 1, b)) for (p, a), b in zip(edges, ends, strict=True))
    return replace(word, start_us=start, end_us=end, phonemes=sounds, confidence=1.0, is_pinned=True, heard="")


def _with_word(reading: Reading, line_at: int, at: int, new: Word) -> Reading:
    """The line with a word at another time.

    Raises
    ------
    TimingError
        Where it would lie over its neighbours.
    """
    line: Line = reading.lines[line_at]
    words = (*line.words[:at], new, *line.words[at + 1 :])
    if any(a.end_us > b.start_us for a, b in pairwise(words)):
        raise TimingError("import.would_overlap")
    if new.end_us > reading.duration_us:
        raise TimingError("import.would_end_late")
    lines = (*reading.lines[:line_at], replace(line, words=words), *reading.lines[line_at + 1 :])
    return replace(reading, lines=lines)
