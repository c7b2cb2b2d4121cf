"""Whether an export is still up to date."""

import hashlib

from tinfork.apps.handover.scenes import scene_of
from tinfork.apps.produce.models import Shot
from tinfork.core.formats.reading_json import of_scene


def look_of(shot: Shot) -> str:
    """A hash of everything that exports of a shot depend on: words, mouths, pictures, sound."""
    scene = scene_of(shot)
    columns = [(figure, column) for figure in scene.figures for column in figure.columns]
    pictures = [
        (figure.face, column.place, [(key, s.registration, s.picture) for key, s in sorted(column.sprites.items())])
        for figure, column in columns
    ]
    sound = [(c.take, c.start_us, c.in_us, c.length_us, c.gain_db) for c in shot.soundtrack.content.clips]
    parts = of_scene(scene), repr((scene.ground, pictures, sound))
    return hashlib.sha256(parts[0] + parts[1].encode()).hexdigest()[:20]
