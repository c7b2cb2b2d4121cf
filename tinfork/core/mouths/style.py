"""The look of drawn mouths: colours, line weight, the kind of character, the mood."""

import re
from dataclasses import dataclass, field, fields

from tinfork.core.errors import ChartError

#: The drawing rules, named by the kind of face they suit.
KINDS = ("soft", "square", "muzzle", "beak")

#: The lightest and heaviest line, in canvas units.
WEIGHTS = (3.0, 16.0)

_COLOUR = re.compile(r"#[0-9a-f]{6}", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Ink:
    """Colours (#rrggbb) and line weight (canvas units) of a chart."""

    line: str = "#2b1a18"
    inside: str = "#5c1a22"
    tongue: str = "#d4706e"
    teeth: str = "#fdf9f0"
    lip: str = "#b5604f"
    weight: float = 8.0

    def __post_init__(self) -> None:
        for part in fields(self):
            value = getattr(self, part.name)
            if part.name != "weight" and not _COLOUR.fullmatch(value):
                raise ChartError("style.not_a_colour", value=value)
        if not WEIGHTS[0] <= self.weight <= WEIGHTS[1]:
            raise ChartError("style.line_weight", weights=WEIGHTS[0], weights2=WEIGHTS[1])


@dataclass(frozen=True, slots=True)
class Mood:
    """`lift` of the corners and `lean` to one side, -1 to 1; `opening` multiplies how far the jaw drops."""

    lift: float = 0.0
    lean: float = 0.0
    opening: float = 1.0

    def __post_init__(self) -> None:
        if not (-1 <= self.lift <= 1 and -1 <= self.lean <= 1 and 0.5 <= self.opening <= 1.6):
            raise ChartError("style.corners_and_lean")


#: Moods to begin with.
MOODS: dict[str, Mood] = {
    "calm": Mood(),
    "glad": Mood(lift=0.7),
    "sad": Mood(lift=-0.7, opening=0.9),
    "sly": Mood(lift=0.15, lean=0.8, opening=0.9),
    "cross": Mood(lift=-0.45, lean=0.25, opening=1.05),
    "shouting": Mood(lift=-0.1, opening=1.4),
}


@dataclass(frozen=True, slots=True)
class Style:
    """A look for a whole chart."""

    ink: Ink = field(default_factory=Ink)
    kind: str = "soft"
    mood: Mood = field(default_factory=Mood)

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ChartError("style.unknown", kind=self.kind, kinds=", ".join(KINDS))
