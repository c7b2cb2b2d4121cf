"""The second looks of a shot, computed from all its data, the worst first."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from functools import lru_cache
from itertools import chain

from django.db.models import QuerySet

from tinfork.apps.cast.models import Character
from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.produce.models import Shot
from tinfork.apps.pronounce.queries import lexicon_of
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import columns_of, frame_pins, loudness_of, solution_of, with_sets
from tinfork.core.errors import TinForkError
from tinfork.core.kept import kept, of_each
from tinfork.core.solver.looks import (
    Look,
    looks_at_line,
    looks_at_mouths,
    looks_at_sound,
    looks_at_turns,
    lost_pins,
    worst_first,
)
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import Solution
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.lexicon import Lexicon
from tinfork.core.speech.reading import Line, Reading, Turn, Word
from tinfork.core.speech.unworded import BY_EAR, FLAP
from tinfork.engines.spelling import split_words
from tinfork.engines.wording import is_unknown

#: Functions of other apps that add second looks; each app registers its own when it is loaded.
MORE_LOOKS: list[Callable[[Shot], Iterable[Look]]] = []
#: Looks about the sound of recent shots, with the data they were computed from.
_HEARD: RecentCache[int, tuple[tuple[Reading, tuple[Turn, ...], Lexicon, Loudness], list[Look]]] = RecentCache(12)


def looks_of(shot: Shot) -> list[Look]:
    """All second looks, settled or not."""
    return worst_first({look.key: look for look in _all(shot)}.values())


def count_left(shot: Shot) -> int:
    """The number of open second looks of a shot; stored until something changes."""
    row = shot.soundtrack
    if row.looks_left is None:
        remember_left(row, looks_of(shot))
    return row.looks_left or 0


def remember_left(row: Soundtrack, looks: Iterable[Look]) -> None:
    """Store the number of open looks."""
    settled = set(row.settled)
    left = sum(look.key not in settled for look in looks)
    if row.looks_left != left:
        row.looks_left = left
        Soundtrack.objects.filter(pk=row.pk, revision=row.revision).update(looks_left=left)


def count_anew(shots: QuerySet[Shot]) -> None:
    """Invalidate the numbers of shots after changes of drawings, dials or pronunciations."""
    Soundtrack.objects.filter(shot__in=shots).update(looks_left=None)


def _all(shot: Shot) -> Iterator[Look]:
    soundtrack = shot.soundtrack
    reading = soundtrack.reading
    turns = tuple(placed.turn for placed in soundtrack.turns)
    lexicon = lexicon_of(shot.production)
    # An edit of mouths does not change the sound, so these looks stay valid.
    loudness = loudness_of(soundtrack)
    asked = (reading, turns, lexicon, loudness)
    known, heard = _HEARD.get(shot.pk) or (None, [])
    if known and known[2] == lexicon:
        # The looks of each line are cached with the line, per lexicon.
        lexicon = known[2]
    if known != asked:
        heard = list(chain.from_iterable(of_each(_looks_at_line, reading.lines, lexicon)))
        heard += [*looks_at_turns(turns), *looks_at_sound(reading, loudness.levels(reading.duration_us))]
        _HEARD.put(shot.pk, ((reading, turns, lexicon, loudness), heard))
    yield from heard
    for more in MORE_LOOKS:
        yield from more(shot)
    for character in shot.characters:
        _, lost = frame_pins(shot, str(character.pk), character.mouth)
        who = str(character.pk)
        gone = lost_pins((p.start_us, p.end_us, p.mouth.drawing or 0) for p in lost if p.mouth)
        yield from (replace(look, who=who) for look in gone)
        try:
            solution = solution_of(shot, character, reading)
        except TinForkError:
            continue
        yield from (replace(look, who=who) for look in _mouths(shot, character, solution))


@kept
def _looks_at_line(line: Line, lexicon: Lexicon) -> tuple[Look, ...]:
    """The looks in the words of a line."""

    def unknown(word: Word, line: Line) -> bool:
        if line.method in (BY_EAR, FLAP) or lexicon.find(word.text, line.language):
            return False
        return _is_in_no_dictionary(word.text, line.language)

    return looks_at_line(line, unknown)


@lru_cache(50_000)
def _is_in_no_dictionary(text: str, language: str) -> bool:
    spoken = (each for written in split_words(text, language) for each in written.spoken)
    return any(is_unknown(each, language) for each in spoken)


#: Looks about mouths, by the solution and holds they were computed from.
_SEEN: RecentCache[tuple[int, int], tuple[Solution, tuple[Hold, ...], list[Look]]] = RecentCache(24)


def _mouths(shot: Shot, character: Character, solution: Solution) -> list[Look]:
    """The looks about a character's mouths; cached if the character was not edited."""
    holds = with_sets(shot, character, solution)
    key = (shot.pk, character.pk)
    known = _SEEN.get(key)
    if known is None or known[0] is not solution or known[1] != holds:
        known = solution, holds, list(looks_at_mouths(solution, columns_of(solution, holds)))
        _SEEN.put(key, known)
    return known[2]
