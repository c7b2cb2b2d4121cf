"""Input for proposals of acting in a shot."""

from tinfork.apps.cast.models import Character, Part
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.layout import stands_of
from tinfork.apps.reading.solving import loudness_of, other_parts, part_key
from tinfork.apps.reference.models import Reference
from tinfork.core.commands.declared import FollowedFilm
from tinfork.core.motion.acting import propose, usual_amounts
from tinfork.core.motion.following import FaceColumns, Kind
from tinfork.core.motion.stage import Stage
from tinfork.core.soundtrack.keys import FACE, HEAD, MOUTH, perform
from tinfork.core.soundtrack.model import Soundtrack
from tinfork.core.soundtrack.project import reading_of
from tinfork.core.speech.reading import Reading

#: The kinds of parts that can follow a face, and how.
_FOLLOWING: dict[Part.Kind, Kind] = {
    Part.Kind.EYES: "eyes",
    Part.Kind.PUPILS: "pupils",
    Part.Kind.BROWS: "brows",
}


def with_acting(shot: Shot, st: Soundtrack) -> Soundtrack:
    """A shot's soundtrack with the default acting proposed for all its characters."""
    reading = reading_of(st)
    for character in shot.characters:
        gestures = propose(stage_of(shot, character, reading), usual_amounts(), 100, character.pk)
        st = perform(st, str(character.pk), shot.production.rate, gestures)
    return st


def face_of(shot: Shot, character: Character) -> FaceColumns:
    """The columns of a character that can follow a face in a film."""
    kinds: dict[str, Kind] = {HEAD: "head", FACE: "face", MOUTH: "mouth"}
    for part in other_parts(shot):
        if part.character_id == character.pk and (kind := _FOLLOWING.get(Part.Kind(part.kind))):
            kinds[part_key(part)] = kind
    return FaceColumns(kinds, stands_of(shot)[character.pk].is_mirrored)


def films_of(shot: Shot, number: int) -> dict[int, FollowedFilm]:
    """The shot's reference film by its key, if it has this key and was followed."""
    found = Reference.objects.filter(shot=shot, pk=number).exclude(face="").first()
    return {found.pk: FollowedFilm(found.track, found.begins_us)} if found else {}


def stage_of(shot: Shot, character: Character, reading: Reading | None = None) -> Stage:
    """The character, the parts of its face, what is heard, and on which side the others stand.

    `reading` is a new reading that the shot does not have yet.
    """
    soundtrack, rate = shot.soundtrack, shot.production.rate
    reading = reading or soundtrack.reading
    own = [part for part in other_parts(shot) if part.character_id == character.pk]
    stands = stands_of(shot)
    here = stands[character.pk]
    # In a mirrored figure, moves to the right appear as moves to the left.
    right = -1.0 if here.is_mirrored else 1.0
    sides = {str(who): right if one.x > here.x else -right for who, one in stands.items() if who != character.pk}
    return Stage(
        str(character.pk),
        reading,
        rate,
        rate.frames_in(reading.duration_us),
        loudness_of(soundtrack).levels(reading.duration_us),
        tuple(part_key(part) for part in own if part.kind == Part.Kind.EYES),
        tuple(part_key(part) for part in own if part.kind == Part.Kind.BROWS),
        sides,
        tuple(part_key(part) for part in own if part.kind == Part.Kind.PUPILS),
    )
