"""The place of a remark: anchored to a word, with which it moves when the shot is retimed; and the mouths there."""

import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.solving import other_parts, part_holds, solve_character, with_cast
from tinfork.apps.review.models import Remark
from tinfork.core.errors import TinForkError
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import drawing_on
from tinfork.core.soundtrack.project import clips_of_words


@dataclass(frozen=True, slots=True)
class Anchor:
    """A word as played by a clip, and the time after its start (microseconds); 0, 0: no word."""

    word: int = 0
    clip: int = 0
    offset_us: int = 0


def words_by_clip(shot: Shot) -> dict[tuple[int, int], tuple[int, int]]:
    """Start and end (microseconds of the shot) of each word, by its number and that of its clip."""
    clip_of = clips_of_words(shot.soundtrack.content)
    words = shot.soundtrack.reading.words()
    return {(word.id, clip_of(word)): (word.start_us, word.end_us) for word in words if word.id}


def anchor_at(words: Mapping[tuple[int, int], tuple[int, int]], at_us: int) -> Anchor:
    """The word at a time, or else the nearest one."""
    if not words:
        return Anchor()

    def away(key: tuple[int, int]) -> tuple[int, int]:
        start, end = words[key]
        return max(0, start - at_us, at_us - end + 1), start

    word, clip = min(words, key=away)
    return Anchor(word, clip, at_us - words[word, clip][0])


def place_of(remark: Remark, words: Mapping[tuple[int, int], tuple[int, int]]) -> tuple[int, int]:
    """Start and end of a remark in the current shot: at its word, or else unchanged."""
    length = max(1, remark.end_us - remark.at_us)
    found = words.get((remark.word, remark.clip)) if remark.word else None
    start = max(0, found[0] + remark.offset_us) if found else remark.at_us
    return start, start + length


def mouths_shown(shot: Shot, start_us: int, end_us: int) -> str:
    """A hash of the drawings that a shot shows in a stretch; empty if nothing can be shown."""
    rate = shot.production.rate
    first, last = rate.frame_at(start_us), rate.frame_at(max(start_us, end_us - 1))
    try:
        shown = [[_drawing(holds, at) for at in range(first, last + 1)] for holds in _columns(with_cast(shot))]
    except TinForkError:
        return ""
    return hashlib.sha256(repr(shown).encode()).hexdigest()[:16]


def _drawing(holds: tuple[Hold, ...], frame: int) -> tuple[str, int] | None:
    if not holds or frame >= holds[-1].end:
        return None
    hold = drawing_on(holds, frame)
    return hold.set, hold.drawing


def _columns(shot: Shot) -> Iterator[tuple[Hold, ...]]:
    for character in shot.characters:
        yield solve_character(shot, character, shot.soundtrack.reading)
    for part in other_parts(shot):
        yield part_holds(shot, part)
