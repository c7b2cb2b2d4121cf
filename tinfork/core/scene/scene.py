"""The shot as exporters get it: its characters, what each of their columns shows, what is said, and the sound.

Frames count from 0. A `set` is a chart's name, "" the first. Pictures are only read when their bytes are asked for.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.errors import TimingError
from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.motion.curve import FrameKey, pose_on, retimed
from tinfork.core.mouths.chart import ANY, Chart, Drawing
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.layout import Stand, in_order
from tinfork.core.sheet import Sheet
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.speech.reading import Reading


@dataclass(frozen=True, slots=True)
class Sprite:
    """One drawing of a column: its number in its set, its name, its key at the Desk, what it shows, its picture."""

    number: int
    set: str
    name: str
    registration: Registration
    picture: AnyPicture
    key: str = ""
    shows: tuple[str, ...] = ()
    size: int = ANY
    is_hidden: bool = False
    #: The same drawing traced again; the drawing and its tracings are shown in turn.
    tracings: tuple[AnyPicture, ...] = ()

    @property
    def drawing(self) -> Drawing:
        """The chart's drawing."""
        return Drawing(self.number, self.name, self.shows, self.size)


@dataclass(frozen=True, slots=True)
class Face:
    """A face picture, its width by its height, and where the mouth is on it.

    `parts` are the places of other parts, by name, that differ from the usual ones; None for a part that is hidden on
    it. `tracings` take turns with the picture.
    """

    picture: AnyPicture
    aspect: float
    mouth: Placement
    parts: Mapping[str, Placement | None] = field(default_factory=dict, hash=False)
    tracings: tuple[AnyPicture, ...] = ()

    def place_of(self, column: "Column") -> Placement | None:
        """The place of a column's drawings on it; None if they are hidden."""
        if column.is_mouth:
            return self.mouth
        usual = replace(column.place, aspect=self.aspect)
        return self.parts.get(column.name, usual)


@dataclass(frozen=True)
class Column:
    """A mouth, or another part of a face, over the shot: where it is, its drawings by set and number, its holds.

    `kind` is "mouth", "eyes", "pupils", "brows" or "other"; `first_set` what the first set is called.
    """

    name: str
    place: Placement
    sprites: Mapping[tuple[str, int], Sprite]
    holds: tuple[Hold, ...]
    kind: str = "mouth"
    first_set: str = "usual"
    #: How it moves on the face.
    motion: tuple[FrameKey, ...] = ()

    @property
    def is_mouth(self) -> bool:
        """Whether it is the mouth."""
        return self.kind == "mouth"

    def sprite(self, hold: Hold) -> Sprite | None:
        """The drawing of a hold; None for a hidden mouth."""
        return None if hold.drawing == NO_MOUTH else self.sprites.get((hold.set, hold.drawing))

    def used(self) -> list[Sprite]:
        """The drawings that are shown, in the order of sets and numbers."""
        keys = sorted({(hold.set, hold.drawing) for hold in self.holds if hold.drawing != NO_MOUTH})
        return [self.sprites[key] for key in keys if key in self.sprites]


def on_top(column: Column) -> int:
    """The order from the front to the back: the mouth over everything, pupils over the eyes."""
    return {"mouth": 0, "pupils": 1}.get(column.kind, 2)


@dataclass(frozen=True)
class Figure:
    """A character in the shot.

    `columns` has its mouth first; `faces` are the face pictures of sets that have their own. `weights` returns the
    share of each viseme class that the mouth shows on each frame, shape (frames, 15). `chart` and `dials` are what its
    mouth was solved with.
    """

    name: str
    ink: int
    face: Face
    columns: tuple[Column, ...]
    stand: Stand = field(default_factory=Stand)
    faces: Mapping[str, Face] = field(default_factory=dict)
    weights: Callable[[], NDArray[np.float64]] | None = None
    chart: Chart | None = None
    dials: Dials = field(default_factory=Dials)
    #: Whether the face is a real picture, and not the plain head that stands in for one.
    has_face: bool = True
    #: How the whole character moves, and how its face does.
    head_motion: tuple[FrameKey, ...] = ()
    face_motion: tuple[FrameKey, ...] = ()

    @property
    def motions(self) -> dict[str, tuple[FrameKey, ...]]:
        """The keys of everything that moves, by what moves: "head", "face", "mouth", "part " and its name."""
        columns = {"mouth" if column.is_mouth else f"part {column.name}": column.motion for column in self.columns}
        moving = {"head": self.head_motion, "face": self.face_motion, **columns}
        return {part: keys for part, keys in moving.items() if keys}

    def with_motions(self, motions: Mapping[str, tuple[FrameKey, ...]]) -> "Figure":
        """The same figure with these keys; keys of parts that it does not have are ignored."""
        columns = tuple(
            replace(column, motion=motions.get("mouth" if column.is_mouth else f"part {column.name}", ()))
            for column in self.columns
        )
        return replace(self, columns=columns, head_motion=motions.get("head", ()), face_motion=motions.get("face", ()))

    @property
    def mouth(self) -> Column:
        """The column of the mouth."""
        return self.columns[0]


@dataclass(frozen=True, slots=True)
class Ground:
    """What is behind the characters: a picture that fills the frame, or a colour (#rrggbb)."""

    colour: str = "#e9e2d0"
    picture: AnyPicture | None = None


@dataclass(frozen=True)
class Scene:
    """A shot. `sound` is a file with its sound, exactly as long as its frames; `version` what this state is called."""

    production: str
    name: str
    rate: FrameRate
    reading: Reading
    figures: tuple[Figure, ...]
    frames: int
    first_frame: int = 1
    size: tuple[int, int] = (1920, 1080)
    ground: Ground = field(default_factory=Ground)
    notes: Mapping[int, str] = field(default_factory=dict)
    sound: Path | None = None
    version: str = ""
    drop: bool = False
    boil: Boil = field(default_factory=Boil)
    #: At another rate: the frame of the shot that each frame shows, so that lines boil as they do there.
    own_frames: tuple[int, ...] = ()

    @property
    def drawn_figures(self) -> list[Figure]:
        """The characters in drawing order, from the back to the front."""
        return [self.figures[n] for n in in_order([figure.stand for figure in self.figures])]

    @cached_property
    def holds_by_name(self) -> dict[str, tuple[Hold, ...]]:
        """The holds of each character's mouth."""
        return {figure.name: figure.mouth.holds for figure in self.figures}

    def figure(self, name: str) -> Figure:
        """A character by name, "" the first.

        Raises
        ------
        TimingError
            For somebody else.
        """
        found = next((f for f in self.figures if not name or f.name == name), None)
        if found is None:
            raise TimingError("scene.no_such_character", name=name, names=", ".join(f.name for f in self.figures))
        return found

    def sheet(self, figure: Figure) -> Sheet:
        """The exposure sheet of one character; a part with one drawing has no column: nothing is exchanged."""
        others = {column.name: column.holds for column in figure.columns[1:] if len(column.sprites) > 1}
        return Sheet(
            self.reading,
            figure.mouth.holds,
            self.rate,
            self.first_frame,
            self.drop,
            others=others,
            notes=self.notes,
        )

    def posed_as_on(self, frame: int) -> "Scene":
        """The same shot with every pose fixed to that of one frame."""

        def posed(figure: Figure) -> Figure:
            moved = {part: (FrameKey(0, pose_on(keys, frame), "hold"),) for part, keys in figure.motions.items()}
            return figure.with_motions(moved)

        return replace(self, figures=tuple(map(posed, self.figures)))

    def until(self, frames: int) -> "Scene":
        """The shot cut to its first frames."""
        frames = min(frames, self.frames)

        def cut(column: Column) -> Column:
            held = (replace(h, end=min(h.end, frames)) for h in column.holds if h.start < frames)
            return replace(column, holds=tuple(held))

        def weighed(figure: Figure) -> Callable[[], NDArray[np.float64]] | None:
            of = figure.weights
            return (lambda: of()[:frames]) if of else None

        figures = tuple(
            replace(figure, columns=tuple(map(cut, figure.columns)), weights=weighed(figure)) for figure in self.figures
        )
        return replace(self, frames=frames, figures=figures)

    def at_rate(self, rate: FrameRate) -> "Scene":
        """The same shot at another rate: each frame shows exactly what the shot shows when the frame begins."""
        if rate == self.rate:
            return self
        frames = rate.frames_in(self.rate.first_us(self.frames))

        def moved(holds: tuple[Hold, ...]) -> tuple[Hold, ...]:
            edges = [_first_at(rate, self.rate.first_us(hold.start)) for hold in holds] + [frames]
            pairs = zip(holds, edges, edges[1:], strict=False)
            return tuple(replace(hold, start=start, end=end) for hold, start, end in pairs if start < end)

        def weighed(figure: Figure) -> Callable[[], NDArray[np.float64]] | None:
            of = figure.weights
            if of is None:
                return None
            at = np.array([self.rate.frame_at(rate.first_us(n)) for n in range(frames)], dtype=np.int64)
            return lambda: of()[np.minimum(at, self.frames - 1)]

        times = [self.rate.frame_at(rate.first_us(n)) for n in range(frames)]
        figures = tuple(
            replace(
                figure,
                columns=tuple(
                    replace(column, holds=moved(column.holds), motion=retimed(column.motion, times))
                    for column in figure.columns
                ),
                head_motion=retimed(figure.head_motion, times),
                face_motion=retimed(figure.face_motion, times),
                weights=weighed(figure),
            )
            for figure in self.figures
        )
        notes = {rate.frame_at(self.rate.first_us(frame)): text for frame, text in self.notes.items()}
        drop = self.drop and rate.can_drop
        own = tuple(self.own_frame(frame) for frame in times)
        return replace(self, rate=rate, frames=frames, figures=figures, notes=notes, drop=drop, own_frames=own)

    def own_frame(self, frame: int) -> int:
        """The frame at the shot's own rate that a frame shows."""
        return self.own_frames[min(frame, len(self.own_frames) - 1)] if self.own_frames else frame


def _first_at(rate: FrameRate, time_us: int) -> int:
    """The first frame that begins at a time or later."""
    frame = rate.frame_at(time_us)
    return frame if rate.first_us(frame) >= time_us else frame + 1
