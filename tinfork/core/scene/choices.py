"""Options that several exporters share, and how they change a shot."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import PurePosixPath

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.scene.exporting import Option, Values
from tinfork.core.scene.scene import Column, Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH, Hold

#: The highest number a frame may have.
MOST_FRAMES = 10_000_000

CHARACTER = Option("character", "Character", "", high=80, hint="by name; empty for the first")
WHO = Option("character", "Character", "", high=80, hint="by name; empty for everyone")
ROWS = Option("rows", "A row for each", "frames", choices=(("frames", "frame"), ("holds", "hold")))
SHOWN = Option(
    "drawings",
    "Drawings by",
    "number",
    choices=(("number", "number"), ("name", "name"), ("key", "key at the Desk"), ("file", "file name")),
)
FIRST = Option("first", "Number of the first frame", None, low=0, high=MOST_FRAMES, hint="the shot's own")
RATE = Option("fps", "Frames a second", "", high=16, hint="the production's")
START = Option("from", "From frame", None, low=0, high=MOST_FRAMES, hint="the first")
END = Option("to", "To frame", None, low=0, high=MOST_FRAMES, hint="the last")


def as_chosen(scene: Scene, values: Values) -> Scene:
    """The shot at the chosen rate and with the chosen number of the first frame, if any."""
    return renumbered(at_chosen_rate(scene, values), values)


def at_chosen_rate(scene: Scene, values: Values) -> Scene:
    """The shot at the chosen rate, if any."""
    return scene.at_rate(FrameRate.parse(str(values["fps"]))) if values.get("fps") else scene


def renumbered(scene: Scene, values: Values) -> Scene:
    """The shot with the chosen number of the first frame, if any."""
    if values.get("first") is not None:
        scene = replace(scene, first_frame=int(values["first"]))
    return scene


def span_of(scene: Scene, values: Values) -> tuple[int, int]:
    """The chosen frames `[first, end)`, counted from 0.

    Raises
    ------
    FormatError
        Outside the shot.
    """
    first, last = values.get("from"), values.get("to")
    start = 0 if first is None else int(first) - scene.first_frame
    end = scene.frames if last is None else int(last) + 1 - scene.first_frame
    if not 0 <= start < end <= scene.frames:
        to = scene.first_frame + scene.frames - 1
        raise FormatError("option.frames_of_shot", first_frame=scene.first_frame, to=to)
    return start, end


def figures_of(scene: Scene, values: Values) -> tuple[Figure, ...]:
    """The chosen character, or all."""
    name = str(values.get("character") or "")
    return (scene.figure(name),) if name else scene.figures


def shown_as(column: Column, how: str) -> Callable[[Hold], str | int]:
    """What a hold's drawing is called: "" for no mouth."""

    def call(hold: Hold) -> str | int:
        sprite = column.sprite(hold)
        if hold.drawing == NO_MOUTH or (sprite is None and how != "number"):
            return ""
        if sprite is None or how == "number":
            return hold.drawing
        if how == "file":
            return file_name(column, sprite.set, sprite.number, sprite.name)
        return sprite.name if how == "name" else sprite.key

    return call


def file_name(column: Column, set_name: str, number: int, name: str, suffix: str = ".png") -> str:
    """The file name of a drawing in an export of pictures: "mouth/sad/05-tongue-up.png"."""
    folder = PurePosixPath(plain(column.name)) / plain(set_name) if set_name else PurePosixPath(plain(column.name))
    return str(folder / f"{number:02d}-{plain(name)}{suffix}")


def plain(text: str) -> str:
    """A text as part of a file name, in any alphabet."""
    kept = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in text.strip())
    return "-".join(part for part in kept.split("-") if part)[:60] or "unnamed"
