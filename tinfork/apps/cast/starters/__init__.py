"""The characters that every studio starts with: our own drawings, and the places of their mouths."""

from dataclasses import dataclass
from importlib.resources import files

from tinfork.core.mouths.placement import Placement
from tinfork.core.mouths.style import Ink


@dataclass(frozen=True, slots=True)
class Starter:
    """A starter character."""

    name: str
    ink: int
    file: str
    placement: Placement
    mouth_ink: Ink

    @property
    def face_svg(self) -> str:
        """The face, on a transparent ground."""
        return files(__name__).joinpath(self.file).read_text("utf-8")


STARTERS = (
    Starter("Odalys", 1, "odalys.svg", Placement(0.5, 0.654, 0.544, 1000 / 820), Ink()),
    Starter(
        "Brindle", 2, "brindle.svg", Placement(0.5, 0.7127, 0.4622, 900 / 830), Ink(inside="#4a1520", tongue="#c9605f")
    ),
)
