"""Finding a script's lines in a recording.

The listener hears its words; they are matched with the script by their sounds, and the lines that are found are read
with the script's own words. Lines may be repeated, skipped or out of order; other speech is read as it was heard.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from tinfork.core.errors import WordsError
from tinfork.core.speech.lexicon import Lexicon
from tinfork.core.speech.matching import LineMatch, Sounds, match_lines
from tinfork.core.speech.reading import Line
from tinfork.core.speech.transcript import HeardWord, lines_heard
from tinfork.engines.decode import Sound
from tinfork.engines.reading.reader import Progress, silent_progress
from tinfork.engines.transcribing import (
    NO_WORDS,
    HearingRequest,
    RoughLine,
    as_sure,
    by_ear,
    check_listener,
    heard_in,
    in_order,
    read_heard,
    read_where_said,
)
from tinfork.engines.unworded import kept, voice_of
from tinfork.engines.windows import Samples
from tinfork.engines.wording import LineText, sounds_of

#: The share of the work that hearing takes, for progress.
_HEARING = 0.6
#: The penalty on the fit of a line that is broken off, and of each of its missing words.
_BROKEN_OFF, _UNSAID = 0.5, 0.1


@dataclass(frozen=True, slots=True)
class FoundLines:
    """A line of a recording.

    `number`: the line of the script, None if it is not in the script; `fit`: how well it is said, 1 at best.
    """

    line: Line
    number: int | None = None
    fit: float = 0.0


def find_lines_of_voice(
    voice: Path, script: Sequence[LineText], wanted: HearingRequest, report: Progress
) -> list[FoundLines]:
    """`find_lines` in a file of mono samples at 16 kHz (NumPy's format), for a process of its own."""
    return find_lines(kept(voice), script, wanted, report)


def find_lines(
    sound: Sound, script: Sequence[LineText], wanted: HearingRequest | None = None, progress: Progress = silent_progress
) -> list[FoundLines]:
    """Everything that is said in a sound, in order, matched with the lines of a script.

    Raises
    ------
    SoundError
        For a silent sound.
    WordsError
        Where there is no listener, it does not know the language, or there is nothing to hear.
    """
    wanted = replace(wanted or HearingRequest(), expected=frozenset(line.language for line in script))
    check_listener(wanted.language)
    samples, levels = voice_of(sound)
    windows = []
    for window in heard_in(samples, levels, wanted):
        progress("listen", _HEARING * window.stretches[-1].end_us / sound.duration_us)
        windows.append(window)
    words = [word for window in windows for line in window.lines for word in line.words]
    written = [_sounds(line.text, line.language, wanted.lexicon) for line in script]
    places = match_lines(written, [_sounds(word.text, word.language, wanted.lexicon) for word in words])
    found = list(_of_script(samples, words, places, script, wanted.lexicon))
    progress("align", 0.8)
    left = lines_heard([words[at] for at in _left(places, len(words))])
    found += [FoundLines(as_sure(*both)) for both in read_heard(samples, left, wanted.lexicon)]
    said = [one.line for one in found]
    found += [FoundLines(line) for window in windows for line in by_ear(samples, window, said)]
    if not found:
        raise WordsError(NO_WORDS)
    return _untangled(found)


def _sounds(text: str, language: str, lexicon: Lexicon) -> Sounds:
    """The phonemes of words in IPA; empty for what cannot be pronounced."""
    try:
        return sounds_of(text, language, lexicon)
    except WordsError:
        return ()


def _left(places: Sequence[LineMatch], count: int) -> list[int]:
    """The indices of words outside all matches."""
    taken = {at for place in places for at in range(place.first, place.last)}
    return [at for at in range(count) if at not in taken]


def _of_script(
    samples: Samples,
    words: Sequence[HeardWord],
    places: Sequence[LineMatch],
    script: Sequence[LineText],
    lexicon: Lexicon,
) -> Iterator[FoundLines]:
    """The matches as lines, read with the script's words."""
    rough = [RoughLine(script[p.line], words[p.first].start_us, words[p.last - 1].end_us) for p in places]
    for place, line in zip(places, read_where_said(samples, rough, lexicon, is_checked=True), strict=True):
        if line:
            sure = sum(word.confidence for word in line.words) / len(line.words)
            yield FoundLines(
                line,
                place.line,
                sure - _UNSAID * len(line.missing_words) - place.unlike - _BROKEN_OFF * (not place.is_whole),
            )


def _untangled(found: Sequence[FoundLines]) -> list[FoundLines]:
    """Lines in order of time, without words that start before the end of earlier ones."""
    found = sorted(found, key=lambda one: one.line.start_us)
    lines = in_order([one.line for one in found])
    return [replace(one, line=line) for one, line in zip(found, lines, strict=True) if line.words]
