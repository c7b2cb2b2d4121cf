"""The holds of a shot: always computed from its reading, never stored."""

import hashlib
import json

import numpy as np

from tinfork.apps.cast.models import Drawing
from tinfork.apps.produce.models import Shot
from tinfork.apps.sound.models import Take
from tinfork.core.mouths.sets import Stretch, move_to_sets
from tinfork.core.sheet import Sheet
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve
from tinfork.core.sound import peaks
from tinfork.core.sound.loudness import Loudness
from tinfork.core.speech.reading import Reading

#: The level of the waveform pyramid that loudness is taken from: 16 ms a bin.
_LEVEL = 2


def loudness_of(take: Take) -> Loudness:
    """How loud a take is over time."""
    with take.peaks.open("rb") as file:
        lengths = json.loads(file.readline())["lengths"]
        file.seek(sum(lengths[:_LEVEL]), 1)
        pairs = np.frombuffer(file.read(lengths[_LEVEL]), dtype=np.int8).reshape(-1, 2)
    return Loudness(pairs, peaks.PER_SECOND / peaks.FACTOR**_LEVEL)


def solve_shot(shot: Shot, reading: Reading) -> tuple[Hold, ...]:
    """The mouths of the shot's character on its frames; raises `ChartError` while the chart shows no sounds."""
    rate = shot.production.rate
    first = shot.character.mouth.charts.all()[0].content
    has_sizes = any(d.size for d in first.drawings)
    loudness = loudness_of(shot.take) if has_sizes and shot.take else None
    holds = solve(reading, first, rate, loudness=loudness)
    stretches = [
        Stretch(rate.frame_at(s.start_us), rate.frame_at(s.end_us - 1) + 1, s.chart.name, s.chart.content)
        for s in shot.set_stretches.select_related("chart__part__character").prefetch_related("chart__drawings")
    ]
    return move_to_sets(holds, first, stretches)


def drawings_of(shot: Shot, used: set[tuple[str, int]] | None = None) -> dict[tuple[str, int], Drawing]:
    """The drawings of the shot's character by set ("" the first) and number: those used, or all."""
    out: dict[tuple[str, int], Drawing] = {}
    charts = shot.character.mouth.charts.select_related("part__character").prefetch_related("drawings")
    for at, chart in enumerate(charts):
        for drawing in chart.drawings.all():
            drawing.chart = chart
            key = (chart.name if at else "", drawing.number)
            if used is None or key in used:
                out[key] = drawing
    return out


def look_of(shot: Shot) -> str:
    """A short mark of everything the shot's pictures are made of: it changes when they would."""
    holds = solve_shot(shot, shot.reading.content)
    drawings = drawings_of(shot, {(hold.set, hold.drawing) for hold in holds})
    pictures = [(key, d.picture.name, d.registration, d.chart.part.placement) for key, d in sorted(drawings.items())]
    size = (shot.production.width, shot.production.height, shot.first_frame)
    return hashlib.sha256(repr((holds, pictures, size)).encode()).hexdigest()[:20]


def sheet_of(shot: Shot) -> Sheet:
    """The shot's exposure sheet."""
    reading = shot.reading.content
    return Sheet(reading, solve_shot(shot, reading), shot.production.rate, shot.first_frame)
