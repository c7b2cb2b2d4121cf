"""What is drawn on each frame of a shot, and where: the list that movies, pictures and vector formats are made from."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from enum import Enum

from tinfork.core.formats.picture_zip import AnyPicture
from tinfork.core.motion.bend import STRAIGHT, Bend
from tinfork.core.motion.curve import moving_frames, pose_on
from tinfork.core.motion.pose import NEUTRAL, Pose, pose_matrix
from tinfork.core.scene.boil import VARIANTS, Boil, Variant, drawing_width
from tinfork.core.scene.layout import Affine, drawing_matrix, figure_matrix
from tinfork.core.scene.scene import Column, Figure, Scene
from tinfork.core.solver.problem import Hold


class DrawnParts(Enum):
    """Which pictures of the characters are drawn."""

    ALL = "all"
    #: Faces without the drawings that are exchanged on them.
    FACES = "faces"
    #: The exchanged drawings, without the faces.
    PARTS = "parts"
    #: Mouths alone.
    MOUTHS = "mouths"


@dataclass(frozen=True, slots=True)
class Placed:
    """A picture of `size` pixels, and the affine map from its pixels to those of the frame.

    `key` identifies it: the character, the column ("" the face), the set and the number of the drawing. `variant` is
    that of boiling lines; `bend` is how it is bent.
    """

    key: tuple[str, str, str, int]
    picture: AnyPicture
    matrix: Affine
    size: tuple[float, float]
    variant: Variant | None = None
    bend: Bend = STRAIGHT


@dataclass(frozen=True, slots=True)
class ShownPicture:
    """A picture at one place, with the spans of frames `[start, end)` on which it is seen."""

    placed: Placed
    spans: tuple[tuple[int, int], ...]


class _Cursor:
    """Finds the hold of a column on frames that are asked for in ascending order."""

    def __init__(self, column: Column) -> None:
        self._holds, self._at = column.holds, 0

    def on(self, frame: int) -> Hold | None:
        while self._at + 1 < len(self._holds) and self._holds[self._at].end <= frame:
            self._at += 1
        return self._holds[self._at] if self._holds else None


def segments(
    scene: Scene, size: tuple[int, int], what: DrawnParts = DrawnParts.ALL, only: str = "", *, boils: bool = False
) -> Iterator[tuple[int, int, tuple[Placed, ...]]]:
    """Stretches of frames `[start, end)` on which the picture does not change, and what is drawn on them.

    Drawings are listed from the back to the front, in a frame of `size` pixels. `only` limits them to one character;
    with `boils` lines boil as set for the shot.
    """
    figures = [f for f in scene.drawn_figures if not only or f.name == only]
    boil = scene.boil
    boils = boils and (boil.is_on or any(map(_is_traced, figures)))
    edges = {0, *(hold.start for f in figures for column in f.columns for hold in column.holds)}
    edges |= {frame for f in figures for keys in f.motions.values() for frame in moving_frames(keys, scene.frames)}
    turns: list[int] = []
    if boils:
        turns = [boil.turn_on(scene.own_frame(frame)) for frame in range(scene.frames)]
        edges |= {frame for frame in range(1, scene.frames) if turns[frame] != turns[frame - 1]}
    starts = sorted(edge for edge in edges if edge < scene.frames)
    cursors = {id(column): _Cursor(column) for f in figures for column in f.columns}
    known: dict[tuple[object, ...], list[Placed]] = {}
    last: tuple[int, tuple[Placed, ...]] | None = None
    for start in starts:
        drawn: list[Placed] = []
        for figure in figures:
            holds = tuple(cursors[id(column)].on(start) for column in figure.columns)
            poses = {part: pose_on(keys, start) for part, keys in figure.motions.items()}
            turn = turns[start] % _TURNS if boils else -1
            seen = (figure.name, turn, *((h.set, h.drawing) if h else None for h in holds), *poses.values())
            if seen not in known:
                placed = _figure(figure, holds, poses, size, what)
                known[seen] = [_boiling(one, figure, boil, turn) for one in placed] if boils else list(placed)
            drawn += known[seen]
        if last and last[1] == tuple(drawn):
            continue
        if last:
            yield last[0], start, last[1]
        last = start, tuple(drawn)
    if last:
        yield last[0], scene.frames, last[1]


def _is_traced(figure: Figure) -> bool:
    """Whether any picture of a figure has tracings."""
    if any(face.tracings for face in (figure.face, *figure.faces.values())):
        return True
    return any(sprite.tracings for column in figure.columns for sprite in column.sprites.values())


#: After this many turns all tracings and variants start over: a drawing has up to eight.
_TURNS = 840


def _boiling(placed: Placed, figure: Figure, boil: Boil, turn: int) -> Placed:
    """The drawing with the tracing, or the variant of its lines, whose turn it is."""
    wide = placed.size[0] / placed.size[1]
    column = next((column for column in figure.columns if column.name == placed.key[1]), None)
    sprite = column.sprites[placed.key[2], placed.key[3]] if column else None
    tracings = (sprite or figure.faces.get(placed.key[2], figure.face)).tracings
    if tracings:
        return replace(placed, picture=(placed.picture, *tracings)[turn % (1 + len(tracings))])
    if column and sprite:
        wide = drawing_width(replace(column.place, aspect=figure.face.aspect), sprite.registration)
    variant = Variant(boil.strength, turn % VARIANTS, round(wide, 4))
    return replace(placed, variant=variant) if boil.is_on else placed


def _figure(
    figure: Figure,
    holds: tuple[Hold | None, ...],
    poses: Mapping[str, Pose],
    size: tuple[int, int],
    what: DrawnParts,
) -> Iterator[Placed]:
    shown = holds[0].set if holds and holds[0] else ""
    face = figure.faces.get(shown, figure.face)
    matrix, box = figure_matrix(figure.stand, face.aspect, size)
    # The whole character moves about the middle of its lower edge; the face picture about its own middle.
    matrix @= pose_matrix(poses.get("head", NEUTRAL), (box[0] / 2, box[1]), box[1])
    if what in (DrawnParts.ALL, DrawnParts.FACES):
        yield Placed((figure.name, "", shown if shown in figure.faces else "", 0), face.picture, matrix, box)
    if what == DrawnParts.FACES:
        return
    matrix @= pose_matrix(poses.get("face", NEUTRAL), (box[0] / 2, box[1] / 2), box[1])
    # The mouth is drawn last, over everything else on the face.
    for column, hold in reversed(list(zip(figure.columns, holds, strict=True))):
        sprite = column.sprite(hold) if hold else None
        if sprite is None or (what == DrawnParts.MOUTHS and not column.is_mouth):
            continue
        place = face.place_of(column)
        if place is None:
            continue
        pose = poses.get("mouth" if column.is_mouth else f"part {column.name}", NEUTRAL)
        moved = matrix @ pose_matrix(pose, (place.x * box[0], place.y * box[1]), box[1])
        onto, drawn = drawing_matrix(place, sprite.registration, moved, box)
        key = (figure.name, column.name, sprite.set, sprite.number)
        yield Placed(key, sprite.picture, onto, drawn, bend=pose.bend)


def shown(scene: Scene, size: tuple[int, int], what: DrawnParts = DrawnParts.ALL, only: str = "") -> list[ShownPicture]:
    """Each visible picture with the frames that show it, from the back to the front."""
    order: list[Placed] = []
    spans: dict[Placed, list[tuple[int, int]]] = {}
    for start, end, drawn in segments(scene, size, what, only):
        for placed in drawn:
            if placed not in spans:
                order.append(placed)
                spans[placed] = []
            own = spans[placed]
            if own and own[-1][1] == start:
                own[-1] = (own[-1][0], end)
            else:
                own.append((start, end))
    rank = {figure.name: at for at, figure in enumerate(scene.drawn_figures)}
    columns = {(f.name, c.name): -at for f in scene.figures for at, c in enumerate(f.columns)}
    order.sort(key=lambda p: (rank[p.key[0]], columns.get(p.key[:2], -1000) if p.key[1] else -1000))
    return [ShownPicture(placed, tuple(spans[placed])) for placed in order]
