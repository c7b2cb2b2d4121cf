"""The holds of a shot: always computed from its reading, never stored."""

from tinfork.apps.produce.models import Shot
from tinfork.core.sheet import Sheet
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve
from tinfork.core.speech.reading import Reading


def solve_shot(shot: Shot, reading: Reading) -> tuple[Hold, ...]:
    """The mouths of the shot's character on its frames."""
    return solve(reading, shot.character.chart, shot.production.rate)


def sheet_of(shot: Shot) -> Sheet:
    """The shot's exposure sheet."""
    reading = shot.reading.content
    return Sheet(reading, solve_shot(shot, reading), shot.production.rate, shot.first_frame)
