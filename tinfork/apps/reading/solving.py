"""The holds of a shot: computed from its reading, never stored."""

from dataclasses import replace

from django.db.models import Prefetch, prefetch_related_objects

from tinfork.apps.cast.models import Character, Drawing, Part
from tinfork.apps.common.recent_cache import RecentCache
from tinfork.apps.produce.models import Shot, ShotCharacter
from tinfork.apps.reading.models import SetStretch, Soundtrack
from tinfork.apps.reading.waveform import shot_peaks
from tinfork.core.mouths.sets import SetSpan, move_to_sets
from tinfork.core.solver.dials import Dials, dials_from
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.problem import NO_MOUTH, FramePin, Hold
from tinfork.core.solver.segments import lines_of
from tinfork.core.solver.solve import Solution, pinned_holds, solve_incrementally
from tinfork.core.sound import peaks
from tinfork.core.sound.loudness import Loudness
from tinfork.core.soundtrack.model import Pin
from tinfork.core.soundtrack.pinning import mouth_pins
from tinfork.core.speech.reading import Reading
from tinfork.core.speech.unworded import flapping
from tinfork.core.speech.visemes import REST

#: The level of the waveform pyramid that gives the loudness: 16 ms a bin.
_LEVEL = 2


def with_cast(shot: Shot) -> Shot:
    """The shot with everything that its mouths need, prefetched."""
    prefetch_related_objects(
        [shot],
        Prefetch("parts", ShotCharacter.objects.select_related("character"), to_attr="fetched_cast"),
        Prefetch("set_stretches", SetStretch.objects.all(), to_attr="fetched_stretches"),
        "fetched_cast__character__parts__charts__drawings",
        "fetched_stretches__chart__drawings",
    )
    return shot


def is_fetched(shot: Shot) -> bool:
    """Whether the shot has the prefetched rows of `with_cast`."""
    return hasattr(shot, "fetched_cast")


def loudness_of(soundtrack: Soundtrack) -> Loudness:
    """The loudness of a shot's voices over time."""
    pairs = shot_peaks(soundtrack, voices_only=True)[_LEVEL]
    known = _LOUD.get(soundtrack.pk)
    if known is None or known.peaks is not pairs:
        known = Loudness(pairs, peaks.PER_SECOND / peaks.FACTOR**_LEVEL)
        _LOUD.put(soundtrack.pk, known)
    return known


#: The loudness of recent shots.
_LOUD: RecentCache[int, Loudness] = RecentCache(16)


def dials_of(shot: Shot, character: Character) -> Dials:
    """A character's dials in a shot: its own, over the production's."""
    usual = dials_from(shot.production.dials)
    part = next((p for p in shot.cast_rows if p.character_id == character.pk), None)
    return dials_from(part.dials, usual) if part else usual


def solve_character(shot: Shot, character: Character, reading: Reading) -> tuple[Hold, ...]:
    """Solve a character's mouths; raises `ChartError` if the chart shows no sounds."""
    return with_sets(shot, character, solution_of(shot, character, reading))


def solution_of(shot: Shot, character: Character, reading: Reading) -> Solution:
    """Solve a character's mouths with its first set; returns the whole solution."""
    first = character.mouth.charts.all()[0].content
    dials = dials_of(shot, character)
    speaker = str(character.pk)
    needs_levels = dials.by_loudness or (dials.strength and any(d.size for d in first.drawings))
    loudness = loudness_of(shot.soundtrack) if needs_levels else None
    if dials.by_loudness and loudness:
        reading = flapping(reading, loudness.levels(reading.duration_us), speaker, seed=character.pk)
    pins, _ = frame_pins(shot, speaker, character.mouth)
    key = (shot.pk, character.pk)
    # What others say does not change this character's mouths.
    own = lines_of(reading, speaker)
    asked = (own, reading.duration_us, first, shot.production.rate, dials, loudness, pins)
    last, before = _LAST.get(key) or (None, None)
    if before and last == asked:
        return before
    worked = solve_incrementally(
        reading,
        first,
        shot.production.rate,
        speaker=speaker,
        dials=dials,
        loudness=loudness,
        pins=pins,
        before=before,
        same_sounds=bool(last and last[:-1] == asked[:-1]),
    )
    _LAST.put(key, (asked, worked))
    return worked


#: Recent solutions in this process with their inputs: reused if nothing changed, and the start of solving after an
#: edit. They only save time.
_LAST: RecentCache[tuple[int, int], tuple[tuple[object, ...], Solution]] = RecentCache(24)


def frame_pins(shot: Shot, who: str, part: Part) -> tuple[tuple[FramePin, ...], tuple[Pin, ...]]:
    """The pins on frames of a character, or of another part of a face, and the lost ones, whose drawing was deleted."""
    own, rate = mouth_pins(shot.soundtrack.content, who), shot.production.rate
    drawings = frozenset(drawings_of(part))
    asked = own, rate, drawings
    last, found = _PINNED.get((shot.pk, who)) or (None, ((), ()))
    if last != asked:
        pins: list[FramePin] = []
        lost: list[Pin] = []
        for pin in own:
            mouth = pin.mouth
            if mouth is None:
                continue
            if mouth.drawing not in (None, NO_MOUTH) and (mouth.set, mouth.drawing) not in drawings:
                lost.append(pin)
                continue
            first, end = rate.nearest_span(pin.start_us, pin.end_us)
            pins.append(FramePin(first, end, mouth.drawing, mouth.set, mouth.is_exact))
        found = tuple(pins), tuple(lost)
        _PINNED.put((shot.pk, who), (asked, found))
    return found


#: Recent pins on frames, with their inputs.
_PINNED: RecentCache[tuple[int, str], tuple[object, tuple[tuple[FramePin, ...], tuple[Pin, ...]]]] = RecentCache(48)


def with_sets(shot: Shot, character: Character, solution: Solution) -> tuple[Hold, ...]:
    """The holds as shown, with the stretches of other sets."""
    rate = shot.production.rate
    charts = {chart.pk for chart in character.mouth.charts.all()}
    stretches = [
        SetSpan(*rate.nearest_span(s.start_us, s.end_us), s.chart.name, s.chart.content)
        for s in shot.stretch_rows
        if s.chart_id in charts
    ]
    return move_to_sets(solution.holds, solution.chart, stretches) if stretches else solution.holds


def columns_of(solution: Solution, holds: tuple[Hold, ...]) -> HoldColumns:
    """The holds of a solution as shown (`with_sets`), as arrays."""
    return solution.columns if holds is solution.holds else HoldColumns.of(holds)


def other_parts(shot: Shot) -> list[Part]:
    """The parts of the shot's faces, besides mouths, that have drawings: eyes, brows."""
    parts = [part for character in shot.characters for part in character.parts.all() if not part.speaks]
    return [part for part in parts if any(chart.drawings.all() for chart in part.charts.all())]


def part_key(part: Part) -> str:
    """The key of a part's column; that of a mouth is the character's id."""
    return f"-{part.pk}"


def part_holds(shot: Shot, part: Part) -> tuple[Hold, ...]:
    """The holds of another part: those set by hand, and its first drawing elsewhere."""
    pins, _ = frame_pins(shot, part_key(part), part)
    usual = min(drawings_of(part), key=lambda key: (key[0] != "", key[1]))
    return pinned_holds(pins, shot.production.rate.frames_in(shot.soundtrack.reading.duration_us), usual[1])


def drawings_of(part: Part, used: set[tuple[str, int]] | None = None) -> dict[tuple[str, int], Drawing]:
    """The drawings of a part by set ("" the first) and number: those used, or all."""
    out: dict[tuple[str, int], Drawing] = {}
    for at, chart in enumerate(part.charts.all()):
        for drawing in chart.drawings.all():
            drawing.chart = chart
            key = (chart.name if at else "", drawing.number)
            if used is None or key in used:
                out[key] = drawing
    return out


def named_reading(shot: Shot) -> Reading:
    """The shot's reading with the names of its speakers, for exports."""
    names = {str(c.pk): c.name for c in shot.characters}
    reading = shot.soundtrack.reading
    lines = tuple(
        replace(
            line,
            speaker=names.get(line.speaker, line.speaker),
            co_speakers=tuple(names.get(s, s) for s in line.co_speakers),
        )
        for line in reading.lines
    )
    return replace(reading, lines=lines)


def notes_of(shot: Shot) -> dict[int, str]:
    """The notes of a shot by frame, counted from 0."""
    rate = shot.production.rate
    return {rate.frame_at(note.at_us): note.text for note in shot.soundtrack.content.notes}


def pinned_classes(shot: Shot, character: Character) -> list[tuple[int, int, str]]:
    """The frames `[first, end)` with a pinned mouth, and the class that is shown there."""
    pins, _ = frame_pins(shot, str(character.pk), character.mouth)
    drawings = {key: drawing.content for key, drawing in drawings_of(character.mouth).items()}
    return [
        (pin.start, pin.end, REST if pin.drawing == NO_MOUTH else drawings[pin.set, pin.drawing].viseme)
        for pin in pins
        if pin.is_exact and pin.drawing is not None
    ]
