"""Characters for a shot outside the database: from a character's archive, or with the starter chart."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.formats.character_zip import PackedPart
from tinfork.core.formats.picture_zip import Picture
from tinfork.core.mouths.chart import Chart
from tinfork.core.mouths.draw import HEIGHT, WIDTH
from tinfork.core.mouths.placement import Placement, Registration
from tinfork.core.mouths.starter import STARTER, starter_pictures
from tinfork.core.scene.heads import plain_head
from tinfork.core.scene.scene import Column, Face, Figure, Sprite, on_top
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.solver.solve import pinned_holds, solve_incrementally
from tinfork.core.solver.weights import viseme_weights
from tinfork.core.speech.reading import Reading
from tinfork.engines.characters import PreparedCharacter, PreparedFace, PreparedSet

#: The key of holds: the names of the character and the part, "" for the mouth.
Tracks = Mapping[tuple[str, str], tuple[Hold, ...]]


def starter_figure(name: str, ink: int, reading: Reading, rate: FrameRate, tracks: Tracks) -> Figure:
    """A character with the starter chart and a plain head."""
    place = Placement(0.5, 0.63, 0.52, 1.0)
    pictures = starter_pictures()
    sprites = {
        ("", d.number): Sprite(
            d.number,
            "",
            d.name,
            Registration.centred(WIDTH, HEIGHT),
            Picture(pictures[d.number].encode(), ".svg"),
            shows=d.shows,
        )
        for d in STARTER.drawings
    }
    face = Face(Picture(plain_head(ink, place).encode(), ".svg"), place.aspect, place)
    column = Column("mouth", place, sprites, ())
    return _solved(Figure(name, ink, face, (column,), has_face=False), reading, rate, tracks)


def packed_figure(prepared: PreparedCharacter, name: str, reading: Reading, rate: FrameRate, tracks: Tracks) -> Figure:
    """A character from an archive, with its name in the shot."""
    packed, sets = prepared.packed, iter(prepared.sets)
    columns = [_column(part, [next(sets) for _ in part.sets]) for part in packed.parts]
    columns.sort(key=on_top)
    mouth = columns[0].place
    if prepared.face:
        data, suffix, aspect = prepared.face
        traced = _pictures(prepared.face_tracings)
        face = Face(Picture(data, suffix), aspect, replace(mouth, aspect=aspect), tracings=traced)
        columns = [replace(column, place=replace(column.place, aspect=aspect)) for column in columns]
    else:
        has_eyes = any(part.kind == "eyes" for part in packed.parts)
        head = plain_head(packed.ink, mouth, with_eyes=not has_eyes)
        face = Face(Picture(head.encode(), ".svg"), mouth.aspect, mouth)
    faces = _faces_of_sets(prepared, mouth)
    figure = Figure(name, packed.ink, face, tuple(columns), faces=faces, has_face=prepared.face is not None)
    return _solved(figure, reading, rate, tracks)


def _faces_of_sets(prepared: PreparedCharacter, mouth: Placement) -> dict[str, Face]:
    """The faces of sets of mouths that have their own, by set."""
    out: dict[str, Face] = {}
    speaking = next(part for part in prepared.packed.parts if part.kind == "mouth")
    for at, one in enumerate(one for one in prepared.sets if one.kind == "mouth"):
        if one.face is None or one.packed.face is None:
            continue
        data, suffix, aspect = one.face
        places = {name: place and replace(place, aspect=aspect) for name, place in one.packed.face.places.items()}
        own = places.pop(speaking.name, None) or replace(mouth, aspect=aspect)
        traced = _pictures(one.face_tracings)
        out[one.packed.name if at else ""] = Face(Picture(data, suffix), aspect, own, places, traced)
    return out


def _pictures(faces: Sequence[PreparedFace]) -> tuple[Picture, ...]:
    return tuple(Picture(data, suffix) for data, suffix, _ in faces)


def _column(part: PackedPart, prepared: list[PreparedSet]) -> Column:
    sprites = {}
    for one in prepared:
        set_name = "" if one is prepared[0] else one.packed.name
        for row, picture, traced in zip(one.packed.drawings, one.drawings, one.tracings, strict=True):
            d = row.drawing
            at = Registration(picture.width, picture.height, row.canvas, *row.point, *row.offset)
            data = Picture(picture.data, picture.suffix)
            sprites[set_name, d.number] = Sprite(
                d.number,
                set_name,
                d.name,
                at,
                data,
                row.key,
                d.shows,
                d.size,
                row.hidden,
                tuple(Picture(tracing.data, tracing.suffix) for tracing in traced),
            )
    return Column(part.name, part.place, sprites, (), part.kind, part.sets[0].name)


def chart_of(column: Column, set_name: str = "") -> Chart:
    """The chart of a set, without hidden drawings.

    Raises
    ------
    ChartError
        Where it cannot speak.
    """
    return Chart(tuple(s.drawing for key, s in column.sprites.items() if key[0] == set_name and not s.is_hidden))


def _solved(figure: Figure, reading: Reading, rate: FrameRate, tracks: Tracks) -> Figure:
    """The figure with known holds, and others solved."""
    chart, dials = chart_of(figure.mouth), figure.dials
    frames = rate.frames_in(reading.duration_us)
    columns = []
    for column in figure.columns:
        known = tracks.get((figure.name, "" if column.is_mouth else column.name), ())
        if any(h.drawing != NO_MOUTH and (h.set, h.drawing) not in column.sprites for h in known):
            # The holds were made for other drawings: solve with these.
            known = ()
        if not known and column.is_mouth:
            known = solve_incrementally(reading, chart, rate, speaker=figure.name, dials=dials).holds
        elif not known and column.sprites:
            known = pinned_holds((), frames, min(column.sprites)[1])
        columns.append(replace(column, holds=known))
    weights = partial(_weights, reading, chart, rate, figure.name, dials)
    return replace(figure, columns=tuple(columns), chart=chart, weights=weights)


def _weights(reading: Reading, chart: Chart, rate: FrameRate, speaker: str, dials: Dials) -> NDArray[np.float64]:
    worked = solve_incrementally(reading, chart, rate, speaker=speaker, dials=dials)
    return viseme_weights(worked.segments, rate, len(worked.problem.costs), dials)
