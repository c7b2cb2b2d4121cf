"""Edits of a shot's settings, beside its soundtrack: sets of mouths, dials, layout, second looks."""

from typing import Annotated

from msgspec import Meta

from tinfork.core.commands.declared import Frame, Key, SettingsCommand, Speaker
from tinfork.core.errors import FormatError
from tinfork.core.scene.boil import MOST_RHYTHM
from tinfork.core.scene.layout import SIZES, Stand


class ShowSet(SettingsCommand, frozen=True):
    """Show a set (`chart`) of its character's mouths on frames; the first set resets them."""

    chart: Key
    first: Frame
    last: Frame


class TurnDials(SettingsCommand, frozen=True):
    """Change dials of a character: some of them (`values`), all of them to a preset, or back to the production's."""

    speaker: Speaker
    values: Annotated[dict[str, int | bool], Meta(max_length=20)] | None = None
    preset: Annotated[str, Meta(max_length=40, pattern=r"\S")] | None = None
    usual: bool = False


class StandCharacter(SettingsCommand, frozen=True):
    """Place a character in the shot's picture; `usual` resets it to its default place."""

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
        """The place, or None for the default.

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


class PaintGround(SettingsCommand, frozen=True):
    """Set the background colour (#rrggbb); `clear` removes the background picture."""

    colour: Annotated[str, Meta(max_length=7)]
    clear: bool = False


class BoilLines(SettingsCommand, frozen=True):
    """Set how the lines of all drawings boil: the strength, and the frames for which each variant is shown."""

    strength: Annotated[int, Meta(ge=0, le=100)]
    rhythm: Annotated[int, Meta(ge=1, le=MOST_RHYTHM)] = 2


class SettleLook(SettingsCommand, frozen=True):
    """Settle a second look until its cause changes, or reopen it with `open`."""

    key: Annotated[str, Meta(max_length=16)]
    open: bool = False


SETTINGS: dict[str, type[SettingsCommand]] = {
    "set": ShowSet,
    "dials": TurnDials,
    "stand": StandCharacter,
    "ground": PaintGround,
    "boil": BoilLines,
    "settle": SettleLook,
}
