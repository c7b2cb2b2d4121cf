"""How a character's mouth is timed: the dials, their limits, and presets."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from tinfork.core.errors import SolverError


@dataclass(frozen=True, slots=True)
class Dials:
    """How a character's mouth is timed.

    `lead`: frames by which the mouth leads the sound. `shortest`: least frames of a hold. `detail`: 0 (a few accents)
    to 100 (every sound). `gap_us`: the least silence that closes the mouth. `strength`: 0 to 100, how far loudness
    opens it (50: as measured). `approach`: frames that approach a wide mouth. `by_loudness`: the mouth flaps with the
    loudness, whatever the words; for crowds. `grid`: holds begin on every frame (1), every second or every third one,
    counted from the first.
    """

    lead: int = 1
    shortest: int = 2
    detail: int = 50
    gap_us: int = 220_000
    strength: int = 50
    approach: int = 1
    by_loudness: bool = False
    grid: int = 1

    def __post_init__(self) -> None:
        for name, dial in DIALS.items():
            value = getattr(self, name)
            if not isinstance(value, int) or not dial.low <= value <= dial.high:
                raise SolverError("settings.outside", name=name, low=dial.low, high=dial.high)

    @property
    def change_cost(self) -> float:
        """The cost of a new drawing, in frames of a wrong vowel: the more detail, the less; 0 at full detail."""
        return 0.0 if self.detail == 100 else 0.16 * 10 ** ((50 - self.detail) / 40)


@dataclass(frozen=True, slots=True)
class Dial:
    """A dial: its limits (`low`, `high`), and how it is shown.

    A slider offers `shown_low` to `shown_high`, if that is less, in steps of `step`. The number shown is the value
    divided by `per_unit`, followed by `unit`.
    """

    label: str
    does: str
    low: int
    high: int
    unit: str = ""
    step: int = 1
    per_unit: int = 1
    shown_low: int | None = None
    shown_high: int | None = None

    @property
    def offered(self) -> tuple[int, int]:
        """The limits of a slider, in the unit shown."""
        low = self.low if self.shown_low is None else self.shown_low
        high = self.high if self.shown_high is None else self.shown_high
        return low // self.per_unit, high // self.per_unit


#: Every numeric dial, by its field of `Dials`, in the order in which they are offered. The values that may be stored,
#: and those that pages and the command line offer, follow from this table.
DIALS: dict[str, Dial] = {
    "lead": Dial("Lead", "How many frames the mouth moves before the sound", 0, 12, " fr"),
    "shortest": Dial(
        "Shortest hold", "Shortest time a mouth is held: 1 is on ones, 2 is on twos", 1, 48, " fr", shown_high=12
    ),
    "grid": Dial(
        "Locked on",
        "Mouths start only on every second, third or fourth frame, counted from the first",
        1,
        4,
        " fr",
    ),
    "detail": Dial("Detail", "From a few accents to every sound", 0, 100, step=5),
    "gap_us": Dial(
        "Closes after",
        "Length of silence that brings the mouth to rest",
        0,
        5_000_000,
        " ms",
        step=20,
        per_unit=1000,
        shown_low=40_000,
        shown_high=1_000_000,
    ),
    "strength": Dial("Strength", "How much loudness opens the mouth, if it is drawn in sizes", 0, 100, step=5),
    "approach": Dial("Approach", "Frames of in-between before a wide mouth", 0, 4, " fr"),
}

#: Built-in presets.
PRESETS: dict[str, Dials] = {
    "on ones, full": Dials(lead=1, shortest=1, detail=85, gap_us=160_000, strength=60, approach=2),
    "on twos": Dials(),
    "locked on twos": Dials(grid=2),
    "sparse, on threes": Dials(lead=2, shortest=3, detail=25, gap_us=320_000, strength=50, approach=0),
    "few accents": Dials(lead=2, shortest=4, detail=5, gap_us=420_000, strength=70, approach=0),
    "flap": Dials(lead=0, shortest=2, detail=40, approach=0, by_loudness=True),
}


def dials_from(values: Mapping[str, object], usual: Dials | None = None) -> Dials:
    """Dials from plain values; those that are missing are taken from `usual`.

    Raises
    ------
    SolverError
        For values that are none.
    """
    known = {name: value for name, value in values.items() if name in DIALS or name == "by_loudness"}
    if not all(isinstance(value, int) for value in known.values()):
        raise SolverError("settings.not_whole")
    return replace(usual or Dials(), **known)  # type: ignore[arg-type]
