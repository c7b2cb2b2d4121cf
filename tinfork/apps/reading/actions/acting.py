"""What a character's acting is proposed from, in a shot."""

from tinfork.apps.cast.models import Character, Part
from tinfork.apps.produce.models import Shot
from tinfork.apps.reading.actions.layout import stands_of
from tinfork.apps.reading.solving import loudness_of, other_parts, part_key
from tinfork.core.motion.acting import Stage


def stage_of(shot: Shot, character: Character) -> Stage:
    """The character, the parts of its face, what is heard, and on which side the others stand."""
    soundtrack, rate = shot.soundtrack, shot.production.rate
    reading = soundtrack.reading
    own = [part for part in other_parts(shot) if part.character_id == character.pk]
    stands = stands_of(shot)
    here = stands[character.pk].x
    sides = {str(who): 1.0 if stand.x > here else -1.0 for who, stand in stands.items() if who != character.pk}
    return Stage(
        str(character.pk),
        reading,
        rate,
        rate.frames_in(reading.duration_us),
        loudness_of(soundtrack).levels(reading.duration_us),
        tuple(part_key(part) for part in own if part.kind == Part.Kind.EYES),
        tuple(part_key(part) for part in own if part.kind == Part.Kind.BROWS),
        sides,
    )
