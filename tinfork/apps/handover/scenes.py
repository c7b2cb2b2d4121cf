"""Converting a shot of the database to the scene that exporters use."""

import functools
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from numpy.typing import NDArray

from tinfork.apps.cast.models import Character, Part
from tinfork.apps.cast.queries import head_of
from tinfork.apps.common.storage import StoredPicture, local_copy
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.layout import stands_of
from tinfork.apps.reading.models import Soundtrack
from tinfork.apps.reading.solving import (
    dials_of,
    drawings_of,
    named_reading,
    notes_of,
    other_parts,
    part_holds,
    part_key,
    pinned_classes,
    solution_of,
    solve_character,
    with_cast,
)
from tinfork.core.formats.picture_zip import AnyPicture, Picture
from tinfork.core.motion.curve import FrameKey
from tinfork.core.scene.boil import Boil
from tinfork.core.scene.layout import Stand
from tinfork.core.scene.scene import Column, Face, Figure, Ground, Scene, Sprite, on_top
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.weights import viseme_weights
from tinfork.core.soundtrack.keys import FACE, HEAD, MOUTH, MotionColumn, column_keys, frame_keys
from tinfork.engines.mixing import write_mix


def scene_of(shot: Shot, sound: Path | None = None, version: str = "") -> Scene:
    """The scene of a shot that has been read; `sound` is a file with its sound."""
    with_cast(shot)
    production, rate = shot.production, shot.production.rate
    stands = stands_of(shot)
    background = shot.background.name or ""
    return Scene(
        production.name,
        shot.name,
        rate,
        named_reading(shot),
        tuple(_figure(shot, character, stands[character.pk]) for character in shot.characters),
        rate.frames_in(shot.soundtrack.duration_us),
        shot.first_frame,
        (production.width, production.height),
        Ground(shot.ground, StoredPicture(background) if background else None),
        notes_of(shot),
        sound,
        version or _version_of(shot.soundtrack),
        boil=Boil.from_dict(shot.boil),
    )


def _version_of(soundtrack: Soundtrack) -> str:
    """The name of a shot's state: its newest version, with “+” if it was changed since."""
    newest = soundtrack.versions.first()
    if newest is None:
        return ""
    return newest.name if newest.document == soundtrack.document else f"{newest.name} +"


def _figure(shot: Shot, character: Character, stand: Stand) -> Figure:
    mouth = character.mouth
    picture: AnyPicture = Picture(head_of(character).encode(), ".svg")
    if character.face:
        picture = StoredPicture(character.face.name or "")
    face = Face(picture, character.face_aspect, mouth.placement, tracings=_pictures(character.face_tracings))
    moves = functools.partial(_motion, shot, character)
    columns = [_column(mouth, solve_character(shot, character, shot.soundtrack.reading), moves(MOUTH))]
    others = [part for part in other_parts(shot) if part.character_id == character.pk]
    columns += [_column(part, part_holds(shot, part), moves(part_key(part))) for part in others]
    columns.sort(key=on_top)
    return Figure(
        character.name,
        character.ink,
        face,
        tuple(columns),
        stand,
        faces=_faces_of_sets(character),
        weights=functools.partial(_weights, shot, character),
        chart=mouth.charts.all()[0].content,
        dials=dials_of(shot, character),
        has_face=bool(character.face),
        head_motion=moves(HEAD),
        face_motion=moves(FACE),
    )


def _faces_of_sets(character: Character) -> dict[str, Face]:
    """The own faces of sets of mouths, by set."""
    mouth, out = character.mouth, {}
    for at, chart in enumerate(mouth.charts.all()):
        if chart.face:
            others = [part for part in character.parts.all() if not part.speaks]
            own = chart.placement_of(mouth) or mouth.placement
            places = {part.name: chart.placement_of(part) for part in others}
            picture, tracings = StoredPicture(chart.face.name or ""), _pictures(chart.face_tracings)
            out[chart.name if at else ""] = Face(picture, chart.face_aspect, own, places, tracings)
    return out


def _pictures(keys: list[str]) -> tuple[StoredPicture, ...]:
    return tuple(map(StoredPicture, keys))


def _motion(shot: Shot, character: Character, part: str) -> tuple[FrameKey, ...]:
    keys = column_keys(shot.soundtrack.content, MotionColumn(str(character.pk), part))
    return frame_keys(keys, shot.production.rate)


def _column(part: Part, holds: tuple[Hold, ...], motion: tuple[FrameKey, ...]) -> Column:
    sprites = {
        key: Sprite(
            d.number,
            key[0],
            d.name,
            d.registration,
            StoredPicture(d.picture.name or ""),
            d.key,
            tuple(d.shows),
            d.size,
            d.is_hidden,
            _pictures(d.tracings),
        )
        for key, d in drawings_of(part).items()
    }
    return Column(part.name, part.placement, sprites, holds, part.kind, part.charts.all()[0].name, motion)


def _weights(shot: Shot, character: Character) -> NDArray[np.float64]:
    worked = solution_of(shot, character, shot.soundtrack.reading)
    frames = len(worked.problem.costs)
    return viseme_weights(worked.segments, worked.rate, frames, worked.dials, pinned_classes(shot, character))


@contextmanager
def sound_of(shot: Shot, beat: Callable[[], None] = lambda: None) -> Iterator[Path]:
    """The shot's sound without levelling, exactly as long as its frames: a temporary WAV file."""
    soundtrack: Soundtrack = shot.soundtrack
    rate = shot.production.rate
    whole = replace(soundtrack.content, length_us=rate.first_us(rate.frames_in(soundtrack.duration_us)))
    with TemporaryDirectory(prefix="tinfork-") as folder, ExitStack() as stack:
        paths = {t.pk: stack.enter_context(local_copy(t.listening)) for t in soundtrack.takes.all()}
        wav = Path(folder) / "sound.wav"
        write_mix(whole, paths, wav, beat=beat)
        yield wav
