"""Edits of what lies beside a shot's soundtrack: sets of mouths, dials, where characters stand, second looks."""

from typing import Annotated

from msgspec import Meta

from tinfork.core.commands.declared import Frame, Key, SideCommand, Speaker
from tinfork.core.errors import FormatError
from tinfork.core.scene.boil import MOST_RHYTHM
from tinfork.core.scene.layout import SIZES, Stand


class ShowSet(SideCommand, frozen=True):
    """Show a set (`chart`) of its character's mouths on frames; the first set takes them back."""

    chart: Key
    first: Frame
    last: Frame


class TurnDials(SideCommand, frozen=True):
    """Turn dials of a character: some of them (`values`), all as a preset has them, or the production's again."""

    speaker: Speaker
    values: Annotated[dict[str, int | bool], Meta(max_length=20)] | None = None
    preset: Annotated[str, Meta(max_length=40, pattern=r"\S")] | None = None
    usual: bool = False


class StandCharacter(SideCommand, frozen=True):
    """Place a character in the shot's picture; `usual`: where it would stand if nobody had placed it."""

    speaker: Speaker
    x: Annotated[float, Meta(ge=-2, le=3)] | None = None
    y: Annotated[float, Meta(ge=-2, le=3)] | None = None
    size: Annotated[float, Meta(ge=SIZES[0], le=SIZES[1])] | None = None
    turn: Annotated[float, Meta(ge=-180, le=180)] | None = None
    mirrored: bool = False
    depth: Annotated[int, Meta(ge=-99, le=99)] = 0
    usual: bool = False

    @property
    def stand(self) -> Stand | None:
        """The place, or None for the usual one.

        Raises
        ------
        FormatError
            For half of one.
        """
        if self.usual:
            return None
        if self.x is None or self.y is None or self.size is None or self.turn is None:
            raise FormatError("layout.stand_incomplete")
        return Stand(self.x, self.y, self.size, self.turn, self.mirrored, self.depth)


class PaintGround(SideCommand, frozen=True):
    """Put a colour (#rrggbb) behind everyone; with `clear` the background picture goes."""

    colour: Annotated[str, Meta(max_length=7)]
    clear: bool = False


class BoilLines(SideCommand, frozen=True):
    """Let the lines of everyone's drawings boil: how much, and for how many frames each variant is seen."""

    strength: Annotated[int, Meta(ge=0, le=100)]
    rhythm: Annotated[int, Meta(ge=1, le=MOST_RHYTHM)] = 2


class SettleLook(SideCommand, frozen=True):
    """Mark a second look as settled until its cause changes, or `open` it again."""

    key: Annotated[str, Meta(max_length=16)]
    open: bool = False


BESIDE: dict[str, type[SideCommand]] = {
    "set": ShowSet,
    "dials": TurnDials,
    "stand": StandCharacter,
    "ground": PaintGround,
    "boil": BoilLines,
    "settle": SettleLook,
}
